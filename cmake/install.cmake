# What a C program needs to use the library: headers, archives, pkg-config and CMake packages; the
# command's data; docs and licence.
include(CMakePackageConfigHelpers)
set(PARTS bootlace_core bootlace_drive bootlace_pins bootlace_posix bootlace_sim)
# Headers of the ports stand as <sim/sim_bench.h>, the way the examples include them.
install(DIRECTORY ports/pins ports/posix ports/sim DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/bootlace-ports
  FILES_MATCHING PATTERN "*.h")
install(TARGETS ${PARTS} EXPORT bootlace-targets)
install(DIRECTORY include/bootlace DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(EXPORT bootlace-targets NAMESPACE bootlace:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
configure_package_config_file(cmake/bootlace-config.cmake.in ${CMAKE_BINARY_DIR}/bootlace-config.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
write_basic_package_version_file(${CMAKE_BINARY_DIR}/bootlace-config-version.cmake
  COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_BINARY_DIR}/bootlace-config.cmake ${CMAKE_BINARY_DIR}/bootlace-config-version.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
# The .pc files find their prefix from where they lie, so an installed tree may be moved.
file(RELATIVE_PATH BOOTLACE_PC_PREFIX /p/${CMAKE_INSTALL_LIBDIR}/pkgconfig /p)
foreach(package bootlace bootlace-ports)
  configure_file(cmake/${package}.pc.in ${CMAKE_BINARY_DIR}/${package}.pc @ONLY)
  install(FILES ${CMAKE_BINARY_DIR}/${package}.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
endforeach()
install(DIRECTORY sheets firmware examples DESTINATION ${CMAKE_INSTALL_DATADIR}/bootlace
  PATTERN "out" EXCLUDE PATTERN "state" EXCLUDE)
install(DIRECTORY docs/ DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(FILES README.md LICENSE CHANGELOG.md DESTINATION ${CMAKE_INSTALL_DOCDIR})

# What a C program needs to use the library: headers, the archive, pkg-config and CMake packages.
include(CMakePackageConfigHelpers)
install(TARGETS bootlace_core EXPORT bootlace-targets)
install(DIRECTORY include/bootlace DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(EXPORT bootlace-targets NAMESPACE bootlace:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
configure_package_config_file(cmake/bootlace-config.cmake.in ${CMAKE_BINARY_DIR}/bootlace-config.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
write_basic_package_version_file(${CMAKE_BINARY_DIR}/bootlace-config-version.cmake
  COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_BINARY_DIR}/bootlace-config.cmake ${CMAKE_BINARY_DIR}/bootlace-config-version.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/bootlace)
# The .pc file finds its prefix from where it lies, so an installed tree may be moved.
file(RELATIVE_PATH BOOTLACE_PC_PREFIX /p/${CMAKE_INSTALL_LIBDIR}/pkgconfig /p)
configure_file(cmake/bootlace.pc.in ${CMAKE_BINARY_DIR}/bootlace.pc @ONLY)
install(FILES ${CMAKE_BINARY_DIR}/bootlace.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
install(DIRECTORY sheets firmware examples DESTINATION ${CMAKE_INSTALL_DATADIR}/bootlace
  PATTERN "out" EXCLUDE PATTERN "state" EXCLUDE)

# bootlace_embed(OUTPUT TABLE COUNT HEADER FILES...): a C file with the contents of FILES as byte
# arrays and a table of them, named FOLDER/NAME for firmware and NAME for sheets, without ending,
# and FOLDER/FILE for examples.
function(bootlace_embed output table count header)
  string(REPLACE ";" "|" files "${ARGN}")
  add_custom_command(OUTPUT ${output} VERBATIM
    COMMAND ${CMAKE_COMMAND} -DOUTPUT=${output} -DTABLE=${table} -DCOUNT=${count} -DHEADER=${header}
            "-DFILES=${files}" -P ${PROJECT_SOURCE_DIR}/cmake/embed-script.cmake
    DEPENDS ${ARGN} ${PROJECT_SOURCE_DIR}/cmake/embed-script.cmake)
endfunction()

# bootlace_embed(OUTPUT TYPE NAME HEADER FILES...): a C file with the contents of FILES as byte arrays: NAME is a table
# of TYPE {name, bytes, size}, NAME_count how many; both are declared in HEADER. They are named FOLDER/NAME for
# firmware and NAME for sheets, without ending, and FOLDER/FILE for examples.
function(bootlace_embed output type name header)
  string(REPLACE ";" "|" files "${ARGN}")
  add_custom_command(OUTPUT ${output} VERBATIM
    COMMAND ${CMAKE_COMMAND} -DOUTPUT=${output} -DTYPE=${type} -DNAME=${name} -DHEADER=${header}
            "-DFILES=${files}" -P ${PROJECT_SOURCE_DIR}/cmake/embed-script.cmake
    DEPENDS ${ARGN} ${PROJECT_SOURCE_DIR}/cmake/embed-script.cmake)
endfunction()

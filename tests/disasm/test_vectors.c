/* Vectors as wide as the sheet's addresses, in its order, in one place for all who read them. */
#include <string.h>

#include "bootlace/vector.h"
#include "harness.h"

static void expect_target(const char *sheet_text, const char *source, uint32_t expected)
{
    bl_sheet *sheet = NULL;
    bl_program *p = NULL;
    uint32_t target = 0;
    CHECK_INT(bl_sheet_read(&test_memory, "t.sheet", (bl_text){sheet_text, strlen(sheet_text)},
                            NULL, &test_sink, &sheet),
              BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    CHECK_INT(bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, &p), BL_OK);
    CHECK(bl_vector_target(sheet, bl_sheet_vector(sheet, 0), bl_program_image(p), &target));
    CHECK_INT(target, expected);
    bl_program_close(p);
    bl_sheet_close(sheet);
}
#define expect_target(...) TEST_CALL(expect_target(__VA_ARGS__))

TEST(vectors_are_as_wide_as_addresses)
{
    expect_target("sheet t\naddress 24\nvector reset 8\nform NOP | 00 | 1\n",
                  " .vector reset, $123456\n", 0x123456);
    expect_target("sheet t\naddress 24\norder big\nvector reset 8\nform NOP | 00 | 1\n",
                  " .vector reset, $123456\n", 0x123456);
    expect_target("sheet t\naddress 16\norder big\nvector reset 8\nform NOP | 00 | 1\n",
                  " .vector reset, $1234\n", 0x1234);
}

TEST(a_vector_that_is_not_whole_leads_nowhere)
{
    bl_sheet *sheet = NULL;
    bl_program *p = NULL;
    uint32_t target = 0;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"65c02", 5}, &test_sink, &sheet), BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    CHECK_INT(bl_assemble_text(&o, "t.asm", (bl_text){" .org $FFFC\n nop\n", 17}, &p), BL_OK);
    for (size_t i = 0; i < bl_sheet_vectors(sheet); i++)
        CHECK(!bl_vector_target(sheet, bl_sheet_vector(sheet, i), bl_program_image(p), &target));
    bl_program_close(p);
    bl_sheet_close(sheet);
}

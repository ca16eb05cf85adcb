/* How memory differs from what was built: as instructions, and by its pattern. */
#include <string.h>

#include "host_support.h"
#include "project/difference.h"

static bench *b;
static project *p;
static bl_program *program;
static whereis names;
static bl_image *found;
static uint8_t bytes[0x400];
static size_t count;
static uint32_t first;

/* A program, and memory that holds it. */
static void set_up(const char *source)
{
    b = example_bench();
    test_write_file("own.asm", source);
    CHECK_INT(project_build(b, PROJECT_FIRMWARE, NULL, &test_sink, &p), BL_OK);
    if (project_assemble(p, test_path("own.asm"), NULL, &test_sink, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    names.count = 0;
    whereis_add(&names, program);
    bl_piece piece = bl_image_piece(bl_program_image(program), 0);
    CHECK(piece.count <= sizeof bytes);
    memcpy(bytes, piece.bytes, piece.count);
    count = piece.count;
    first = piece.first;
}

/* What is said of memory as it is now. */
static char *explained(void)
{
    CHECK_INT(bl_image_open(&host_memory, &found), BL_OK);
    CHECK_INT(bl_image_put(found, first, bytes, count, (bl_origin){0, 0}), BL_OK);
    GPtrArray *lines = difference_explain(b, &names, bl_program_image(program), found);
    g_ptr_array_add(lines, NULL);
    char *text = g_strjoinv("\n", (char **)lines->pdata);
    g_ptr_array_free(lines, TRUE);
    bl_image_close(found);
    return text;
}

static void tear_down(void)
{
    bl_program_close(program);
    project_close(p);
    bench_close(b);
}

static void expect_text(const char *part)
{
    char *text = explained();
    CHECK_CONTAINS(text, part);
    g_free(text);
}
#define expect_text(...) TEST_CALL(expect_text(__VA_ARGS__))

TEST(wrong_bytes_are_told_as_instructions)
{
    set_up(" .place program\nlight: ldx #0\n_step: lda $1234,x\n bne _step\ntext: .byte 1, 2, 3\n");
    char *text = explained();
    CHECK_TEXT(text, "");
    g_free(text);
    bytes[3] ^= 1;
    expect_text("light._step: LDA $1234,X was built, LDA $1235,X is there");
    bytes[5] = 0xF0;
    expect_text("light._step+3: BNE $0302 was built, BEQ $0302 is there");
    bytes[0] = 0x02; /* the 65C02 has no such instruction of its own */
    bytes[7] ^= 1;   /* data are no instruction */
    text = explained();
    CHECK_NOT_CONTAINS(text, "text");
    g_free(text);
    tear_down();
}

TEST(patterns_say_what_it_probably_is)
{
    uint8_t built[0x400];
    set_up(" .place program\nk: .repeat 512, I\n .byte (I * 7 + I / 3) & $FF\n .end\n");
    memcpy(built, bytes, sizeof built);
    for (size_t i = 0; i + 1 < count; i += 2) {
        bytes[i] = built[i + 1];
        bytes[i + 1] = built[i];
    }
    expect_text("each two bytes are the other way round");
    memcpy(bytes, built, sizeof built);
    for (size_t i = 200; i < count; i++)
        bytes[i] = (uint8_t)test_random();
    expect_text("only the first 200 of 512 bytes were loaded");
    for (size_t i = 0; i < count; i++)
        bytes[i] = built[i] & 0xEF;
    expect_text("D4");
    memmove(bytes + 1, built, count - 1);
    bytes[0] = 0;
    expect_text("shifted");
    tear_down();
}

TEST(a_stack_that_ran_into_it_is_recognised)
{
    set_up(" .org $0180\nk: .fill 64, $55\n");
    for (size_t i = 30; i < 60; i++)
        bytes[i] = (uint8_t)(0xA0 + i);
    expect_text("the stack ran into it");
    tear_down();
}

/* What the source of the disassembler looks like. */
#include "harness.h"

#include <string.h>

/* Assembles source, disassembles it, and returns the text. */
static const char *there_and_back(const char *cpu, const char *source,
                                  const bl_disasm_options *given)
{
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){cpu, strlen(cpu)}, &test_sink, &sheet), BL_OK);
    bl_asm_options a = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    if (bl_assemble_text(&a, "t", (bl_text){source, strlen(source)}, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_disasm_options o = *given;
    o.memory = test_memory;
    o.sheet = sheet;
    o.image = bl_program_image(program);
    test_written_clear();
    CHECK_INT(bl_disassemble(&o, NULL, &test_writer), BL_OK);
    bl_program_close(program);
    bl_sheet_close(sheet);
    return test_written(NULL);
}

static const bl_disasm_options plain = {.all_code = false};

TEST(code_is_told_from_data)
{
    const char *s = there_and_back("65c02",
                                   " .org $FF00\nstart: ldx #0\nloop: lda text,x\n beq done\n"
                                   " jsr put\n inx\n bra loop\ndone: jmp start\n"
                                   "text: .text \"Skerry light\" ending 0\n"
                                   "put: sta $8010\n rts\n .fill 30, $FF\n .byte 1,2,3\n"
                                   " .vector reset, start\n .vector irq, put\n",
                                   &plain);
    CHECK_CONTAINS(s, "at_FF00:\n        LDX #$00                    ; FF00  A2 00\n");
    CHECK_CONTAINS(s, "LDA at_FF10,X");
    CHECK_CONTAINS(s, "BEQ at_FF0D");
    CHECK_CONTAINS(s, "at_FF10:\n        .text \"Skerry light\"");
    CHECK_CONTAINS(s, "        .fill 30, $FF");
    CHECK_CONTAINS(s, "        .byte $01, $02, $03");
    CHECK_CONTAINS(s, "        .vector reset, at_FF00");
    CHECK_CONTAINS(s, "at_FF1D:\n        STA $8010");
}

TEST(names_are_used)
{
    static const bl_disasm_name names[] = {
        {{"lamps", 5}, 0x8010}, {{"start", 5}, 0x200}, {{"inner.x", 7}, 0x202}, {{"X", 1}, 0x203}};
    static const uint32_t entry = 0x200;
    bl_disasm_options o = {
        .names = names, .name_count = 4, .entries = &entry, .entry_count = 1, .title = "lamp.bin"};
    const char *s = there_and_back("6502", " .org $200\n lda #1\n sta $8010\n jmp $200\n", &o);
    CHECK_CONTAINS(s, "; lamp.bin: 8 bytes of code in 3 instructions, 0 of data\n");
    CHECK_CONTAINS(s, "lamps           = $8010\n");
    CHECK_CONTAINS(s, "start:\n        LDA #$01");
    CHECK_CONTAINS(s, "STA lamps");
    CHECK_CONTAINS(s, "JMP start");
    CHECK_NOT_CONTAINS(s, "inner.x");
}

TEST(what_the_assembler_would_write_otherwise_is_data)
{
    bl_disasm_options o = {.all_code = true};
    const char *s = there_and_back("6502", " .byte $AD,$12,$00, $AD,$12,$34\n", &o);
    CHECK_CONTAINS(s, ".byte $AD, $12, $00         ; 0000  AD 12 00  LDA $0012\n");
    CHECK_CONTAINS(s, "        LDA $3412                   ; 0003");
}

TEST(other_machines_in_their_own_words)
{
    static const uint32_t start = 0x80, origin = 0;
    bl_disasm_options o = {.entries = &start, .entry_count = 1};
    const char *s =
        there_and_back("gannet", " .org 200q\n add @300q\n do clr inc\n skip zero\n go 200q\n", &o);
    CHECK_CONTAINS(s, "at_0200:\n        ADD @0300q                  ; 0200  1700\n");
    CHECK_CONTAINS(s, "DO CLR,INC ");
    CHECK_CONTAINS(s, "GO at_0200");
    o.entries = &origin;
    s = there_and_back("z80", " ld a,(ix-3)\n set 7,(iy+2)\n ex af,af'\n rst 8\n jr $\n", &o);
    CHECK_CONTAINS(s, "LD A,(IX-3)");
    CHECK_CONTAINS(s, "SET 7,(IY+2)");
    CHECK_CONTAINS(s, "EX AF,AF'");
    CHECK_CONTAINS(s, "RST 8");
    s = there_and_back("6809", " pshs a,b,x\n leax 5,y\n lda [,--x]\n lbra 0\n", &o);
    CHECK_CONTAINS(s, "PSHS A,B,X");
    CHECK_CONTAINS(s, "LEAX 5,Y");
    CHECK_CONTAINS(s, "LDA [,--X]");
    s = there_and_back("ez80", " ld.lil hl,$123456\n call.is $1234\n", &o);
    CHECK_CONTAINS(s, "LD.LIL HL,$123456");
    CHECK_CONTAINS(s, "CALL.LIS $1234");
}

TEST(a_range_of_the_image)
{
    static const uint32_t entry = 0x102;
    bl_disasm_options o = {.range = {0x102, 2}, .entries = &entry, .entry_count = 1};
    const char *s = there_and_back("6502", " .org $100\n nop\n nop\n lda #5\n nop\n", &o);
    CHECK_CONTAINS(s, ".org $0102\n");
    CHECK_CONTAINS(s, "LDA #$05");
    CHECK_NOT_CONTAINS(s, "NOP");
}

/* ---- names from anywhere ---- */

static char long_name[3000];

TEST(names_that_the_assembler_does_not_take_are_left_out)
{
    static const char bytes[] = "\xA9\x05\x8D\x00\x03\x4C\x00\x02\x60\xEA\xEA\xEA";
    static const char *const texts[] = {"good", "good",   "a",       "x",         "here",
                                        "lo",   "sizeof", "9lives",  "two words", "dot.ted",
                                        "_own", "a-b",    "\x1b[2J", "",          "at_0205",
                                        "area", "LDA",    "mod",     "very_good", long_name};
    enum { NAMES = sizeof texts / sizeof texts[0] };
    bl_disasm_name names[NAMES];
    bl_sheet *sheet;
    bl_image *image;
    bl_program *program = NULL;
    memset(long_name, 'n', sizeof long_name - 1);
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"65c02", 5}, &test_sink, &sheet), BL_OK);
    for (unsigned turn = 0; turn < 40; turn++) {
        CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
        CHECK_INT(bl_image_put(image, 0x200, bytes, 12, (bl_origin){0, 0}), BL_OK);
        for (size_t i = 0; i < NAMES; i++)
            names[i] = (bl_disasm_name){{texts[i], strlen(texts[i])}, 0x1FE + test_below(16)};
        uint32_t entry = 0x200;
        bl_disasm_options o = {.memory = test_memory,
                               .sheet = sheet,
                               .image = image,
                               .names = names,
                               .name_count = NAMES,
                               .entries = &entry,
                               .entry_count = 1,
                               .all_code = turn % 2 == 0};
        test_written_clear();
        CHECK_INT(bl_disassemble(&o, NULL, &test_writer), BL_OK);
        size_t n;
        const char *text = test_written(&n);
        bl_asm_options a = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
        test_messages_clear();
        if (bl_assemble_text(&a, "back", (bl_text){text, n}, &program) != BL_OK)
            test_fail(__FILE__, __LINE__, "%s\n%s", test_messages(), text);
        uint8_t back[12];
        CHECK_INT(bl_image_copy(bl_program_image(program), 0x200, 12, 0, back), 12);
        CHECK_BYTES(back, 12, bytes, 12);
        bl_program_close(program);
        bl_image_close(image);
    }
    bl_sheet_close(sheet);
}

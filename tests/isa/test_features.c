/* What a sheet can say beyond whole bytes: units, bits, names, modes, suffixes, variants. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

static bl_sheet *sheet;
static char assembled[64];
static size_t assembled_count;

static bl_status read_sheet(const char *text)
{
    sheet = NULL;
    test_messages_clear();
    return bl_sheet_read(&test_memory, "s", (bl_text){text, strlen(text)}, NULL, &test_sink,
                         &sheet);
}

static void refuse(const char *text, const char *said)
{
    CHECK_INT(read_sheet(text), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), said);
}
#define refuse(...) TEST_CALL(refuse(__VA_ARGS__))

static bl_status assemble(const char *source)
{
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    bl_program *program = NULL;
    test_messages_clear();
    bl_status status = bl_assemble_text(&o, "t", (bl_text){source, strlen(source)}, &program);
    if (status != BL_OK) return status;
    bl_piece p = bl_image_piece(bl_program_image(program), 0);
    assembled_count = p.count;
    CHECK(p.count <= sizeof assembled);
    memcpy(assembled, p.bytes, p.count);
    bl_program_close(program);
    return BL_OK;
}

static void expect(const char *source, const char *bytes, size_t count)
{
    if (assemble(source) != BL_OK)
        test_fail(__FILE__, __LINE__, "'%s': %s", source, test_messages());
    CHECK_BYTES(assembled, assembled_count, bytes, count);
}
#define expect(...) TEST_CALL(expect(__VA_ARGS__))

TEST(bits_of_operands)
{
    CHECK_INT(read_sheet("sheet s\norder big\noperand r oneof X=0 Y=1 Z=2\noperand a number 12\n"
                         "operand k signed 4\nform MV r:d,r:s | 1010ddss | 1\n"
                         "form GO a | 1111aaaa aaaaaaaa | 2\nform ADD k | 0001kkkk | 1\n"),
              BL_OK);
    expect(" mv z,y\n go $ABC\n add -3\n", "\xA9\xFA\xBC\x1D", 4);
    CHECK_INT(assemble(" add 8\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "8 does not fit into 4 bits: -8 to 7");
    CHECK_INT(assemble(" go $1000\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "4096 is not 0 to 4095");
    CHECK_INT(assemble(" mv z,w\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "MV has no such operand");
    bl_sheet_close(sheet);
}

TEST(units_of_four_and_of_twelve_bits)
{
    CHECK_INT(read_sheet("sheet s\nunit 4\naddress 12\norder big\noperand to address 12\n"
                         "form JMP to | 4 to | 1\nform NOP | 0 | 1\n"),
              BL_OK);
    expect(" nop\n jmp $123\n .byte $AB\n .word $1234\n",
           "\x00\x04\x01\x02\x03\x0A\x0B\x01\x02\x03\x04", 11);
    bl_sheet_close(sheet);
    CHECK_INT(read_sheet("sheet s\nunit 12\nword 12\norder little\naddress 12\nradix octal\n"
                         "operand z address 7\noperand p page 7\n"
                         "form A z | 00100zzzzzzz | 1\nform A p | 00101ppppppp | 1\n"),
              BL_OK);
    expect(" .org 200q\n a 5\n a 205q\n .word 7654q, -1\n .triple $ABCDEF\n",
           "\x05\x02\x85\x02\xAC\x0F\xFF\x0F\xEF\x0D\xBC\x0A", 12);
    CHECK_INT(assemble(" .org 200q\n a 400q\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "0o0400 is not on this instruction's page of 128");
    CHECK_INT(assemble(" .word 10000q\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "does not fit into 12 bits");
    bl_sheet_close(sheet);
}

TEST(lists_of_names)
{
    CHECK_INT(read_sheet("sheet s\noperand m anyof CLR=$80 NOT=$20 INC=1\n"
                         "operand q anyof NEG=$40 ZERO=$10\nform DO m | 01 m | 1\n"
                         "form DO q | 02 q | 1\nform DO | 03 | 1\n"),
              BL_OK);
    expect(" do clr inc\n do inc,not , clr ; all\n do zero\n do\n", "\x01\x81\x01\xA1\x02\x10\x03",
           7);
    CHECK_INT(assemble(" do clr zero\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "DO has no such operand");
    bl_sheet_close(sheet);
}

TEST(numbers_that_are_part_of_a_form)
{
    CHECK_INT(read_sheet("sheet s\noperand n value 8\nform IM 0 | 10 | 1\nform IM $1 | 11 | 1\n"
                         "form SET n | 20 n | 1\nform SET 7 | 21 | 1\n"),
              BL_OK);
    expect(" im 0\n im one\n set 6\n set 7\none = 1\n", "\x10\x11\x20\x06\x21", 5);
    CHECK_INT(assemble(" im 2\n"), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "2 is not possible here");
    CHECK_CONTAINS(test_messages(), "it takes 0 $1");
    bl_sheet_close(sheet);
}

TEST(modes_and_suffixes_make_forms)
{
    CHECK_INT(read_sheet("sheet s\nreserved X\noperand n value 8\noperand w value 16\n"
                         "operand v value 24\nsuffix .W | 40 | n=w\nsuffix .V also | 40 |\n"
                         "mode any #n | 00 n | 1\nmode any ,X+ | 01 | 2\n"
                         "form LD any | A0 any | 3\nalso GET any | A0 any | 3\n"),
              BL_OK);
    expect(" ld #5\n ld ,x+\n ld.w #$1234\n get.w ,X+\n",
           "\xA0\x00\x05\xA0\x01\x40\xA0\x00\x34\x12"
           "\x40\xA0\x01",
           13);
    const bl_spelling *w =
        bl_sheet_find(sheet, (uint16_t)bl_sheet_find_mnemonic(sheet, (bl_text){"LD", 2}),
                      (const uint8_t *)",X+", 3);
    CHECK(w != NULL);
    CHECK_INT(bl_sheet_form(sheet, w->form)->cycles, 5);
    CHECK_INT(bl_sheet_rows(sheet), 2);
    bl_sheet_close(sheet);
}

TEST(a_sheet_settles_before_it_takes)
{
    CHECK_INT(read_sheet("sheet wide\naddress 24\noperand addr address 24\ntakes z80\n"
                         "remove NOP\nremove LD r:d,r:s | HALT\nform ZAP | 00 | 1\n"),
              BL_OK);
    CHECK_INT(bl_sheet_address_bits(sheet), 24);
    CHECK_INT(bl_sheet_find_mnemonic(sheet, (bl_text){"NOP", 3}), -1);
    expect(" zap\n jp $123456\n ld a,(5)\n", "\x00\xC3\x56\x34\x12\x3A\x05\x00\x00", 9);
    CHECK_INT(assemble(" ld b,c\n"), BL_E_SYNTAX);
    bl_sheet_close(sheet);
}

TEST(faults)
{
    refuse("sheet s\noperand n number 4\nform A n | 000nnnnn | 1\n",
           "operand 'n' has 4 bits, its letters 5");
    refuse("sheet s\nform A | 000nnnnn | 1\n", "these bits belong to no operand");
    refuse("sheet s\noperand r oneof\n", "no choices");
    refuse("sheet s\noperand r oneof A\n", "a name and its code");
    refuse("sheet s\nunit 3\n", "4 to 16");
    refuse("sheet s\nform A | 00 | 1\nunit 4\n", "before the first form");
    refuse("sheet s\nremove NOP\n", "there is no such form");
    refuse("sheet s\njumps\n", "which form?");
    refuse("sheet s\nsuffix W | 40 |\n", "a dot, a name and a code");
    refuse("sheet s\nmode m A\n", "a mode has three columns");
    refuse("sheet s\nreserved X\nmode m X | 00 | 1\nform A m | 01 | 1\n",
           "mode 'm' is not in the code column");
    refuse("sheet s\noperand r oneof A=0 B=1\nreserved C\nform L r | 0000000r | 1\n"
           "form L A | 10 | 1\n",
           "written alike");
    refuse("sheet s\noperand r oneof A=0 B=2\nform L r | 000000rr | 1\nform M | 02 | 1\n",
           "'M' is encoded alike on line 3, 'L r'");
    /* The third value of the field means nothing, so it is free. */
    CHECK_INT(read_sheet("sheet s\noperand r oneof A=0 B=2\nform L r | 000000rr | 1\n"
                         "form M | 03 | 1\n"),
              BL_OK);
    bl_sheet_close(sheet);
}

TEST(decoding_shares_what_any_operand_leads_to)
{
    /* The third unit tells, behind an operand that may be anything; a later form takes one value of
     * that operand for itself. */
    CHECK_INT(read_sheet("sheet s\noperand d number 8\nform A d | CB d 01 | 1\n"
                         "form B d | CB d 02 | 1\nform C | CB 05 03 | 1\n"),
              BL_OK);
    for (unsigned d = 0; d < 256; d++) {
        bl_decoded out;
        uint16_t units[3] = {0xCB, (uint16_t)d, 1};
        CHECK(bl_sheet_decode(sheet, units, 3, &out));
        CHECK_INT(out.value[0], d);
        units[2] = 3;
        CHECK_INT(bl_sheet_decode(sheet, units, 3, &out), d == 5);
        CHECK(!bl_sheet_decode(sheet, units, 2, &out));
    }
    bl_sheet_close(sheet);
}

TEST(a_sheet_that_would_take_too_much_memory)
{
    static char text[60000];
    char *p = text + sprintf(text, "sheet s\nunit 16\naddress 16\n");
    for (unsigned i = 0; i < 600; i++)
        p += sprintf(p, "form A%u | %04X 0001 | 1\n", i, i);
    refuse(text, "too many forms");
}

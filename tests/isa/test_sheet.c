/* Reading sheets: what a sheet may say, and exact complaints about what it may not. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

static const char head[] = "sheet   tiny\n"
                           "title   \"four instructions\"\n"
                           "order   big\n"
                           "address 16\n"
                           "reserved A\n"
                           "vector  start $FFFE needed\n"
                           "operand n8  value   8\n"
                           "operand a16 address 16\n"
                           "operand near relative 8\n"
                           "extra   p \"now and then\"\n";

static bl_status read_sheet(const char *body, bl_sheet **sheet)
{
    static char text[4096];
    strcpy(text, head);
    strcat(text, body);
    *sheet = NULL;
    test_messages_clear();
    return bl_sheet_read(&test_memory, "tiny.sheet", (bl_text){text, strlen(text)}, NULL,
                         &test_sink, sheet);
}

static void refuse(const char *body, const char *said)
{
    bl_sheet *sheet;
    CHECK_INT(read_sheet(body, &sheet), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), said);
}
#define refuse(...) TEST_CALL(refuse(__VA_ARGS__))

TEST(a_small_sheet_drives_the_assembler)
{
    bl_sheet *sheet;
    CHECK_INT(read_sheet("form ADD #n8   | 10 n8   | 2\nform ADD A     | 11      | 1\nform GO a16  "
                         "   | 20 a16 | 3 +p\nform HOP near | 30 near | 2 ; comment\n",
                         &sheet),
              BL_OK);
    CHECK_INT(bl_sheet_order(sheet), BL_BIG);
    CHECK_INT(bl_sheet_forms(sheet), 4);
    CHECK_INT(bl_sheet_form(sheet, 2)->extras, 1);
    CHECK(bl_sheet_vector(sheet, 0)->needed);
    static const char source[] = "x: add #7\n add a\n go $1234\n hop x\n .word $ABCD\n";
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    bl_program *program;
    CHECK_INT(bl_assemble_text(&o, "t", (bl_text){source, sizeof source - 1}, &program), BL_OK);
    bl_piece p = bl_image_piece(bl_program_image(program), 0);
    CHECK_BYTES(p.bytes, p.count, "\x10\x07\x11\x20\x12\x34\x30\xF8\xAB\xCD", 10);
    bl_program_close(program);
    bl_sheet_close(sheet);
}

TEST(faults_of_a_sheet_are_told_with_their_lines)
{
    refuse("form ADD #n8 | 10 n8 | 2\nform SUB #n8 | 10 n8 | 2\n",
           "tiny.sheet:12:6: error: 'SUB #n8' is encoded alike on line 11, 'ADD #n8'");
    refuse("form ADD #n8 | 10 n8 | 2\nform ADD #n8 | 12 n8 | 2\n", "written alike on line 11");
    refuse("form ADD #n8 | 10 | 2\n", "an operand is not encoded");
    refuse("form ADD A | 10 n8 | 2\n", "does not occur in what is written");
    refuse("form ADD Q | 10 | 2\n", "unknown operand");
    refuse("form ADD A | 1 | 2\n", "not a code");
    refuse("form ADD A | 10\n", "three columns");
    refuse("form ADD A | 10 | x\n", "a number from 0 to 255");
    refuse("form ADD A | 10 | 2 +q\n", "not an extra cycle");
    refuse("form ABCDEFGHIJK A | 10 | 2\n", "1 to 10 letters");
    refuse("operand ad value 8\n", "would read as a code");
    refuse("operand b12 value 12\nform ADD b12 | 10 b12 | 1\n", "12 bits do not fill units of 8");
    refuse("operand x fancy 8\n", "unknown class");
    refuse("order middle\n", "little or big");
    refuse("colour red\n", "unknown keyword");
    refuse("vector nmi $FFFA always\n", "unknown word");
    refuse("title no quotes\n", "double quotes");
    refuse("takes 6502\nform A1 A | 10 | 2\ntakes 6502\n", "'takes' comes first");
    refuse("takes nothing\n", "no sheet has this name");
    refuse("address 64\n", "0 to 32");
}

TEST(several_faults_are_all_told)
{
    bl_sheet *sheet;
    CHECK_INT(read_sheet("colour red\nform ADD | 10\norder x\n", &sheet), BL_E_SYNTAX);
    CHECK_INT(test_error_count(), 3);
}

TEST(a_sheet_takes_another_and_replaces_forms)
{
    static const char text[] = "sheet mine\ntakes 65c02\nform NOP | EA | 9\nform ZAP | 02 | 1\n";
    bl_sheet *sheet;
    CHECK_INT(bl_sheet_read(&test_memory, "mine", (bl_text){text, sizeof text - 1}, NULL,
                            &test_sink, &sheet),
              BL_OK);
    bl_text name = bl_sheet_name(sheet);
    CHECK(name.length == 4 && memcmp(name.at, "mine", 4) == 0);
    static const char *const chain[] = {"65c02", "6502"};
    for (size_t i = 0; i < 2; i++)
        CHECK(bl_sheet_taken(sheet, i).length == strlen(chain[i]) &&
              memcmp(bl_sheet_taken(sheet, i).at, chain[i], strlen(chain[i])) == 0);
    CHECK(bl_sheet_taken(sheet, 2).at == NULL && bl_sheet_taken(sheet, 1000).at == NULL);
    int32_t nop = bl_sheet_find_mnemonic(sheet, (bl_text){"nop", 3});
    const bl_spelling *w = bl_sheet_find(sheet, (uint16_t)nop, NULL, 0);
    CHECK_INT(bl_sheet_form(sheet, w->form)->cycles, 9);
    CHECK(bl_sheet_find_mnemonic(sheet, (bl_text){"Zap", 3}) >= 0);
    bl_sheet_close(sheet);
}

static bl_status endless(void *context, bl_text name, bl_text *text)
{
    (void)context, (void)name;
    *text = (bl_text){"takes again\n", 12};
    return BL_OK;
}

TEST(sheets_that_take_each_other_end)
{
    bl_sheet_source source = {NULL, endless};
    bl_sheet *sheet;
    CHECK_INT(bl_sheet_read(&test_memory, "m", (bl_text){"takes again\n", 12}, &source, &test_sink,
                            &sheet),
              BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "sheets deep");
}

TEST(unknown_cpus_get_the_list)
{
    bl_sheet *sheet;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"8008", 4}, &test_sink, &sheet),
              BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "65c02");
}

TEST(random_sheets_never_crash)
{
    static const char *const bits[] = {
        "form ", "also ", "ADD ",     "#n8",          " | ",    "10",  "n8", "a16",     "\n",
        "2",     "+p",    "operand ", "value ",       "8",      ";",   "\"", "vector ", "reserved ",
        "$",     ",",     "(",        "takes 6502\n", "order ", "big", "\t", "\xFF"};
    for (unsigned i = 0; i < 3000; i++) {
        char text[256] = "";
        for (unsigned n = test_below(20); n > 0; n--)
            strcat(text, bits[test_below(sizeof bits / sizeof bits[0])]);
        bl_sheet *sheet;
        if (read_sheet(text, &sheet) == BL_OK)
            bl_sheet_close(sheet);
        else
            CHECK(test_error_count() > 0);
    }
}

TEST(every_allocation_may_fail)
{
    for (long nth = 1;; nth++) {
        bl_sheet *sheet = NULL;
        test_memory_fail_at(nth);
        bl_status status = bl_sheet_open(&test_memory, (bl_text){"65c02", 5}, NULL, &sheet);
        if (!test_memory_failed()) {
            CHECK_INT(status, BL_OK);
            bl_sheet_close(sheet);
            break;
        }
        CHECK_INT(status, BL_E_MEMORY);
    }
}

/* ---- sheets from anywhere ---- */

static bl_status read_hostile(const char *text, size_t length)
{
    bl_sheet *sheet = NULL;
    test_messages_clear();
    bl_status status =
        bl_sheet_read(&test_memory, "x.sheet", (bl_text){text, length}, NULL, &test_sink, &sheet);
    bl_sheet_close(sheet);
    return status;
}

TEST(names_and_lines_have_a_length)
{
    static char text[6000];
    static const char *const heads[] = {"sheet ", "vector ", "operand ",
                                        "extra ", "mode ",   "start "};
    for (size_t i = 0; i < sizeof heads / sizeof heads[0]; i++) {
        size_t n = (size_t)snprintf(text, sizeof text, "sheet x\n%s", heads[i]);
        memset(text + n, 'n', 41);
        snprintf(text + n + 41, sizeof text - n - 41, " 0 \"t\" | 00 | 1\nform NOP | 00 | 1\n");
        CHECK_INT(read_hostile(text, strlen(text)), BL_E_SYNTAX);
        CHECK_CONTAINS(test_messages(), "a name has at most 40 characters");
    }
    memset(text, 'n', sizeof text);
    memcpy(text, "sheet x\ntitle ", 14);
    CHECK_INT(read_hostile(text, sizeof text), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "x.sheet:2: error: a line has at most 1000 characters");
    static const char control[] = "sheet a\x1b[2J\nform NOP | 00 | 1\n";
    CHECK_INT(read_hostile(control, sizeof control - 1), BL_E_SYNTAX);
}

/* Letters of an operand of names beyond what a field can hold would be shifted out of all bits. */
TEST(more_letters_than_a_field_has_bits)
{
    static const char text[] = "sheet x\noperand r oneof A=1\n"
                               "form X r | rrrrrrrr rrrrrrrr rrrrrrrr rrrrrrrr rrrrrrrr | 1\n";
    CHECK_INT(read_hostile(text, sizeof text - 1), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "operand 'r' has 1 bits, its letters 40");
}

/* Modes multiply: a sheet may not make millions of forms, or of looks at them. */
TEST(modes_do_not_multiply_without_end)
{
    static char text[60000];
    size_t n =
        (size_t)snprintf(text, sizeof text, "sheet x\noperand m number 8\nform X m | 00 m | 1\n");
    for (unsigned i = 0; i < 400; i++)
        n += (size_t)snprintf(text + n, sizeof text - n, "mode m m | m | 1\n");
    for (unsigned i = 0; i < 20; i++)
        n += (size_t)snprintf(text + n, sizeof text - n, "jumps X m\n");
    CHECK_INT(read_hostile(text, n), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "make more than 200000 forms");
}

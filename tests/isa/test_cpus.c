/* Encodings of each CPU as its makers' tables give them, and how much of its code space is used. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

typedef struct line {
    const char *cpu, *source;
    const char *bytes; /* hexadecimal */
} line;

static const line lines[] = {
    {"6502+undocumented", "lax ($12),y", "B312"},
    {"6502+undocumented", "slo $1234,x", "1F3412"},
    {"6502+undocumented", "nop $12", "0412"},
    {"65c02+plain", "stz $12", "6412"},
    {"6800", "ldaa #$12", "8612"},
    {"6800", "lda b $12,x", "E612"},
    {"6800", "staa $1234", "B71234"},
    {"6800", "ldx #$1234", "CE1234"},
    {"6800", "jsr $12,x", "AD12"},
    {"6800", "psh a", "36"},
    {"6800", "tst $1234", "7D1234"},
    {"6800", "bsr *+2", "8D00"},
    {"6809", "lda #$12", "8612"},
    {"6809", "lda $12", "9612"},
    {"6809", "lda >$12", "B60012"},
    {"6809", "lda ,x", "A684"},
    {"6809", "lda -16,y", "A630"},
    {"6809", "lda 16,u", "A6C810"},
    {"6809", "lda $1234,s", "A6E91234"},
    {"6809", "ldd ,y++", "ECA1"},
    {"6809", "stb ,-u", "E7C2"},
    {"6809", "leax d,x", "308B"},
    {"6809", "jmp [$1234]", "6E9F1234"},
    {"6809", "jsr [,s++]", "ADF1"},
    {"6809", "lda [5,x]", "A69805"},
    {"6809", "cmpy #$1234", "108C1234"},
    {"6809", "sts $1234", "10FF1234"},
    {"6809", "cmpu ,x", "11A384"},
    {"6809", "pshs cc,a,b,dp,x,y,u,pc", "34FF"},
    {"6809", "pulu d,s", "3746"},
    {"6809", "tfr x,dp", "1F1B"},
    {"6809", "exg a,b", "1E89"},
    {"6809", "lbne *+4", "10260000"},
    {"6809", "bra *", "20FE"},
    {"6809", "swi2", "103F"},
    {"8080", "mov b,m", "46"},
    {"8080", "mvi a,12h", "3E12"},
    {"8080", "lxi sp,1234h", "313412"},
    {"8080", "push psw", "F5"},
    {"8080", "cpe 1234h", "EC3412"},
    {"8080", "rst 5", "EF"},
    {"8080", "dad h", "29"},
    {"8080", "ldax d", "1A"},
    {"8080", "inr m", "34"},
    {"8085", "rim", "20"},
    {"8085", "jm 1234h", "FA3412"},
    {"z80", "ld a,(bc)", "0A"},
    {"z80", "ld b,(ix-1)", "DD46FF"},
    {"z80", "ld (iy+2),$12", "FD360212"},
    {"z80", "ld de,($1234)", "ED5B3412"},
    {"z80", "ld ($1234),hl", "223412"},
    {"z80", "ld i,a", "ED47"},
    {"z80", "adc hl,sp", "ED7A"},
    {"z80", "add iy,iy", "FD29"},
    {"z80", "bit 5,(hl)", "CB6E"},
    {"z80", "res 0,(ix+1)", "DDCB0186"},
    {"z80", "sla e", "CB23"},
    {"z80", "call po,$1234", "E43412"},
    {"z80", "jr nc,$+2", "3000"},
    {"z80", "djnz $", "10FE"},
    {"z80", "rst $30", "F7"},
    {"z80", "in e,(c)", "ED58"},
    {"z80", "otdr", "EDBB"},
    {"z80", "ex (sp),iy", "FDE3"},
    {"z80", "im 2", "ED5E"},
    {"z80", "cp (hl)", "BE"},
    {"z80", "sub a,b", "90"},
    {"z80+undocumented", "sll (hl)", "CB36"},
    {"z80+undocumented", "ld ixh,iyl", NULL},
    {"z80+undocumented", "ld ixh,b", "DD60"},
    {"z80+undocumented", "ld a,iyl", "FD7D"},
    {"z80+undocumented", "rlc (ix+1),b", "DDCB0100"},
    {"z80+undocumented", "set 7,(iy+1),a", "FDCB01FF"},
    {"z80", "ld ixh,b", NULL},
    {"ez80", "ld hl,$123456", "21563412"},
    {"ez80", "ld.sis hl,$1234", "40213412"},
    {"ez80", "call.il $123456", "5BCD563412"},
    {"ez80", "lea iy,ix-2", "ED55FE"},
    {"ez80", "mlt de", "ED5C"},
    {"ez80", "ld b,b", NULL},
    {"ez80", "in c,(bc)", "ED48"},
    {"ez80", "in c,(c)", "ED48"},
    {"ez80", "out (bc),a", "ED79"},
    {"ez80+z80", "in a,(bc)", "ED78"},
    {"ez80+z80", "ld hl,$1234", "213412"},
    {"ez80+z80", "ld.lil hl,$123456", "5B21563412"},
    {"tern", "ld (3,s)", "0303"},
    {"tern", "addw #$1234",
     "18"
     "3412"},
    {"tern", "out 15", "FF"},
    {"gannet", "do not inc", "0E21"},
    {"gannet", "io 3,7", "0C1F"},
};

static void one(const line *l)
{
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    char source[80], found[32] = "";
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){l->cpu, strlen(l->cpu)}, &test_sink, &sheet),
              BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    int n = snprintf(source, sizeof source, "\t%s\n", l->source);
    test_messages_clear();
    bl_status status = bl_assemble_text(&o, "t", (bl_text){source, (size_t)n}, &program);
    if (status == BL_OK) {
        bl_piece p = bl_image_piece(bl_program_image(program), 0);
        for (size_t i = 0; i < p.count && i < 12; i++)
            snprintf(found + i * 2, 3, "%02X", p.bytes[i]);
    }
    if (strcmp(found, l->bytes != NULL ? l->bytes : "") != 0)
        test_fail(__FILE__, __LINE__, "%s '%s': %s, expected %s\n%s", l->cpu, l->source, found,
                  l->bytes != NULL ? l->bytes : "an error", test_messages());
    bl_program_close(program);
    bl_sheet_close(sheet);
}

TEST(encodings_from_the_makers_tables)
{
    for (size_t i = 0; i < sizeof lines / sizeof lines[0]; i++)
        one(&lines[i]);
}

/* The eZ80's maker writes the accumulator of all eight operations; a Z80 programmer leaves it out
 * of five. */
TEST(the_accumulator_may_be_written_or_left_out)
{
    static const char *const operations[] = {"add", "adc", "sub", "sbc", "and", "xor", "or", "cp"};
    static const struct {
        const char *operand, *code; /* of add; the others are 8 further each */
        unsigned at;                /* the byte that the operation is in */
    } operands[] = {
        {"(hl)", "86", 0},       {"b", "80", 0},     {"a", "87", 0},     {"ixh", "DD84", 1},
        {"ixl", "DD85", 1},      {"iyh", "FD84", 1}, {"iyl", "FD85", 1}, {"(ix+5)", "DD8605", 1},
        {"(iy-1)", "FD86FF", 1}, {"7", "C607", 0},
    };
    for (unsigned op = 0; op < 8; op++) {
        for (size_t i = 0; i < sizeof operands / sizeof operands[0]; i++) {
            char with[40], without[40], bytes[16];
            unsigned code = 0;
            snprintf(bytes, sizeof bytes, "%s", operands[i].code);
            CHECK_INT(sscanf(bytes + operands[i].at * 2, "%2X", &code), 1);
            char rest[16];
            snprintf(rest, sizeof rest, "%s", bytes + operands[i].at * 2 + 2);
            snprintf(bytes + operands[i].at * 2, sizeof bytes - operands[i].at * 2, "%02X%s",
                     code + op * 8, rest);
            snprintf(with, sizeof with, "%s a,%s", operations[op], operands[i].operand);
            snprintf(without, sizeof without, "%s %s", operations[op], operands[i].operand);
            one(&(line){"ez80", with, bytes});
            one(&(line){"ez80", without, bytes});
            one(&(line){"ez80+z80", with, bytes});
        }
    }
}

/* How many of the 256 codes behind some first codes mean something. */
static unsigned used(const bl_sheet *sheet, const uint16_t *first, size_t count)
{
    unsigned n = 0;
    for (unsigned code = 0; code < 256; code++) {
        uint16_t units[BL_FORM_UNITS] = {0};
        bl_decoded d;
        memcpy(units, first, count * sizeof *units);
        units[count] = (uint16_t)code;
        n += bl_sheet_decode(sheet, units, BL_FORM_UNITS, &d) && d.form->size > count;
    }
    return n;
}

TEST(the_code_space_is_used_as_the_makers_used_it)
{
    static const struct {
        const char *cpu;
        uint16_t first[3];
        size_t count;
        unsigned expected;
    } spaces[] = {
        {"6502", {0}, 0, 151},
        {"6502+undocumented", {0}, 0, 256},
        {"65c02", {0}, 0, 212},
        {"65c02+plain", {0}, 0, 212 - 34},
        {"6800", {0}, 0, 197},
        {"8080", {0}, 0, 244},
        {"8085", {0}, 0, 246},
        {"z80", {0xCB}, 1, 248},
        {"z80", {0xED}, 1, 56},
        {"z80+undocumented", {0xCB}, 1, 256},
        {"z80+undocumented", {0xDD, 0xCB, 5}, 3, 256 - 8 * 7},
        {"6809", {0x10}, 1, 38},
        {"6809", {0x11}, 1, 9},
    };
    for (size_t i = 0; i < sizeof spaces / sizeof spaces[0]; i++) {
        bl_sheet *sheet = NULL;
        CHECK_INT(bl_sheet_open(&test_memory, (bl_text){spaces[i].cpu, strlen(spaces[i].cpu)}, NULL,
                                &sheet),
                  BL_OK);
        unsigned found = used(sheet, spaces[i].first, spaces[i].count);
        if (found != spaces[i].expected)
            test_fail(__FILE__, __LINE__, "%s, space %u: %u codes, expected %u", spaces[i].cpu,
                      (unsigned)i, found, spaces[i].expected);
        bl_sheet_close(sheet);
    }
}

/* The 65C02's opcode matrix, row by row as the data sheet prints it, against the sheet and the
 * assembler.
 *
 * An entry is mnemonic, addressing mode and cycles: i implied, a accumulator, # immediate, z zero
 * page, zx zy indexed, @ absolute, x y indexed, (x (y (z indirect ones, j (abs), jx (abs,X), r
 * relative, zr zero page and relative. "-" is a reserved opcode. Cycles are without extras.
 */
#include "harness.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const char *const matrix[256] = {
    /* 0 */ "BRK i 7", "ORA (x 6", "-",        "-",       "TSB z 5",
    "ORA z 3",         "ASL z 5",  "RMB0 z 5", "PHP i 3", "ORA # 2",
    "ASL a 2",         "-",        "TSB @ 6",  "ORA @ 4", "ASL @ 6",
    "BBR0 zr 5",
    /* 1 */ "BPL r 2", "ORA (y 5", "ORA (z 5", "-",       "TRB z 5",
    "ORA zx 4",        "ASL zx 6", "RMB1 z 5", "CLC i 2", "ORA y 4",
    "INC a 2",         "-",        "TRB @ 6",  "ORA x 4", "ASL x 6",
    "BBR1 zr 5",
    /* 2 */ "JSR @ 6", "AND (x 6", "-",        "-",       "BIT z 3",
    "AND z 3",         "ROL z 5",  "RMB2 z 5", "PLP i 4", "AND # 2",
    "ROL a 2",         "-",        "BIT @ 4",  "AND @ 4", "ROL @ 6",
    "BBR2 zr 5",
    /* 3 */ "BMI r 2", "AND (y 5", "AND (z 5", "-",       "BIT zx 4",
    "AND zx 4",        "ROL zx 6", "RMB3 z 5", "SEC i 2", "AND y 4",
    "DEC a 2",         "-",        "BIT x 4",  "AND x 4", "ROL x 6",
    "BBR3 zr 5",
    /* 4 */ "RTI i 6", "EOR (x 6", "-",        "-",       "-",
    "EOR z 3",         "LSR z 5",  "RMB4 z 5", "PHA i 3", "EOR # 2",
    "LSR a 2",         "-",        "JMP @ 3",  "EOR @ 4", "LSR @ 6",
    "BBR4 zr 5",
    /* 5 */ "BVC r 2", "EOR (y 5", "EOR (z 5", "-",       "-",
    "EOR zx 4",        "LSR zx 6", "RMB5 z 5", "CLI i 2", "EOR y 4",
    "PHY i 3",         "-",        "-",        "EOR x 4", "LSR x 6",
    "BBR5 zr 5",
    /* 6 */ "RTS i 6", "ADC (x 6", "-",        "-",       "STZ z 3",
    "ADC z 3",         "ROR z 5",  "RMB6 z 5", "PLA i 4", "ADC # 2",
    "ROR a 2",         "-",        "JMP j 6",  "ADC @ 4", "ROR @ 6",
    "BBR6 zr 5",
    /* 7 */ "BVS r 2", "ADC (y 5", "ADC (z 5", "-",       "STZ zx 4",
    "ADC zx 4",        "ROR zx 6", "RMB7 z 5", "SEI i 2", "ADC y 4",
    "PLY i 4",         "-",        "JMP jx 6", "ADC x 4", "ROR x 6",
    "BBR7 zr 5",
    /* 8 */ "BRA r 3", "STA (x 6", "-",        "-",       "STY z 3",
    "STA z 3",         "STX z 3",  "SMB0 z 5", "DEY i 2", "BIT # 2",
    "TXA i 2",         "-",        "STY @ 4",  "STA @ 4", "STX @ 4",
    "BBS0 zr 5",
    /* 9 */ "BCC r 2", "STA (y 6", "STA (z 5", "-",       "STY zx 4",
    "STA zx 4",        "STX zy 4", "SMB1 z 5", "TYA i 2", "STA y 5",
    "TXS i 2",         "-",        "STZ @ 4",  "STA x 5", "STZ x 5",
    "BBS1 zr 5",
    /* A */ "LDY # 2", "LDA (x 6", "LDX # 2",  "-",       "LDY z 3",
    "LDA z 3",         "LDX z 3",  "SMB2 z 5", "TAY i 2", "LDA # 2",
    "TAX i 2",         "-",        "LDY @ 4",  "LDA @ 4", "LDX @ 4",
    "BBS2 zr 5",
    /* B */ "BCS r 2", "LDA (y 5", "LDA (z 5", "-",       "LDY zx 4",
    "LDA zx 4",        "LDX zy 4", "SMB3 z 5", "CLV i 2", "LDA y 4",
    "TSX i 2",         "-",        "LDY x 4",  "LDA x 4", "LDX y 4",
    "BBS3 zr 5",
    /* C */ "CPY # 2", "CMP (x 6", "-",        "-",       "CPY z 3",
    "CMP z 3",         "DEC z 5",  "SMB4 z 5", "INY i 2", "CMP # 2",
    "DEX i 2",         "WAI i 3",  "CPY @ 4",  "CMP @ 4", "DEC @ 6",
    "BBS4 zr 5",
    /* D */ "BNE r 2", "CMP (y 5", "CMP (z 5", "-",       "-",
    "CMP zx 4",        "DEC zx 6", "SMB5 z 5", "CLD i 2", "CMP y 4",
    "PHX i 3",         "STP i 3",  "-",        "CMP x 4", "DEC x 7",
    "BBS5 zr 5",
    /* E */ "CPX # 2", "SBC (x 6", "-",        "-",       "CPX z 3",
    "SBC z 3",         "INC z 5",  "SMB6 z 5", "INX i 2", "SBC # 2",
    "NOP i 2",         "-",        "CPX @ 4",  "SBC @ 4", "INC @ 6",
    "BBS6 zr 5",
    /* F */ "BEQ r 2", "SBC (y 5", "SBC (z 5", "-",       "-",
    "SBC zx 4",        "INC zx 6", "SMB7 z 5", "SED i 2", "SBC y 4",
    "PLX i 4",         "-",        "-",        "SBC x 4", "INC x 7",
    "BBS7 zr 5",
};

/* How a mode is written with the operand bytes $12 (zero page), $3456 (absolute), and what follows
 * the opcode at address $3450. */
static const struct {
    const char *mode, *written;
    size_t count;
    uint8_t bytes[2];
} modes[] = {
    {"i", "", 0, {0, 0}},
    {"a", "A", 0, {0, 0}},
    {"#", "#$12", 1, {0x12, 0}},
    {"z", "$12", 1, {0x12, 0}},
    {"zx", "$12,X", 1, {0x12, 0}},
    {"zy", "$12,Y", 1, {0x12, 0}},
    {"@", "$3456", 2, {0x56, 0x34}},
    {"x", "$3456,X", 2, {0x56, 0x34}},
    {"y", "$3456,Y", 2, {0x56, 0x34}},
    {"(x", "($12,X)", 1, {0x12, 0}},
    {"(y", "($12),Y", 1, {0x12, 0}},
    {"(z", "($12)", 1, {0x12, 0}},
    {"j", "($3456)", 2, {0x56, 0x34}},
    {"jx", "($3456,X)", 2, {0x56, 0x34}},
    {"r", "$3456", 1, {0x04, 0}},
    {"zr", "$12,$3456", 2, {0x12, 0x03}},
};

typedef struct entry {
    char mnemonic[8];
    size_t mode;
    unsigned cycles;
} entry;

static bool parse(unsigned opcode, entry *e)
{
    char mode[4];
    if (strcmp(matrix[opcode], "-") == 0) return false;
    if (sscanf(matrix[opcode], "%7s %3s %u", e->mnemonic, mode, &e->cycles) != 3) abort();
    for (e->mode = 0; strcmp(modes[e->mode].mode, mode) != 0; e->mode++)
        continue;
    return true;
}

static bl_sheet *open_sheet(const char *name)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, strlen(name)}, &test_sink, &sheet),
              BL_OK);
    return sheet;
}

/* Assembles one line at $3450 and compares. */
static void expect(const bl_sheet *sheet, const char *line, const uint8_t *bytes, size_t count)
{
    char source[100];
    uint8_t found[8];
    bl_program *program;
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    int n = snprintf(source, sizeof source, "\t.org $3450\n\t%s\n", line);
    if (bl_assemble_text(&o, "t", (bl_text){source, (size_t)n}, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "'%s' does not assemble:\n%s", line, test_messages());
    const bl_image *image = bl_program_image(program);
    size_t size = (size_t)bl_image_size(image);
    bl_image_copy(image, 0x3450, size < 8 ? size : 8, 0, found);
    if (size != count || memcmp(found, bytes, count) != 0) fprintf(stderr, "  %s:\n", line);
    CHECK_BYTES(found, size, bytes, count);
    bl_program_close(program);
}
#define expect(...) TEST_CALL(expect(__VA_ARGS__))

TEST(every_opcode_of_the_matrix_assembles_to_itself)
{
    bl_sheet *sheet = open_sheet("65c02");
    unsigned forms = 0;
    for (unsigned opcode = 0; opcode < 256; opcode++) {
        entry e;
        if (!parse(opcode, &e)) continue;
        char line[40], lower[40];
        snprintf(line, sizeof line, "%s %s", e.mnemonic, modes[e.mode].written);
        size_t i = 0;
        for (; line[i] != '\0'; i++)
            lower[i] = line[i] >= 'A' && line[i] <= 'Z' ? (char)(line[i] + 32) : line[i];
        lower[i] = '\0';
        uint8_t bytes[3] = {(uint8_t)opcode, modes[e.mode].bytes[0], modes[e.mode].bytes[1]};
        expect(sheet, line, bytes, modes[e.mode].count + 1);
        expect(sheet, lower, bytes, modes[e.mode].count + 1);
        forms++;
    }
    CHECK_INT(forms, 212);
    bl_sheet_close(sheet);
}

TEST(the_sheet_has_the_matrix_cycles_and_nothing_else)
{
    bl_sheet *sheet = open_sheet("65c02");
    unsigned seen = 0;
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        entry e;
        CHECK_INT(f->fixed[0], 0xFF);
        CHECK(parse(f->value[0], &e));
        CHECK_INT(f->cycles, e.cycles);
        if (f->alias) continue;
        seen++;
        bl_text name = bl_sheet_mnemonic(sheet, f->mnemonic);
        CHECK(name.length == strlen(e.mnemonic) && memcmp(name.at, e.mnemonic, name.length) == 0);
        CHECK_INT(f->size, modes[e.mode].count + 1);
    }
    CHECK_INT(seen, 212);
    bl_sheet_close(sheet);
}

TEST(makers_second_spellings)
{
    bl_sheet *sheet = open_sheet("65c02");
    static const struct {
        const char *line;
        uint8_t byte;
    } second[] = {{"ASL", 0x0A}, {"LSR", 0x4A}, {"ROL", 0x2A}, {"ROR", 0x6A},   {"INC", 0x1A},
                  {"INA", 0x1A}, {"DEC", 0x3A}, {"DEA", 0x3A}, {"asl a", 0x0A}, {"BRK", 0x00}};
    for (size_t i = 0; i < sizeof second / sizeof second[0]; i++)
        expect(sheet, second[i].line, &second[i].byte, 1);
    expect(sheet, "BRK #7", (const uint8_t *)"\x00\x07", 2);
    bl_sheet_close(sheet);
}

TEST(the_older_part_lacks_what_came_later)
{
    bl_sheet *sheet = open_sheet("6502");
    static const char *const later[] = {"BRA", "STZ", "PHX",  "PLY",  "TRB", "TSB",
                                        "WAI", "STP", "RMB0", "BBS7", "INA"};
    for (size_t i = 0; i < sizeof later / sizeof later[0]; i++)
        CHECK_INT(bl_sheet_find_mnemonic(sheet, (bl_text){later[i], strlen(later[i])}), -1);
    unsigned forms = 0;
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++)
        forms += !bl_sheet_form(sheet, i)->alias;
    CHECK_INT(forms, 151);
    bl_sheet_close(sheet);
}

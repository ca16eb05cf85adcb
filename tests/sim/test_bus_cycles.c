/* Accesses of the 6502 family that programs do not ask for, as registers of devices see them; and
 * when interrupts are taken. */
#include <stdio.h>
#include <string.h>

#include "sim/cpu/cpu6502.h"
#include "sim/cpu/cpu65c02.h"
#include "sim_support.h"

static uint8_t memory[0x10000];
static sim_bus bus;
static sim_65c02 cpu;
static char seen[120]; /* "r8000 w8000=5A " */

static uint8_t noted_read(void *context, uint16_t address)
{
    size_t n = strlen(seen);
    (void)context;
    snprintf(seen + n, sizeof seen - n, "r%04X ", address);
    return memory[address];
}

static void noted_write(void *context, uint16_t address, uint8_t value)
{
    size_t n = strlen(seen);
    (void)context;
    snprintf(seen + n, sizeof seen - n, "w%04X=%02X ", address, value);
    memory[address] = value;
}

/* Everything is memory but for the pages $80 and $81. */
static void set_up(void)
{
    for (unsigned i = 0; i < 256; i++)
        bus.read_page[i] = bus.write_page[i] = i == 0x80 || i == 0x81 ? NULL : memory + i * 256;
    bus.read = noted_read;
    bus.write = noted_write;
    cpu = (sim_65c02){.bus = &bus, .pc = 0x0400, .s = 0xF0, .p = SIM_FLAG_ONE | SIM_FLAG_B};
    cpu.x = cpu.y = 0x20;
    memset(memory, 0, sizeof memory);
    memory[0x10] = 0xF0, memory[0x11] = 0x80; /* a pointer to $80F0 */
}

TEST(accesses_that_nobody_asked_for)
{
    static const struct {
        const char *code, *nmos, *cmos;
    } rows[] = {
        {"\xAD\x10\x80", "r8010 ", "r8010 "},             /* LDA $8010 */
        {"\x8D\x10\x80", "w8010=00 ", "w8010=00 "},       /* STA $8010 */
        {"\xBD\x10\x80", "r8030 ", "r8030 "},             /* LDA $8010,X */
        {"\xBD\xF0\x80", "r8010 r8110 ", "r8110 "},       /* LDA $80F0,X: carried */
        {"\xB9\xF0\x7F", "r8010 ", "r8010 "},             /* LDA $7FF0,Y: not carried is memory */
        {"\xBD\xF0\x81", "r8110 ", ""},                   /* LDA $81F0,X: leads into memory */
        {"\x9D\x10\x80", "r8030 w8030=00 ", "w8030=00 "}, /* STA $8010,X */
        {"\x9D\xF0\x80", "r8010 w8110=00 ", "w8110=00 "}, /* STA $80F0,X */
        {"\x91\x10", "r8010 w8110=00 ", "w8110=00 "},     /* STA ($10),Y */
        {"\xB1\x10", "r8010 r8110 ", "r8110 "},           /* LDA ($10),Y */
        {"\xEE\x10\x80", "r8010 w8010=00 w8010=01 ", "r8010 r8010 w8010=01 "}, /* INC $8010 */
        {"\x0E\x10\x80", "r8010 w8010=00 w8010=00 ", "r8010 r8010 w8010=00 "}, /* ASL $8010 */
        {"\xFE\x10\x80", "r8030 r8030 w8030=00 w8030=01 ",
         "r8030 r8030 w8030=01 "}, /* INC $8010,X */
    };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++)
        for (unsigned nmos = 0; nmos < 2; nmos++) {
            set_up();
            memcpy(memory + 0x0400, rows[i].code, 3);
            seen[0] = '\0';
            if (nmos)
                sim_6502_step(&cpu);
            else
                sim_65c02_step(&cpu);
            CHECK_TEXT(seen, nmos ? rows[i].nmos : rows[i].cmos);
        }
}

static void step(bool nmos)
{
    if (nmos)
        sim_6502_step(&cpu);
    else
        sim_65c02_step(&cpu);
}

/* An interrupt that waits is taken one instruction behind CLI and PLP; SEI and PLP that mask it are
 * a cycle too late. */
TEST(the_mask_counts_an_instruction_later)
{
    static const struct {
        uint8_t code, masked, runs; /* instructions until the handler's first */
    } rows[] = {{0x58, 1, 2}, {0x28, 1, 2}, {0x78, 0, 1}, {0x40, 1, 1}};
    for (unsigned nmos = 0; nmos < 2; nmos++)
        for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
            set_up();
            memory[0xFFFF] = 0x50;
            memset(memory + 0x0400, 0xEA, 16);
            memory[0x0400] = rows[i].code;
            memory[0x01F1] = SIM_FLAG_ONE; /* what PLP and RTI pull: I is clear */
            memory[0x01F2] = 0x08, memory[0x01F3] = 0x04;
            if (rows[i].masked) cpu.p |= SIM_FLAG_I;
            cpu.irq = rows[i].masked != 0;
            unsigned runs = 0;
            do {
                step(nmos != 0);
                if (runs == 0 && !cpu.irq)
                    cpu.irq = true; /* it comes while SEI is executed: too late */
                runs++;
            } while (cpu.pc != 0x5000 && runs < 6);
            if (rows[i].code == 0x78)
                CHECK_INT(runs, 6); /* masked for good */
            else
                CHECK_INT(runs, rows[i].runs + 1u);
        }
}

/* One that is requested when SEI begins is taken behind it. */
TEST(sei_does_not_keep_off_what_is_there)
{
    set_up();
    memory[0xFFFF] = 0x50;
    memory[0x0400] = 0x58, memory[0x0401] = 0x78; /* CLI SEI */
    cpu.p |= SIM_FLAG_I;
    cpu.irq = true;
    sim_6502_step(&cpu), sim_6502_step(&cpu);
    CHECK_INT(cpu.pc, 0x0402);
    sim_6502_step(&cpu);
    CHECK_INT(cpu.pc, 0x5000);
    CHECK(memory[0x01F0 - 2] & SIM_FLAG_I); /* masked, as it is pushed */
}

/* Every code of the part comes back from the disassembler as it was. */
TEST(every_code_has_a_form)
{
    bl_sheet *sheet = NULL;
    bool known[256] = {false};
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"6502+undocumented", 17}, NULL, &sheet), BL_OK);
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        uint8_t bytes[8];
        place_form(sheet, bl_sheet_form(sheet, i), 0, bytes);
        known[bytes[0]] = true;
    }
    for (unsigned code = 0; code < 256; code++)
        if (!known[code]) test_fail(__FILE__, __LINE__, "no form for $%02X", code);
    bl_sheet_close(sheet);
}

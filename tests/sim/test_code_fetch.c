/* Code that does not lie in plain memory: fetched byte by byte, each once, and none beyond. */
#include <string.h>

#include "sim/board.h"
#include "sim/device/serial/uart16550.h"
#include "sim_support.h"

static uint8_t whole[0x10000], asked[0x10000];
static unsigned fetches, at_most; /* bytes of code, and how far they reached */
static uint16_t origin;

static uint8_t fetch_asked(void *context, uint16_t address)
{
    unsigned into = (uint16_t)(address - origin);
    (void)context;
    fetches++;
    if (into < 16 && into + 1 > at_most) at_most = into + 1;
    return asked[address];
}

static uint8_t read_asked(void *context, uint16_t address)
{
    (void)context;
    return asked[address];
}

static void write_asked(void *context, uint16_t address, uint8_t value)
{
    (void)context;
    asked[address] = value;
}

static sim_bus asked_bus = {.read = read_asked, .fetch = fetch_asked, .write = write_asked};
static sim_bus whole_bus;
static union {
    sim_cpu cpu;
    sim_65c02 m65c02;
    sim_6800 m6800;
    sim_6809 m6809;
    sim_8080 i8080;
    sim_z80 z80;
    sim_ez80 ez80;
} direct, slow;

/* Do these throw the byte behind a single one away? */
static unsigned shortest(const char *sheet)
{
    return sheet[0] == '6' ? 2 : 1;
}

static void put_both(uint16_t at, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        whole[(uint16_t)(at + i)] = asked[(uint16_t)(at + i)] = bytes[i];
}

static void begin_both(const sim_cpu_kind *kind, uint16_t pc)
{
    for (unsigned i = 0; i < 256; i++)
        whole_bus.read_page[i] = whole_bus.write_page[i] = whole + i * 256;
    memset(&direct, 0, sizeof direct);
    memset(&slow, 0, sizeof slow);
    direct.cpu.bus = &whole_bus;
    slow.cpu.bus = &asked_bus;
    kind->reset(&direct.cpu);
    kind->reset(&slow.cpu);
    direct.cpu.pc = slow.cpu.pc = origin = pc;
    if (kind == &sim_ez80_kind) direct.ez80.far_pc = slow.ez80.far_pc = pc;
    fetches = at_most = 0;
}

static void check_alike(const sim_cpu_kind *kind, const char *name)
{
    CHECK_INT(slow.cpu.cycles, direct.cpu.cycles);
    for (size_t i = 0; i < kind->register_count; i++)
        if (sim_register_get(&direct.cpu, &kind->registers[i]) !=
            sim_register_get(&slow.cpu, &kind->registers[i]))
            test_fail(__FILE__, __LINE__, "%s: %s differs", name, kind->registers[i].name);
    CHECK_BYTES(asked, sizeof asked, whole, sizeof whole);
}

/* Every form of every sheet: as many bytes as the sheet says, each fetched once. */
TEST(an_instruction_is_fetched_as_far_as_it_reaches)
{
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const char *name = sim_cpu_name(k);
        const sim_cpu_kind *kind = sim_cpu_kind_for(name, strlen(name));
        bl_sheet *sheet = NULL;
        CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, strlen(name)}, &test_sink, &sheet),
                  BL_OK);
        memset(whole, 0, sizeof whole);
        memset(asked, 0, sizeof asked);
        for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
            const bl_form *f = bl_sheet_form(sheet, i);
            uint8_t bytes[16];
            place_form(sheet, f, (unsigned)i, bytes);
            begin_both(kind, 0x80FD); /* over the end of a page */
            if (kind == &sim_ez80_kind)
                direct.ez80.adl = slow.ez80.adl =
                    strcmp(name, "ez80") == 0; /* as its sheet writes */
            put_both(0x80FD, bytes, f->size);
            kind->step(&slow.cpu);
            kind->step(&direct.cpu);
            unsigned expected = f->size < shortest(name) ? shortest(name) : f->size;
            bool reserved = strcmp(name, "65c02") == 0 && f->size == 1 && f->cycles == 1;
            if (reserved) expected = 1;
            if (at_most != expected || fetches < expected)
                test_fail(__FILE__, __LINE__, "%s: %.*s fetched %u bytes up to %u of %u", name,
                          (int)f->written.length, f->written.at, fetches, at_most, expected);
            check_alike(kind, name);
        }
        bl_sheet_close(sheet);
    }
}

TEST(code_out_of_registers_runs_as_out_of_memory)
{
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const char *name = sim_cpu_name(k);
        const sim_cpu_kind *kind = sim_cpu_kind_for(name, strlen(name));
        for (unsigned turn = 0; turn < 20; turn++) {
            for (unsigned i = 0; i < sizeof whole; i++)
                whole[i] = asked[i] = (uint8_t)test_random();
            begin_both(kind, (uint16_t)test_random());
            for (unsigned n = 0; n < 100; n++) {
                uint64_t until = direct.cpu.cycles + 1 + test_below(40);
                kind->run(&direct.cpu, until);
                kind->run(&slow.cpu, until);
            }
            check_alike(kind, name);
        }
    }
}

/* A jump to where a register is: the register is read, and those behind it are not. */
TEST(a_device_gives_its_registers_as_code)
{
    static const struct {
        const char *sheet, *code;
        uint8_t leave; /* the instruction in the scratch register */
    } rows[] = {{"65c02", "\x20\x07\xD0", 0x60}, {"6800", "\xBD\xD0\x07", 0x39},
                {"6809", "\xBD\xD0\x07", 0x39},  {"8080", "\xCD\x07\xD0", 0xC9},
                {"z80", "\xCD\x07\xD0", 0xC9},   {"ez80", "\xCD\x07\xD0", 0xC9}};
    static sim_board b;
    const sim_place uart = {.kind = &sim_16550_kind, .at = 0xD000};
    static const bl_area areas[] = {{"ram", {0, 0xD000}, BL_AREA_RAM, 0, NULL, 0, false},
                                    {"io", {0xD000, 0x100}, BL_AREA_IO, 0, NULL, 0, false}};
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        const sim_cpu_kind *kind = sim_cpu_kind_for(rows[i].sheet, strlen(rows[i].sheet));
        sim_chance chance = {7};
        sim_board_begin(&b, kind, 1000000, areas, 2, NULL, NULL, 0);
        CHECK(sim_board_add(&b, &uart));
        sim_board_power_on(&b, &chance, 0);
        memcpy(b.ram + 0x0400, rows[i].code, 3);
        for (size_t r = 0; r < kind->register_count; r++) {
            const char *name = kind->registers[r].name;
            if (strcmp(name, "s") == 0 || strcmp(name, "sp") == 0 || strcmp(name, "sps") == 0)
                sim_register_set(&b.cpu, &kind->registers[r], 0x01F0);
        }
        b.cpu.pc = 0x0400;
        if (kind == &sim_ez80_kind) b.ez80.far_pc = 0x0400;
        CHECK(sim_board_poke(&b, 0xD007, rows[i].leave));
        sim_board_step(&b);
        sim_board_step(&b);
        CHECK_INT(kind == &sim_ez80_kind ? b.ez80.far_pc : b.cpu.pc, 0x0403);
    }
}

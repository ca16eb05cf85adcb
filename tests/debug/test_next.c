/* Where the CPU can go next: what the sheets say against what the simulated CPUs do. */
#include "debug_support.h"

#include <string.h>

static machine m;

/* Any registers, any memory, any operands: where the CPU goes must have been foretold. */
static void foretell(const bl_form *f, unsigned turn)
{
    const sim_cpu_kind *kind = m.bench.board.kind;
    uint16_t units[BL_FORM_UNITS];
    bl_debug_next next;
    uint32_t at = 0x1000 + test_below(0xE000), before = at, pc = 0;
    memcpy(units, f->value, sizeof units);
    for (uint8_t i = 0; i < f->size; i++)
        m.bench.board.ram[at + i] =
            (uint8_t)(units[i] | (test_random() & (unsigned)~f->fixed[i] & 0xFFu));
    for (size_t i = 0; i < kind->register_count; i++) {
        const sim_register *r = &kind->registers[i];
        if (!r->shown) continue;
        uint32_t value = test_random() & (r->bytes == 1 ? 0xFFu : 0xFFFFu);
        CHECK_INT(m.target.set_register(&m.bench, r->name, value), BL_OK);
    }
    CHECK_INT(m.target.set_register(&m.bench, "pc", at), BL_OK);
    bl_debug_instruction in;
    if (bl_debug_decode(&m.debug, at, &in) != BL_OK || in.decoded.form != f) return; /* another */
    bl_status status = bl_debug_next_places(&m.debug, &next);
    if (status != BL_OK)
        test_fail(__FILE__, __LINE__, "%.*s", (int)f->written.length, f->written.at);
    CHECK_INT(m.target.step(&m.bench), BL_OK);
    CHECK_INT(bl_debug_register(&m.debug, (bl_text){"PC", 2}, &pc), BL_OK);
    for (size_t i = 0; i < next.count; i++)
        if (next.places[i] == pc) return;
    bool waits = sim_cpu_waits(kind, &m.bench.board.cpu);
    if (waits || (next.repeats && pc == before)) return;
    test_fail(__FILE__, __LINE__, "%.*s at $%04X goes to $%04X, not to one of %u like $%04X (%u)",
              (int)f->written.length, f->written.at, before, pc, (unsigned)next.count,
              next.count > 0 ? next.places[next.count - 1] : 0, turn);
}

/* Is it one that this CPU may do anything on: the operand names what is not there? */
static bool is_open(const char *cpu, const bl_form *f)
{
    /* A transfer between registers of different width: what comes is not documented. */
    return strcmp(cpu, "6809") == 0 && f->written.length > 3 &&
           (memcmp(f->written.at, "TFR", 3) == 0 || memcmp(f->written.at, "EXG", 3) == 0);
}

static void foretell_all(const char *cpu)
{
    unsigned calls = 0, returns = 0;
    machine_begin(&m, cpu, " nop\n");
    for (size_t i = 0; i < bl_sheet_forms(m.sheet); i++) {
        const bl_form *f = bl_sheet_form(m.sheet, i);
        calls += (f->flow & BL_FLOW_CALLS) != 0;
        returns += (f->flow & BL_FLOW_RETURNS) != 0;
        if (f->alias || is_open(cpu, f)) continue;
        for (unsigned turn = 0; turn < 40; turn++) {
            for (size_t k = 0; k < 64; k++)
                m.bench.board.ram[test_below(0x10000)] = (uint8_t)test_random();
            foretell(f, turn);
            m.bench.board.cpu.rest = m.bench.board.cpu.special = false;
        }
    }
    CHECK(calls >= 1 && returns >= 2);
    machine_end(&m);
}
#define foretell_all(...) TEST_CALL(foretell_all(__VA_ARGS__))

TEST(the_65c02_goes_where_its_sheet_says)
{
    foretell_all("65c02");
}

TEST(the_6502_goes_where_its_sheet_says)
{
    foretell_all("6502");
}

TEST(the_6800_goes_where_its_sheet_says)
{
    foretell_all("6800");
}

TEST(the_6809_goes_where_its_sheet_says)
{
    foretell_all("6809");
}

TEST(the_8080_and_8085_go_where_their_sheets_say)
{
    foretell_all("8080");
    foretell_all("8085");
}

TEST(the_z80_goes_where_its_sheet_says)
{
    foretell_all("z80");
    foretell_all("z80+undocumented");
}

TEST(what_follows_says_whether_it_calls_or_returns)
{
    bl_debug_next next;
    machine_begin(&m, "z80", " .org $100\n ld sp,$200\n call nz,$1234\n ret c\n jp (hl)\n ldir\n");
    m.bench.board.ram[0x200] = 0x78, m.bench.board.ram[0x201] = 0x56;
    CHECK_INT(bl_debug_set_register(&m.debug, (bl_text){"PC", 2}, 0x103), BL_OK);
    CHECK_INT(bl_debug_set_register(&m.debug, (bl_text){"sp", 2}, 0x200), BL_OK);
    CHECK_INT(bl_debug_next_places(&m.debug, &next), BL_OK);
    CHECK(next.calls && next.falls && !next.returns);
    CHECK_INT(next.count, 2);
    CHECK_INT(next.places[0], 0x106);
    CHECK_INT(next.places[1], 0x1234);
    CHECK_INT(bl_debug_set_register(&m.debug, (bl_text){"PC", 2}, 0x106), BL_OK);
    CHECK_INT(bl_debug_next_places(&m.debug, &next), BL_OK);
    CHECK(next.returns && next.falls && !next.calls);
    CHECK_INT(next.places[1], 0x5678);
    CHECK_INT(bl_debug_set_register(&m.debug, (bl_text){"PC", 2}, 0x107), BL_OK);
    CHECK_INT(bl_debug_set_register(&m.debug, (bl_text){"HL", 2}, 0xABCD), BL_OK);
    CHECK_INT(bl_debug_next_places(&m.debug, &next), BL_OK);
    CHECK(!next.falls && !next.returns);
    CHECK_INT(next.count, 1);
    CHECK_INT(next.places[0], 0xABCD);
    machine_end(&m);
}

/* The past of a simulated board: back by steps, to a visit, before a write; the last steps; and
 * watchpoints. */
#include "debug_support.h"

#include <string.h>

#include "sim/sim_past.h"

static machine m;
static sim_past *past;

static void begin(const char *cpu, const char *source)
{
    machine_begin(&m, cpu, source);
    CHECK_INT(sim_past_open(&m.bench, &test_memory, &past), BL_OK);
}

static void end(void)
{
    sim_past_close(past);
    machine_end(&m);
}

/* What can be told of the machine at a moment. */
typedef struct state {
    uint64_t cycles, now;
    uint32_t sum;
    bl_register registers[BL_DEBUG_REGISTERS];
    size_t count;
} state;

static state state_now(void)
{
    state s = {.now = m.bench.now};
    CHECK_INT(m.target.cycles(&m.bench, &s.cycles), BL_OK);
    CHECK_INT(m.target.sum(&m.bench, (bl_range){0, 0x500}, &s.sum), BL_OK);
    CHECK_INT(m.target.registers(&m.bench, s.registers, BL_DEBUG_REGISTERS, &s.count), BL_OK);
    return s;
}

static void same_state(const state *a, const state *b)
{
    CHECK_INT(a->cycles, b->cycles);
    CHECK_INT(a->sum, b->sum);
    for (size_t i = 0; i < a->count; i++)
        CHECK_INT(a->registers[i].value, b->registers[i].value);
}
#define same_state(...) TEST_CALL(same_state(__VA_ARGS__))

/* Any steps back lead to where the CPU was, on each family; with something changed on the way. */
TEST(steps_back_are_what_was)
{
    enum { STEPS = 2000 };
    static state states[STEPS + 1];
    for (size_t f = 0; f < family_count; f++) {
        begin(families[f].cpu, families[f].source);
        for (size_t i = 0; i <= STEPS; i++) {
            states[i] = state_now();
            if (i == STEPS) break;
            if (i == 1000)
                CHECK_INT(m.target.write(&m.bench, 0x480, (const uint8_t[]){(uint8_t)i}, 1), BL_OK);
            if (i == 1000) states[i] = state_now();
            CHECK_INT(m.target.step(&m.bench), BL_OK);
        }
        size_t at = STEPS;
        for (unsigned turn = 0; turn < 20; turn++) {
            uint32_t back = 1 + test_below(at > 400 ? 400 : 5);
            if (back > at) break;
            CHECK_INT(m.target.back(&m.bench, BL_BACK_STEPS, back), BL_OK);
            at -= back;
            state found = state_now();
            same_state(&found, &states[at]);
            /* And forward again. */
            if (at <= 1000) continue; /* where nobody changes anything now */
            for (unsigned n = test_below(30); n > 0 && at < STEPS; n--, at++)
                CHECK_INT(m.target.step(&m.bench), BL_OK);
            found = state_now();
            same_state(&found, &states[at]);
        }
        CHECK_INT(m.target.back(&m.bench, BL_BACK_STEPS, 100000), BL_E_NOT_FOUND);
        state found = state_now();
        same_state(&found, &states[at]); /* it stands where it stood */
        end();
    }
}

static const char counting[] = "        .org $0200\n"
                               "start:  ldx #0\n"
                               "loop:   inx\n"
                               "        txa\n"
                               "        and #$0F\n"
                               "        bne loop\n"
                               "mark:   stx $40\n"
                               "        jmp loop\n"
                               "        .entry start\n";

static void run_ms(uint32_t ms)
{
    bl_stop why;
    CHECK_INT(m.target.go(&m.bench, NULL), BL_OK);
    CHECK_INT(m.target.wait(&m.bench, ms * 1000, &why), BL_OK);
    CHECK_INT(m.target.stop(&m.bench), BL_OK);
}
#define run_ms(...) TEST_CALL(run_ms(__VA_ARGS__))

TEST(back_to_a_visit_and_to_a_write)
{
    begin("65c02", counting);
    run_ms(5000);
    int64_t last = machine_value(&m, "byte($40)");
    CHECK_INT(m.target.back(&m.bench, BL_BACK_WRITE, 0x40), BL_OK);
    CHECK_INT(machine_value(&m, "PC == mark"), 1);
    CHECK_INT(machine_value(&m, "X"), last);
    CHECK_INT(machine_value(&m, "byte($40)"), (last - 16) & 0xFF);
    CHECK_INT(m.target.step(&m.bench), BL_OK);
    CHECK_INT(machine_value(&m, "byte($40)"), last);
    CHECK_INT(m.target.back(&m.bench, BL_BACK_VISIT, 0x202), BL_OK); /* loop */
    CHECK_INT(machine_value(&m, "PC == loop"), 1);
    CHECK_INT(machine_value(&m, "X"), (last - 1) & 0xFF);
    CHECK_INT(m.target.back(&m.bench, BL_BACK_WRITE, 0x41), BL_E_NOT_FOUND);
    CHECK_INT(machine_value(&m, "PC == loop"), 1);
    CHECK_INT(m.target.back(&m.bench, BL_BACK_VISIT, 0x200), BL_OK); /* the very first */
    CHECK_INT(machine_value(&m, "PC"), 0x200);
    CHECK_INT(m.target.back(&m.bench, BL_BACK_STEPS, 1), BL_E_NOT_FOUND);
    end();
}

/* A long run is remembered all the way, and a million instructions back is exact. */
TEST(a_million_instructions_back)
{
    uint64_t before, after;
    begin("65c02", counting);
    run_ms(60000); /* more than there are moments */
    state here = state_now();
    before = here.cycles;
    CHECK_INT(m.target.back(&m.bench, BL_BACK_STEPS, 1000000), BL_OK);
    CHECK_INT(m.target.cycles(&m.bench, &after), BL_OK);
    CHECK(before - after > 2000000 && before - after < 4000000);
    sim_bench_run(&m.bench, m.bench.now);
    CHECK_INT(m.target.go(&m.bench, NULL), BL_OK);
    while (m.bench.board.cpu.cycles < before) {
        m.bench.stop = BL_STOP_NOT;
        CHECK_INT(m.target.step(&m.bench), BL_OK);
    }
    state found = state_now();
    same_state(&found, &here);
    end();
}

static bl_past_step seen[8];
static size_t seen_count;

static void keep_step(void *context, const bl_past_step *step)
{
    (void)context;
    if (seen_count < 8) seen[seen_count] = *step;
    seen_count++;
}

TEST(the_last_steps_and_what_they_did)
{
    begin("65c02", counting);
    run_ms(300);
    CHECK_INT(m.target.set_breakpoint(&m.bench, 0x204, true), BL_OK); /* the past does not mind */
    CHECK_INT(m.target.back(&m.bench, BL_BACK_WRITE, 0x40), BL_OK);
    CHECK_INT(m.target.step(&m.bench), BL_OK);
    state before = state_now();
    seen_count = 0;
    CHECK_INT(m.target.history(&m.bench, 5, NULL, keep_step), BL_OK);
    CHECK_INT(seen_count, 5);
    static const uint32_t places[] = {0x202, 0x203, 0x204, 0x206, 0x208};
    for (size_t i = 0; i < 5; i++)
        CHECK_INT(seen[i].address, places[i]);
    CHECK_TEXT(seen[0].changed[0].name, "x");
    CHECK_INT(seen[4].write_count, 1);
    CHECK_INT(seen[4].writes[0].address, 0x40);
    CHECK_INT(seen[4].writes[0].value, machine_value(&m, "X"));
    CHECK_INT(seen[4].writes[0].before, (machine_value(&m, "X") - 16) & 0xFF);
    CHECK_INT(seen[4].cycles + 3, before.cycles);
    state after = state_now();
    same_state(&after, &before);
    end();
}

TEST(watchpoints_stop_behind_the_access)
{
    bl_stop why;
    bl_access access;
    begin("65c02", counting);
    CHECK_INT(m.target.last_access(&m.bench, &access), BL_E_NOT_FOUND);
    CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){0x40, 1}, false, true), BL_OK);
    CHECK_INT(m.target.go(&m.bench, NULL), BL_OK);
    CHECK_INT(m.target.wait(&m.bench, 100000, &why), BL_OK);
    CHECK_INT(why, BL_STOP_WATCHPOINT);
    CHECK_INT(machine_value(&m, "PC"), 0x20A);
    CHECK_INT(m.target.last_access(&m.bench, &access), BL_OK);
    CHECK(access.write && access.address == 0x40 && access.value == 16);
    /* A watched program runs as one that nobody watches. */
    CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){0x40, 1}, false, false), BL_OK);
    CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){0x200, 0x100}, true, true), BL_OK);
    CHECK_INT(m.target.go(&m.bench, NULL), BL_OK);
    CHECK_INT(m.target.wait(&m.bench, 100000, &why), BL_OK);
    CHECK_INT(why, BL_STOP_NOT); /* code is fetched, not read */
    CHECK_INT(m.target.stop(&m.bench), BL_OK);
    for (uint32_t i = 0; i < SIM_WATCHPOINTS - 1; i++)
        CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){i, 1}, true, false), BL_OK);
    CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){0x90, 1}, true, false), BL_E_MEMORY);
    CHECK_INT(m.target.set_watchpoint(&m.bench, (bl_range){0xFFFF, 2}, true, false), BL_E_RANGE);
    sim_target_end(&m.bench);
    CHECK_INT(m.bench.board.watchpoint_count, 0);
    end();
}

TEST(without_memory_there_is_no_past_that_was_not)
{
    begin("65c02", counting);
    run_ms(50);
    test_memory_fail_at(1);
    CHECK_INT(m.target.write(&m.bench, 0x40, (const uint8_t[]){7}, 1), BL_OK);
    CHECK_INT(m.target.step(&m.bench), BL_OK);
    CHECK(test_memory_failed());
    CHECK_INT(m.target.back(&m.bench, BL_BACK_STEPS, 1), BL_E_NOT_FOUND);
    end();
}

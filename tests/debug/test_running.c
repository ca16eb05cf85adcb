/* Steps, over, out, until, lines, calls: on targets that can step and on those that cannot. */
#include "debug_support.h"

#include <string.h>

static machine m, other;
static bl_debug_result r;

static bl_text text_of(const char *text)
{
    return (bl_text){text, strlen(text)};
}

static uint32_t address_of(machine *k, const char *name)
{
    int64_t value = 0;
    CHECK_INT(bl_program_value(k->program, text_of(name), &value), BL_OK);
    return (uint32_t)value;
}

/* A target that cannot step, as one down a line. */
static void without_steps(machine *k)
{
    k->debug.target.step = NULL;
}

static bool five_times(void *context)
{
    return ++*(unsigned *)context < 5;
}

/* What does not end by itself within a second of the machine's time does not end. */
static unsigned slices;
static bool within_a_second(void *context)
{
    (void)context;
    return ++slices < 100;
}
static const bl_debug_watch patient = {NULL, within_a_second};

/* Both machines hold the same: registers, and all of memory. */
static void compare(unsigned turn)
{
    bl_register a[BL_DEBUG_REGISTERS], b[BL_DEBUG_REGISTERS];
    size_t count = 0, there = 0;
    CHECK_INT(m.target.registers(&m.bench, a, BL_DEBUG_REGISTERS, &count), BL_OK);
    CHECK_INT(other.target.registers(&other.bench, b, BL_DEBUG_REGISTERS, &there), BL_OK);
    CHECK_INT(count, there);
    for (size_t i = 0; i < count; i++)
        if (a[i].value != b[i].value)
            test_fail(__FILE__, __LINE__, "turn %u: %s is $%X and $%X", turn, a[i].name, a[i].value,
                      b[i].value);
    CHECK(memcmp(m.bench.board.ram, other.bench.board.ram, 0x10000) == 0);
}

TEST(steps_by_breakpoints_are_the_steps_of_the_cpu)
{
    for (size_t f = 0; f < family_count; f++) {
        slices = 0;
        machine_begin(&m, families[f].cpu, families[f].source);
        machine_begin(&other, families[f].cpu, families[f].source);
        without_steps(&other);
        for (unsigned turn = 0; turn < 10000; turn++) {
            CHECK_INT(bl_debug_step(&m.debug, &patient, &r), BL_OK);
            CHECK_INT(r.why, BL_DEBUG_DONE);
            CHECK_INT(bl_debug_step(&other.debug, &patient, &r), BL_OK);
            CHECK_INT(r.why, BL_DEBUG_DONE);
            if (turn % 100 == 0) compare(turn);
        }
        compare(10000);
        CHECK(machine_value(&m, "word(total)") > 300);
        CHECK_INT(other.bench.board.breakpoints.near_count, 0);
        machine_end(&m);
        machine_end(&other);
    }
}

/* In the middle of a routine that has pushed something and calls another one. */
static void over_and_out(bool steps)
{
    for (size_t f = 0; f < family_count; f++) {
        bl_debug_next next;
        slices = 0;
        machine_begin(&m, families[f].cpu, families[f].source);
        if (!steps) without_steps(&m);
        CHECK_INT(bl_debug_until(&m.debug, address_of(&m, "loop"), &patient, &r), BL_OK);
        CHECK_INT(bl_debug_next_places(&m.debug, &next), BL_OK);
        CHECK(next.calls);
        CHECK_INT(bl_debug_over(&m.debug, &patient, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK_INT(r.pc, next.behind);
        CHECK_INT(machine_value(&m, "word(total)"), 2);
        CHECK_INT(bl_debug_until(&m.debug, address_of(&m, "outer"), &patient, &r), BL_OK);
        CHECK_INT(bl_debug_until(&m.debug, address_of(&m, "inner"), &patient, &r), BL_OK);
        CHECK_INT(bl_debug_out(&m.debug, &patient, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        if (r.pc <= address_of(&m, "outer") || r.pc >= address_of(&m, "inner"))
            test_fail(__FILE__, __LINE__, "%s: out led to $%04X", families[f].cpu, r.pc);
        /* Once more: out of what called, with something pushed, and another call ahead. */
        int64_t before = machine_value(&m, "word(total)");
        CHECK_INT(bl_debug_step(&m.debug, &patient, &r), BL_OK);
        CHECK_INT(bl_debug_out(&m.debug, &patient, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK(r.pc < address_of(&m, "outer"));
        CHECK_INT(machine_value(&m, "word(total)"), before + 1);
        machine_end(&m);
    }
}
#define over_and_out(...) TEST_CALL(over_and_out(__VA_ARGS__))

TEST(over_and_out_by_steps)
{
    over_and_out(true);
}

TEST(over_and_out_by_breakpoints)
{
    over_and_out(false);
}

TEST(a_routine_is_called_and_comes_back)
{
    for (size_t f = 0; f < family_count; f++) {
        slices = 0;
        machine_begin(&m, families[f].cpu, families[f].source);
        CHECK_INT(bl_debug_until(&m.debug, address_of(&m, "loop"), &patient, &r), BL_OK);
        char stack[8] = {0};
        bl_text name = bl_sheet_stack(m.sheet);
        memcpy(stack, name.at, name.length);
        int64_t before = machine_value(&m, stack);
        CHECK_INT(bl_debug_call(&m.debug, address_of(&m, "outer"), &patient, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK_INT(r.pc, address_of(&m, "loop"));
        CHECK_INT(machine_value(&m, stack), before);
        CHECK_INT(machine_value(&m, "word(total)"), 2);
        machine_end(&m);
    }
}

TEST(who_called_is_guessed_from_the_stack)
{
    for (size_t f = 0; f < family_count; f++) {
        bl_debug_caller callers[BL_DEBUG_CALLERS];
        size_t count = 0;
        char name[200];
        slices = 0;
        machine_begin(&m, families[f].cpu, families[f].source);
        CHECK_INT(bl_debug_until(&m.debug, address_of(&m, "inner"), &patient, &r), BL_OK);
        CHECK_INT(bl_debug_callers(&m.debug, 8, callers, BL_DEBUG_CALLERS, &count), BL_OK);
        CHECK(count >= 2);
        if (!callers[0].fits || !callers[1].fits)
            test_fail(__FILE__, __LINE__, "%s: $%04X %d, $%04X %d", families[f].cpu,
                      callers[0].call, callers[0].fits, callers[1].call, callers[1].fits);
        CHECK_INT(callers[0].callee, address_of(&m, "inner"));
        CHECK_INT(callers[1].callee, address_of(&m, "outer"));
        bl_debug_name(&m.debug, callers[1].call, name, sizeof name);
        CHECK_TEXT(name, "loop");
        machine_end(&m);
    }
}

TEST(a_source_line_is_one_step)
{
    bl_place place;
    machine_begin(&m, "65c02",
                  "        .macro twice COUNTER\n"
                  "        inc COUNTER\n"
                  "        inc COUNTER\n"
                  "        .end\n"
                  "        .org $0200\n"
                  "start:  ldx #$FF\n"
                  "        txs\n"
                  "loop:   twice $10\n"
                  "        jsr there\n"
                  "        .runat $0500\n"
                  "moved:  lda #1\n"
                  "        .end\n"
                  "        jmp loop\n"
                  "there:  rts\n"
                  "stay:   jmp stay\n"
                  "spare:  .reserve 4\n"
                  "        .entry start\n");
    /* What is kept for .runat is no source line where it is kept. */
    static const uint32_t lines[] = {7, 2, 3, 9, 13, 2, 3, 9};
    for (size_t i = 0; i < BL_COUNT(lines); i++) {
        CHECK_INT(bl_debug_line(&m.debug, false, &patient, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK(bl_debug_place(&m.debug, r.pc, &place));
        CHECK_INT(place.line, lines[i]);
    }
    CHECK_INT(bl_debug_line(&m.debug, true, &patient, &r), BL_OK); /* into the routine */
    CHECK_INT(r.pc, address_of(&m, "there"));
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("PC"), address_of(&m, "stay")), BL_OK);
    CHECK_INT(bl_debug_line(&m.debug, false, &patient, &r), BL_OK); /* comes round */
    CHECK_INT(r.pc, address_of(&m, "stay"));
    CHECK(bl_debug_place(&m.debug, 0x501, &place));
    CHECK_INT(place.line, 11);
    CHECK_TEXT(place.label, "moved");
    CHECK_INT(place.beyond, 1);
    CHECK_INT(place.stored, address_of(&m, "loop") + 8);
    CHECK(bl_debug_place(&m.debug, address_of(&m, "spare") + 3, &place));
    CHECK(!place.filled);
    CHECK(!bl_debug_place(&m.debug, address_of(&m, "spare") + 4, &place));
    bl_text line;
    uint32_t addresses[4];
    CHECK(bl_program_line_text(m.program, text_of("t.asm"), 14, &line));
    CHECK_BYTES(line.at, line.length, "there:  rts", 11);
    CHECK(!bl_program_line_text(m.program, text_of("t.asm"), 99, &line));
    CHECK(!bl_program_line_text(m.program, text_of("asm"), 1, &line));
    CHECK_INT(bl_program_line_places(m.program, text_of("t.asm"), 14, addresses, 4), 1);
    CHECK_INT(addresses[0], address_of(&m, "there"));
    CHECK_INT(bl_program_line_places(m.program, text_of("t.asm"), 1, addresses, 4), 0);
    machine_end(&m);
}

TEST(a_run_ends_when_nobody_wants_it_to_go_on)
{
    unsigned asked = 0;
    bl_debug_watch watch = {&asked, five_times};
    machine_begin(&m, "65c02",
                  " .org $200\nstart: inx\n jmp start\nwait: wai\n nop\n .entry start\n");
    CHECK_INT(bl_debug_go(&m.debug, NULL, &watch, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_ENDED);
    CHECK_INT(asked, 5);
    CHECK(r.pc >= 0x200 && r.pc < 0x204);
    uint32_t entry = address_of(&m, "wait");
    asked = 0;
    CHECK_INT(bl_debug_go(&m.debug, &entry, &watch, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_WAITS);
    CHECK_INT(bl_debug_step(&m.debug, &patient, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_WAITS);
    machine_end(&m);
}

/* An interrupt that comes while an instruction is stepped is run through. */
TEST(interrupts_are_run_through)
{
    machine_begin(&m, "65c02",
                  " .org $200\nstart: cli\nloop: inx\n jmp loop\n"
                  "irq: inc $10\n lda #0\n sta $11\n rti\n .entry start\n .vector irq, irq\n");
    CHECK_INT(bl_debug_step(&m.debug, &patient, &r), BL_OK);
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("X"), 0), BL_OK);
    m.bench.board.cpu.nmi = true;
    m.bench.board.ram[0xFFFA] = m.bench.board.ram[0xFFFE];
    m.bench.board.ram[0xFFFB] = m.bench.board.ram[0xFFFF];
    CHECK_INT(bl_debug_step(&m.debug, &patient, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_DONE);
    CHECK_INT(r.pc, address_of(&m, "loop") + 1);
    CHECK_INT(machine_value(&m, "byte($10)"), 1);
    CHECK_INT(machine_value(&m, "X"), 1);
    machine_end(&m);
}

/* Breakpoints: counts, conditions, what they cannot be; and values of registers and names. */
#include "debug_support.h"

#include <string.h>

static machine m;
static bl_debug_result r;
static bl_formula_fault fault;

static const char counting[] = "        .org $0200\n"
                               "start:  ldx #0\n"
                               "loop:   inx\n"
                               "        stx here_is\n"
                               "        jmp loop\n"
                               "here_is: .byte 0\n"
                               "LIMIT = 9\n"
                               "        .entry start\n";

static bl_text text_of(const char *text)
{
    return (bl_text){text, strlen(text)};
}

static bl_status set_at(uint32_t address, uint32_t count, const char *condition, size_t *index)
{
    return bl_debug_break(&m.debug, address, count, text_of(condition), index, &fault);
}

TEST(a_breakpoint_stops_each_time_or_each_nth_time)
{
    size_t index;
    machine_begin(&m, "65c02", counting);
    CHECK_INT(set_at(0x203, 0, "", &index), BL_OK);
    for (int n = 1; n <= 3; n++) {
        CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_BREAKPOINT);
        CHECK_INT(r.index, index);
        CHECK_INT(machine_value(&m, "X"), n);
    }
    CHECK_INT(set_at(0x203, 4, "", &index), BL_OK); /* the same place: the same breakpoint */
    CHECK_INT(index, 0);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(machine_value(&m, "X"), 7);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(machine_value(&m, "X"), 11);
    CHECK_INT(bl_debug_end(&m.debug), BL_OK);
    CHECK_INT(m.bench.board.breakpoints.near_count, 0);
    machine_end(&m);
}

TEST(a_condition_is_over_registers_memory_and_symbols)
{
    size_t index;
    machine_begin(&m, "65c02", counting);
    CHECK_INT(set_at(0x206, 0, "x > LIMIT && byte(here_is) == 12 && here == $206", &index), BL_OK);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_BREAKPOINT);
    CHECK_INT(machine_value(&m, "x"), 12);
    CHECK_INT(set_at(0x206, 2, "(x & 1) == 0", &index), BL_OK); /* counts those that are met */
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(machine_value(&m, "x"), 16);
    /* One that cannot be worked out any more stops, and says why it did. */
    CHECK_INT(set_at(0x206, 0, "20 / (x - 17) == 1000", &index), BL_OK);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_FAULT);
    CHECK_INT(machine_value(&m, "x"), 17);
    machine_end(&m);
}

TEST(what_a_breakpoint_cannot_be_is_told_at_once)
{
    size_t index;
    machine_begin(&m, "65c02", counting);
    CHECK_INT(set_at(0x203, 0, "nobody == 1", &index), BL_E_SYNTAX);
    CHECK_CONTAINS(fault.why, "'nobody' has no value");
    CHECK_INT(set_at(0x203, 0, "x ==", &index), BL_E_SYNTAX);
    CHECK_INT(set_at(0x10000, 0, "", &index), BL_E_RANGE);
    CHECK_INT(m.bench.board.breakpoints.near_count, 0);
    for (uint32_t i = 0; i < BL_DEBUG_BREAKPOINTS; i++)
        CHECK_INT(set_at(0x300 + i, 0, "", &index), BL_OK);
    CHECK_INT(set_at(0x400, 0, "", &index), BL_E_MEMORY);
    CHECK_INT(bl_debug_unbreak(&m.debug, 7), BL_OK);
    CHECK_INT(bl_debug_unbreak(&m.debug, 7), BL_E_NOT_FOUND);
    CHECK_INT(set_at(0x400, 0, "", &index), BL_OK);
    CHECK_INT(index, 7);
    m.debug.target.set_breakpoint = NULL;
    CHECK_INT(set_at(0x500, 0, "", &index), BL_E_UNSUPPORTED);
    machine_end(&m);
}

TEST(a_breakpoint_that_is_off_does_not_stop)
{
    size_t first, second;
    machine_begin(&m, "65c02", counting);
    CHECK_INT(set_at(0x203, 0, "", &first), BL_OK);
    CHECK_INT(set_at(0x206, 0, "", &second), BL_OK);
    CHECK_INT(bl_debug_break_off(&m.debug, first, true), BL_OK);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.pc, 0x206);
    CHECK_INT(bl_debug_break_off(&m.debug, first, false), BL_OK);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.pc, 0x203);
    /* A place of the debugger's own beside one of the user's takes nothing away. */
    CHECK_INT(bl_debug_until(&m.debug, 0x206, NULL, &r), BL_OK);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.pc, 0x203);
    CHECK_INT(bl_debug_go(&m.debug, NULL, NULL, &r), BL_OK);
    CHECK_INT(r.pc, 0x206);
    machine_end(&m);
}

TEST(pairs_are_two_registers)
{
    uint32_t value;
    machine_begin(&m, "z80", " nop\n");
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("HL"), 0x1234), BL_OK);
    CHECK_INT(machine_value(&m, "h"), 0x12);
    CHECK_INT(machine_value(&m, "L"), 0x34);
    CHECK_INT(machine_value(&m, "hl + 1"), 0x1235);
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("hl'"), 0xABCD), BL_OK);
    CHECK_INT(machine_value(&m, "HL'"), 0xABCD);
    CHECK_INT(machine_value(&m, "HL"), 0x1234);
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("HL"), 0x12345), BL_E_RANGE);
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("H"), 256), BL_E_RANGE);
    CHECK_INT(bl_debug_set_register(&m.debug, text_of("HX"), 2), BL_E_NOT_FOUND);
    CHECK_INT(bl_debug_register(&m.debug, text_of("HX"), &value), BL_E_NOT_FOUND);
    m.debug.target.registers = NULL;
    CHECK_INT(bl_debug_register(&m.debug, text_of("HL"), &value), BL_E_UNSUPPORTED);
    CHECK_INT(bl_debug_step(&m.debug, NULL, &r), BL_E_UNSUPPORTED);
    machine_end(&m);
}

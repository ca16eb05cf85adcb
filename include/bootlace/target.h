/* target.h - a machine whose memory and CPU can be looked at and changed: a simulated board, a
 * board down a line with Eyelet in it, a monitor that a dialogue describes.
 *
 * A set of functions that somebody supplies. Each of them may be NULL: this target cannot do that.
 * ports/sim/sim_target.h has all of them; drive_target.h has those that Eyelet and dialogues can
 * do.
 *
 * Addresses count bytes, as those of an image do (sheet.h, bl_sheet_unit_bytes). Buffers belong to
 * the caller and are used during the call only. A target is used by one thread at a time, and not
 * from an interrupt; a call returns when the work is done or has failed, retries included.
 *
 * Every function may return BL_E_IO: the port's device is gone; BL_E_TIMEOUT: nobody answers, or
 * the board is off; BL_E_LINE: the line damages everything; BL_E_REFUSED: the remote said no;
 * BL_E_SYNTAX: its answer makes no sense; BL_E_RANGE: an address or a count that it does not have;
 * BL_E_UNSUPPORTED: it cannot do this now.
 */
#ifndef BOOTLACE_TARGET_H
#define BOOTLACE_TARGET_H

#include "number.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Why the CPU stands. */
typedef enum bl_stop {
    BL_STOP_NOT,        /* it runs */
    BL_STOP_ASKED,      /* stop was called, or a step is done */
    BL_STOP_BREAKPOINT, /* at a breakpoint; the instruction there has not been executed */
    BL_STOP_WAITS,      /* it runs, and waits for an interrupt or a reset (HLT, WAI, SYNC) */
    BL_STOP_WATCHPOINT, /* behind an instruction that met a watchpoint; last_access tells more */
} bl_stop;

typedef struct bl_register {
    const char *name; /* as in the CPU's sheet; lives as long as the target */
    unsigned bits;
    uint32_t value;
} bl_register;

/* An access of an instruction's to memory or to a device. */
typedef struct bl_access {
    uint32_t address;
    bool write;
    uint8_t value, before; /* before: what was there; of a device's register unknown, and 0 */
} bl_access;

/* One instruction (or the entry into one interrupt) of the past, and what it did. */
enum { BL_PAST_REGISTERS = 12, BL_PAST_ACCESSES = 4 };
typedef struct bl_past_step {
    uint32_t address;
    uint64_t cycles; /* since power-on, before it */
    size_t register_count;
    bl_register changed[BL_PAST_REGISTERS]; /* with the values that they had afterwards */
    size_t write_count;
    bl_access writes[BL_PAST_ACCESSES]; /* the first of them */
} bl_past_step;

/* What the CPU can be taken back to. */
typedef enum bl_back {
    BL_BACK_STEPS, /* so many instructions */
    BL_BACK_VISIT, /* the last time that it was about to execute what is at an address */
    BL_BACK_WRITE, /* before the instruction that wrote to an address last */
} bl_back;

typedef struct bl_target {
    void *context; /* handed to each function */

    /* A breakpoint is an instruction in memory: go meets also the one where the CPU stands. */
    bool breakpoints_are_code;

    /* count bytes from an address on. Devices are not disturbed where that can be known. */
    bl_status (*read)(void *context, uint32_t address, uint8_t *bytes, size_t count);

    /* BL_E_DIFFERS: memory did not keep it, as far as the target can tell; what lies before may
     * have been stored. */
    bl_status (*write)(void *context, uint32_t address, const uint8_t *bytes, size_t count);

    /* CRC-32 (crc.h) that the target itself computes over its memory. */
    bl_status (*sum)(void *context, bl_range range, uint32_t *crc);

    /* All that people look at. *count: how many there are, also when capacity is less. */
    bl_status (*registers)(void *context, bl_register *list, size_t capacity, size_t *count);

    /* BL_E_NOT_FOUND: no such register; BL_E_RANGE: the value is too large for it. */
    bl_status (*set_register)(void *context, const char *name, uint32_t value);

    /* One instruction, or the entry into one interrupt, of a CPU that stands. */
    bl_status (*step)(void *context);

    /* Lets the CPU run: from *entry, or from where it stands (NULL). Returns at once. The first
     * instruction is executed although a breakpoint may be there, unless breakpoints_are_code. */
    bl_status (*go)(void *context, const uint32_t *entry);

    /* Lets the target's time pass: until the CPU stops, at most so many microseconds. *why tells
     * how it is then. */
    bl_status (*wait)(void *context, uint32_t microseconds, bl_stop *why);

    /* Has the CPU stand where it is. Where that needs the program's help (Eyelet: it polls the
     * line) BL_E_TIMEOUT tells that none came. */
    bl_status (*stop)(void *context);

    /* A place where the CPU is to stop before it executes what is there. Twice is once.
     * BL_E_MEMORY: there are no more of them. */
    bl_status (*set_breakpoint)(void *context, uint32_t address, bool on);

    /* Stops the CPU behind an instruction that reads or writes one of these addresses. Neither
     * reads nor writes: takes the watchpoint of this range away. BL_E_MEMORY: there are no more. */
    bl_status (*set_watchpoint)(void *context, bl_range range, bool reads, bool writes);

    /* The access that met a watchpoint. BL_E_NOT_FOUND: none has yet. */
    bl_status (*last_access)(void *context, bl_access *access);

    /* The past: how many cycles the CPU has had since power-on; back to an earlier moment, number
     * being steps or an address (BL_E_NOT_FOUND: not in the past that is known; the CPU stands
     * where it stood); the last steps, the oldest first. All stops that are set stay as they are.
     */
    bl_status (*cycles)(void *context, uint64_t *cycles);
    bl_status (*back)(void *context, bl_back what, uint32_t number);
    bl_status (*history)(void *context, uint32_t steps, void *visitor,
                         void (*visit)(void *visitor, const bl_past_step *step));

    /* The reset line: CPU and devices begin anew, memory stays. The CPU runs on from its vector, or
     * stands there when it stood before. */
    bl_status (*reset)(void *context);
} bl_target;

#ifdef __cplusplus
}
#endif
#endif

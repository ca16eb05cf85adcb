/* debug.h - finding out what a program does: breakpoints, steps, where the CPU goes next, what an
 * address is called, who called. It works on any target (target.h) as far as that target can, and
 * on any sheet as far as that sheet tells (docs/sheets.md: registers, calls, returns, leads).
 *
 * A bl_debug belongs to the caller and allocates nothing. Target, sheet and programs must outlive
 * it. Addresses are those of the CPU. What the target returns (target.h) every function may return;
 * BL_E_UNSUPPORTED means that the target cannot do what this needs.
 */
#ifndef BOOTLACE_DEBUG_H
#define BOOTLACE_DEBUG_H

#include "asm.h"
#include "formula.h"
#include "sheet.h"
#include "target.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_DEBUG_BREAKPOINTS = 32,
    BL_DEBUG_NEXT = 8, /* places that one instruction can go to */
    BL_DEBUG_REGISTERS = 48,
    BL_DEBUG_CALLERS = 16,
};

/* Stops the CPU before it executes what is at an address. */
typedef struct bl_breakpoint {
    bool used, off;
    uint32_t address;
    uint32_t count;                         /* stops each count-th time only; 0 stands for 1 */
    uint32_t reached;                       /* times its condition was met, since it was set */
    char condition[BL_FORMULA_LONGEST + 1]; /* met when it is not 0; empty: always */
} bl_breakpoint;

typedef struct bl_debug {
    bl_target target;
    const bl_sheet *sheet;
    /* Of a CPU with modes: the sheet of what is at an address, one with the same registers, which
     * lives as long as sheet. NULL: it has one sheet. */
    const bl_sheet *(*sheet_at)(void *context, uint32_t address);
    bl_program *const *programs; /* that may be in the memory; may be NULL */
    size_t program_count;
    /* Names beyond those of registers and programs, and addresses that have one; may be NULL.
     * label: false when it has none; the text ends with a zero. */
    void *context;
    bl_status (*name)(void *context, bl_text name, int64_t *value);
    bool (*label)(void *context, uint32_t address, char *buffer, size_t capacity);
    bl_breakpoint breakpoints[BL_DEBUG_BREAKPOINTS];
} bl_debug;

void bl_debug_begin(bl_debug *debug, const bl_target *target, const bl_sheet *sheet);
/* Takes the breakpoints off the target. */
bl_status bl_debug_end(bl_debug *debug);

/* ---- registers, values, names ---- */

/* A register of the target, or a pair of the sheet, by name in either case. BL_E_NOT_FOUND. */
bl_status bl_debug_register(const bl_debug *debug, bl_text name, uint32_t *value);
/* BL_E_RANGE: the value is too large for it. */
bl_status bl_debug_set_register(const bl_debug *debug, bl_text name, uint32_t value);

/* A formula (formula.h). Names are registers, then labels and constants of the programs, then what
 * debug->name knows; here is the program counter. fault may be NULL. */
bl_status bl_debug_evaluate(const bl_debug *debug, bl_text text, int64_t *value,
                            bl_formula_fault *fault);

/* What an address is called: the first program's that has something there. False: nobody's. */
bool bl_debug_place(const bl_debug *debug, uint32_t address, bl_place *place);
/* "light+2", or "light", or what debug->label says, or an empty text. Returns the length; text that
 * does not fit is cut. */
size_t bl_debug_name(const bl_debug *debug, uint32_t address, char *buffer, size_t capacity);

/* ---- instructions ---- */

/* An instruction in memory. */
typedef struct bl_debug_instruction {
    uint32_t address;
    const bl_sheet *sheet; /* that it was decoded by */
    bl_decoded decoded;
    uint16_t units[BL_FORM_UNITS];
} bl_debug_instruction;

/* BL_E_NOT_FOUND: the sheet has no instruction that begins like this; units are there all the same.
 */
bl_status bl_debug_decode(const bl_debug *debug, uint32_t address, bl_debug_instruction *out);
/* As source text, with names for addresses. Returns the length; text that does not fit is cut. */
size_t bl_debug_text(const bl_debug *debug, const bl_debug_instruction *instruction, char *buffer,
                     size_t capacity);

/* Where the CPU can go from an instruction, worked out from the sheet, the registers and memory as
 * they are now. An interrupt may come between. */
typedef struct bl_debug_next {
    uint32_t places[BL_DEBUG_NEXT]; /* what follows it first, when that is one */
    size_t count;
    uint32_t behind; /* the address behind the instruction */
    bool falls;      /* it can go there */
    bool calls, returns, repeats;
} bl_debug_next;

/* BL_E_NOT_FOUND: no instruction is at the program counter. */
bl_status bl_debug_next_places(const bl_debug *debug, bl_debug_next *next);

/* ---- breakpoints ---- */

/* Sets one; condition may be empty. *index: which it became. One that is there already at that
 * address is changed. BL_E_MEMORY: there are no more; BL_E_SYNTAX: the condition is no formula, or
 * a name in it has no value (*fault tells). fault may be NULL. */
bl_status bl_debug_break(bl_debug *debug, uint32_t address, uint32_t count, bl_text condition,
                         size_t *index, bl_formula_fault *fault);
/* Switches one off, or on again. BL_E_NOT_FOUND: there is none with this index. */
bl_status bl_debug_break_off(bl_debug *debug, size_t index, bool off);
bl_status bl_debug_unbreak(bl_debug *debug, size_t index);
/* Which of them is at an address and on; BL_DEBUG_BREAKPOINTS: none. */
size_t bl_debug_breakpoint_at(const bl_debug *debug, uint32_t address);

/* ---- running ---- */

typedef enum bl_debug_why {
    BL_DEBUG_DONE,       /* the step is done, or the place is reached */
    BL_DEBUG_BREAKPOINT, /* at a breakpoint; *index tells which */
    BL_DEBUG_ENDED,      /* the caller's go_on said so; the CPU was stopped */
    BL_DEBUG_WAITS,      /* the CPU waits for an interrupt that does not come */
    BL_DEBUG_WATCHPOINT, /* behind an instruction that met one; target.last_access tells more */
    BL_DEBUG_FAULT,      /* the condition of breakpoint *index could not be worked out */
} bl_debug_why;

enum { BL_DEBUG_SLICE_US = 10000 }; /* of the target's time, from one question to the next */

/* Asked again and again while the CPU runs; returning false ends it. May be all zero: then it runs
 * until it stops by itself, for ever if need be. */
typedef struct bl_debug_watch {
    void *context;
    bool (*go_on)(void *context);
} bl_debug_watch;

typedef struct bl_debug_result {
    bl_debug_why why;
    size_t index; /* of the breakpoint */
    uint32_t pc;
    uint64_t steps; /* single steps that were made; 0 when it ran */
} bl_debug_result;

/* One instruction. A block instruction that repeats itself is one, with all its turns. On a target
 * that cannot step, by breakpoints at all places where it can go: an interrupt is then run through,
 * and BL_E_DIFFERS tells that a place is in memory that keeps no breakpoint. */
bl_status bl_debug_step(bl_debug *debug, const bl_debug_watch *watch, bl_debug_result *result);
/* The same, but a call is run through until it comes back. */
bl_status bl_debug_over(bl_debug *debug, const bl_debug_watch *watch, bl_debug_result *result);
/* Until the routine that is being run comes back: exact on a target that can step; on another one
 * to the nearest guess of bl_debug_callers. BL_E_NOT_FOUND: nobody seems to have called. */
bl_status bl_debug_out(bl_debug *debug, const bl_debug_watch *watch, bl_debug_result *result);
/* Until an address is reached. */
bl_status bl_debug_until(bl_debug *debug, uint32_t address, const bl_debug_watch *watch,
                         bl_debug_result *result);
/* Until another source line begins; calls are run through unless into. Where no source line is
 * known: one instruction. */
bl_status bl_debug_line(bl_debug *debug, bool into, const bl_debug_watch *watch,
                        bl_debug_result *result);
/* From *entry, or from where it stands (NULL), until a breakpoint. */
bl_status bl_debug_go(bl_debug *debug, const uint32_t *entry, const bl_debug_watch *watch,
                      bl_debug_result *result);
/* Calls a routine as an instruction would, and stops when it has come back; then the program
 * counter is where it was, and all else as the routine left it. BL_E_UNSUPPORTED: the sheet does
 * not tell how routines return. */
bl_status bl_debug_call(bl_debug *debug, uint32_t routine, const bl_debug_watch *watch,
                        bl_debug_result *result);

/* ---- callers ---- */

/* A guess: a value on the stack, in front of which a call stands. */
typedef struct bl_debug_caller {
    uint32_t call;   /* the address of the call */
    uint32_t back;   /* where it would come back to */
    uint32_t stack;  /* how far above the stack pointer the value is, in addresses */
    uint32_t callee; /* whom it calls; only when known */
    bool callee_known;
    bool fits; /* it calls the routine that the CPU is in, or that the caller before is in */
} bl_debug_caller;

/* Looks at the stack, at most depth addresses up. *count: how many were found. BL_E_UNSUPPORTED:
 * the sheet does not tell how routines return. */
bl_status bl_debug_callers(const bl_debug *debug, uint32_t depth, bl_debug_caller *callers,
                           size_t capacity, size_t *count);

#ifdef __cplusplus
}
#endif
#endif

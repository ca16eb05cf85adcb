/* monitor_parts.h - what the monitor's files share. */
#ifndef BOOTLACE_HOST_MONITOR_PARTS_H
#define BOOTLACE_HOST_MONITOR_PARTS_H

#include "monitor.h"
#include "project/whereis.h"

enum { MONITOR_TOKENS = 64, MONITOR_WATCHED = 16, MONITOR_WATCHPOINTS = 8 };

typedef char monitor_address_buffer[24];

typedef struct monitor_watchpoint {
    bl_range range; /* count 0: none */
    bool reads;
} monitor_watchpoint;

/* A word of a line. A text in quotes keeps its blanks, and its quotes are gone. */
typedef struct monitor_token {
    char *text;
    bool quoted;
} monitor_token;

typedef struct monitor_older monitor_older; /* a name of a build that is not that of now */

struct monitor {
    const bench *b;
    bl_debug debug;
    bl_sheet *mode; /* the other mode of a CPU that has two: what has 24 bits; or NULL */
    bl_debug_watch watch;
    const project_extras *extras;
    project *built; /* NULL: not yet, or it has faults */
    bool tried;     /* to build */
    bl_program *sent;
    whereis names, later; /* what is for RAM, then what is for chips */
    bl_program *programs[66];
    places where;
    uint32_t space;    /* addresses: 64 KiB, or 16 MiB with 24 bits of address */
    uint8_t *before;   /* memory as it was last seen, */
    uint8_t *looked;   /* where this is not 0 */
    uint32_t next;     /* where looking goes on */
    bool next_is_code; /* as instructions */
    GArray *journal;   /* of changes, the newest last */
    char *watched[MONITOR_WATCHED];
    monitor_watchpoint watchpoints[MONITOR_WATCHPOINTS];
    GHashTable *outdated; /* pieces of the build of now of which an older version is in memory */
    GHashTable *absent;   /* pieces for RAM that are not in memory, as far as that was looked at */
    GArray *older;        /* names of builds that are in memory, but not those of now */
    bool enters;          /* instructions, at */
    uint32_t entering;
    monitor_address_buffer entering_text;
    /* of the line that is being obeyed */
    GString *out, *said;
    monitor_token token[MONITOR_TOKENS];
    size_t count;
    const char *line; /* as it was given */
};

/* Says what is wrong. Returns false. */
bool monitor_fail(monitor *m, const char *message, ...) G_GNUC_PRINTF(2, 3);
/* The same, of a target's status; what: "memory", "the registers". */
bool monitor_fail_status(monitor *m, const char *what, bl_status status);
/* The same, of a formula, with a mark under its fault. */
bool monitor_fail_formula(monitor *m, const char *text, const bl_formula_fault *fault);
/* Is there an operand with this index? */
static inline bool monitor_has(const monitor *m, size_t index)
{
    return index < m->count;
}
/* The operand is this word. */
bool monitor_is(const monitor *m, size_t index, const char *word);
/* No more operands than this; told when there are. */
bool monitor_at_most(monitor *m, size_t count);
/* Operands as addresses, ranges, values; faults told. */
bool monitor_take_address(monitor *m, size_t index, uint32_t *address);
bool monitor_take_range(monitor *m, size_t index, bl_range *range);
/* Digits alone are in the machine's radix, all else is a formula. */
bool monitor_take_value(monitor *m, size_t index, int64_t low, int64_t high, int64_t *value);
bool monitor_value_of(monitor *m, const char *text, int64_t *value);
/* How often, or which of several: a number from 1 on, decimal as people count. */
bool monitor_take_count(monitor *m, size_t index, int64_t most, int64_t *count);
/* Is this a register of a device? To be read changes some of them. */
bool monitor_is_device(const monitor *m, uint32_t address);
/* FILE:LINE taken apart. False: it is something else. */
bool monitor_split_line(const char *text, bl_text *file, uint32_t *line);
/* What the build has at an address, and the text of a line of its sources. False: nothing. */
bool monitor_built_byte(const monitor *m, uint32_t address, uint8_t *byte);
bool monitor_source_line(const monitor *m, bl_text file, uint32_t line, bl_text *text);
/* What is left of the line from an operand on. */
const char *monitor_rest(const monitor *m, size_t index);
/* The build, when there is one. */
void monitor_need_build(monitor *m);
bool monitor_may_go_on(const monitor *m);

/* Texts: addresses and bytes in the machine's radix. */
const char *monitor_address_text(const monitor *m, monitor_address_buffer buffer, uint32_t address);
void monitor_put_address(monitor *m, uint32_t address);
void monitor_put_byte(GString *s, const bench *b, uint8_t byte);
/* "light+2", or nothing. */
void monitor_put_name(monitor *m, const char *before, uint32_t address);
/* A row of code; returns the bytes it took, 0 when memory could not be read. */
uint32_t monitor_put_code(monitor *m, uint32_t address);

GArray *monitor_new_journal(void);
/* monitor_identify.c: names of what was identified. */
void monitor_gather_names(monitor *m); /* after outdated or absent was changed */
void monitor_find_absent(monitor *m);
GArray *monitor_new_older(void);
void monitor_forget_older(monitor *m);
const char *monitor_older_name(const monitor *m, uint32_t address);
bool monitor_older_address(const monitor *m, const char *name, uint32_t *address);

/* Values from an operand on, as bytes: numbers, texts, words. Free with g_byte_array_free. */
bool monitor_take_bytes(monitor *m, size_t index, GByteArray **pattern);

/* What each word does. False: it failed, and that was told. */
bool monitor_do_see(monitor *m);
bool monitor_do_code(monitor *m);
bool monitor_do_text(monitor *m);
bool monitor_do_value(monitor *m);
bool monitor_do_find(monitor *m);
bool monitor_do_compare(monitor *m);
bool monitor_do_source(monitor *m);
bool monitor_do_put(monitor *m);
bool monitor_do_fill(monitor *m);
bool monitor_do_copy(monitor *m);
bool monitor_do_enter(monitor *m);
bool monitor_do_undo(monitor *m);
bool monitor_do_changes(monitor *m);
bool monitor_do_registers(monitor *m);
bool monitor_do_run(monitor *m);
bool monitor_do_call(monitor *m);
bool monitor_do_step(monitor *m);
bool monitor_do_over(monitor *m);
bool monitor_do_out(monitor *m);
bool monitor_do_until(monitor *m);
bool monitor_do_line(monitor *m);
bool monitor_do_halt(monitor *m);
bool monitor_do_callers(monitor *m);
bool monitor_do_breakpoint(monitor *m);
bool monitor_do_watch(monitor *m);
bool monitor_do_watchpoint(monitor *m);
bool monitor_do_history(monitor *m);
bool monitor_do_back(monitor *m);
bool monitor_do_cycles(monitor *m);
bool monitor_do_pieces(monitor *m);
bool monitor_do_identify(monitor *m);
bool monitor_do_test(monitor *m);
bool monitor_do_reset(monitor *m);

/* Registers, the next instruction, its source line, and what is watched. */
void monitor_show_stop(monitor *m);
void monitor_put_watched(monitor *m);
/* The access that met a watchpoint. */
void monitor_put_access(monitor *m);
/* Takes one more line of what is entered. */
bool monitor_enter_line(monitor *m, const char *line);

#endif

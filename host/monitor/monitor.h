/* monitor.h - looking at a machine and changing it, by words: what memory holds, registers, runs,
 * breakpoints. What is asked is a line of text, what comes is text; it reads no keys and prints
 * nothing. docs/console.md lists the words.
 */
#ifndef BOOTLACE_HOST_MONITOR_H
#define BOOTLACE_HOST_MONITOR_H

#include <glib.h>

#include "bootlace/debug.h"
#include "project/places.h"

typedef struct monitor monitor;

/* Bench and target must outlive it; extras (may be NULL) are those of the builds. */
monitor *monitor_open(const bench *b, const bl_target *target, const project_extras *extras);
/* Takes breakpoints away. */
void monitor_close(monitor *m);

/* Asked while the machine runs or is searched through; all zero: nobody is. */
void monitor_set_watch(monitor *m, bl_debug_watch watch);
/* A program that was sent: its names count before those of the build, which is made anew when it is
 * needed. It must live until another one takes its place, or the monitor ends. NULL: none. */
void monitor_set_program(monitor *m, bl_program *program);
/* Memory was changed by somebody else: what was changed here before cannot be taken back. */
void monitor_forget_memory(monitor *m);

typedef enum monitor_status {
    MONITOR_GOOD,
    MONITOR_FAILED,  /* said tells why */
    MONITOR_UNKNOWN, /* the first word is none of the monitor's */
} monitor_status;

/* Obeys one line. out: the answer; said: what is wrong, and talk. Both are appended to. */
monitor_status monitor_obey(monitor *m, const char *line, GString *out, GString *said);
/* Are instructions being entered, so that the next line is one? Its place, for the prompt; NULL:
 * no. Valid until the next call. */
const char *monitor_enters(monitor *m);

/* The words, in the order of the help; NULL beyond the last. help: "RANGE", and what it does. */
const char *monitor_word(size_t index, const char **operands, const char **what);
/* Help: all words, or one with its example. False: there is no such word. */
bool monitor_help(const char *word, GString *out);

/* Names that begin like this, for completion: of registers, symbols, areas and devices. Free with
 * g_strfreev. */
char **monitor_names(monitor *m, const char *beginning);

/* An address or a range as the words take them. False: *why, to be freed with g_free. */
bool monitor_address(monitor *m, const char *text, uint32_t *address, char **why);
bool monitor_range(monitor *m, const char *text, bl_range *range, char **why);
/* Memory, read and written through the journal of undo. What was written is read back:
 * BL_E_DIFFERS when it is not there, and memory is then as it was as far as it can be. */
bl_status monitor_read(monitor *m, uint32_t address, uint8_t *bytes, size_t count);
bl_status monitor_write(monitor *m, uint32_t address, const uint8_t *bytes, size_t count);
/* Why a target could not, and what helps. */
const char *monitor_reason(bl_status status);

/* The pieces of the build in which something was changed here, with these changes in them, and what
 * was changed elsewhere. *image is the caller's to close, and NULL unless BL_OK. BL_E_NOT_FOUND:
 * nothing was changed; or as of monitor_read. */
bl_status monitor_patched(monitor *m, bl_image **image);

/* For whoever draws. Where the CPU stands; false: nobody can tell. The number of the breakpoint at
 * an address; 0: none that is on. The instruction before one, as the sources or else the bytes have
 * it. */
bool monitor_stands_at(monitor *m, uint32_t *pc);
size_t monitor_breakpoint_at(const monitor *m, uint32_t address);
uint32_t monitor_instruction_before(monitor *m, uint32_t address);

#endif

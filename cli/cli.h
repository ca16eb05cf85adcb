/* cli.h - what the commands share: options, talk, results. No computation lives in cli/. */
#ifndef BOOTLACE_CLI_H
#define BOOTLACE_CLI_H

#include <glib.h>
#include <stdio.h>

#include "bench/bench.h"
#include "files/files.h"
#include "project/project.h"

enum { EXIT_GOOD = 0, EXIT_FAILED = 1, EXIT_USAGE = 2 };

/* Options that many commands have. */
typedef struct common {
    char *bench_path, *port, *state, *out, *format, *trace;
    char **faults;
    gint64 seed;
    gboolean quiet, verbose, json;
} common;
extern common given;

extern const GOptionEntry bench_options[];  /* -b -q -v */
extern const GOptionEntry quiet_options[];  /* -q, where no bench is needed */
extern const GOptionEntry port_options[];   /* -p --state --fault --seed */
extern const GOptionEntry state_options[];  /* --state alone */
extern const GOptionEntry trace_options[];  /* --trace, where a line is opened */
extern const GOptionEntry output_options[]; /* -o -f */
extern const GOptionEntry json_options[];   /* --json */

/* A command's description for --help. */
typedef struct usage {
    const char *words; /* "assemble SRC" */
    const char *summary;
    const char *example; /* lines, each beginning with two blanks */
} usage;

/* Parses the options of a command; NULL-terminated list of entry tables. On --help prints and
 * exits. False after a usage error, which has been told. What is left in argv are the operands. */
bool cli_parse(int *argc, char ***argv, const usage *u, const GOptionEntry *const *tables);
/* Says what is wrong with the call. Returns EXIT_USAGE. */
int cli_usage(const char *message, ...) G_GNUC_PRINTF(1, 2);

/* Talk on standard error; silent with -q. */
void say(const char *message, ...) G_GNUC_PRINTF(1, 2);
/* Only with -v. */
void detail(const char *message, ...) G_GNUC_PRINTF(1, 2);
/* An error that belongs to no source. Returns EXIT_FAILED. */
int fail(const char *message, ...) G_GNUC_PRINTF(1, 2);
/* Renders diagnostics on standard error. */
extern const bl_sink cli_sink;
unsigned cli_errors(void);
bool cli_colour(FILE *stream);

/* The word that only stands where something was proved: green on a terminal. */
const char *cli_verified(void);
/* The other, yellow. */
const char *cli_not_verified(void);

/* While watching: a turn begins. What is saved from now on makes another turn. */
void cli_watch_turn(void);
/* Its part for messages: what was told in the turn before is not told again. */
void cli_messages_turn(void);
/* Says what has changed: how many messages are new, stay, or are gone. */
void cli_watch_tell(void);

/* Waits until one of these files has changed since the turn began, or until Control-C where that is
 * taken. */
void cli_watch_wait(GPtrArray *files);

/* From now on Control-C does not kill: work that asks cli_stopped ends where both sides are usable.
 */
void cli_take_interrupts(void);
bool cli_stopped(void);

/* At the end of everything: has all of standard output been written? A result that got lost is no
 * success. Returns code, or EXIT_FAILED after telling. */
int cli_end(int code);
/* Standard output as a writer. */
extern const bl_writer cli_out;
/* From now on standard output, when it is a terminal, shows control characters as such
 * (terminal.c). */
void cli_guard_terminal(void);
/* Bytes for the terminal as they are: those of a machine that the user is talking with. */
bool cli_raw(const void *bytes, size_t count);
/* Colours of standard output, to be printed; empty where there are none. */
const char *cli_green(void);
const char *cli_yellow(void);
const char *cli_bright(void);
const char *cli_plain(void);

/* A progress line on a terminal: "writing 12 of 40 pages". */
void progress(const char *what, size_t done, size_t total, const char *unit, uint32_t resends);
void progress_end(void);

/* The bench file: -b, or ./bench.yaml when it is there. *b is NULL when there is none and needed is
 * false. Returns EXIT_GOOD, or an exit code after telling. */
int cli_bench(bool needed, bench **b);

/* Reads an image file of any format. at: text of --at, or NULL; an address of the machine that b
 * describes, or when b is NULL of bytes. Returns an exit code. */
int cli_read_image(const bench *b, const char *path, const char *at, bl_image **image);

/* What kind of image file -f, or else the ending of -o, asks for. Raw binary without either. */
bl_filetype cli_output_type(void);
/* The same for a file named otherwise than by -o; NULL: there is none. */
bl_filetype cli_type_of_output(const char *path);

/* A file that the command is to write, and the option that names it; path NULL: it is not asked
 * for. */
typedef struct cli_output {
    const char *option, *path;
} cli_output;
/* Is an output one of the inputs, another output, or a file that was read? By what the files are,
 * not by what they are called. Returns an exit code, after telling. inputs ends with NULL. */
int cli_check_outputs(const cli_output *outputs, size_t count, const char *const *inputs);

/* Would a raw binary of this image be mostly gaps, and huge? Returns an exit code, after telling;
 * asked: the user has said what gaps are filled with. */
int cli_check_binary(const bl_image *image, bl_filetype type, bool asked);

/* Writes bytes that lie at first to a file. Returns an exit code, after telling. */
int cli_save_image(const char *path, bl_filetype type, const bl_image *image, const char *title);
int cli_save_bytes(const char *path, bl_filetype type, uint32_t first, const uint8_t *bytes,
                   size_t count, const char *title);

/* The machine's address of a byte of an image, for messages, in the bench's radix. Static text,
 * valid until four calls later. b may be NULL: then addresses count bytes, and are hexadecimal. */
const char *cli_address(const bench *b, uint32_t address);
/* The same of a number that is no address of the machine: an offset in a chip. */
const char *cli_offset(const bench *b, uint32_t offset);

/* The commands. argv[0] is the command's name. */
int command_assemble(int argc, char **argv);
int command_board(int argc, char **argv);
/* Columns of the terminal, or of COLUMNS; 100 where there is neither. */
int cli_width(void);
/* A line on standard output, at that width; what goes on stands two columns further in. */
void cli_print(const char *message, ...) G_GNUC_PRINTF(1, 2);

int command_new(int argc, char **argv);
int command_ports(int argc, char **argv);
int command_build(int argc, char **argv);
int command_check(int argc, char **argv);
int command_chip(int argc, char **argv);
int command_console(int argc, char **argv);
int command_cpus(int argc, char **argv);
int command_disassemble(int argc, char **argv);
int command_disk(int argc, char **argv);
int command_fetch(int argc, char **argv);
int command_image(int argc, char **argv);
int command_panel(int argc, char **argv);
int command_send(int argc, char **argv);
int command_tape(int argc, char **argv);

#endif

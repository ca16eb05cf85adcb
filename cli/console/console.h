/* console.h - a terminal over an open connection, which can also send and fetch. */
#ifndef BOOTLACE_CLI_CONSOLE_H
#define BOOTLACE_CLI_CONSOLE_H

#include "bootlace/drive_target.h"
#include "monitor/monitor.h"
#include "sim/sim_past.h"
#include "upload/upload.h"

enum { CONSOLE_COMMAND_KEY = 'O' & 0x1F };

typedef struct console {
    connection *c;
    bool hex, echo;
    unsigned column; /* of bytes shown as hex */
    bool mid_line;   /* what was shown last did not end its line */
    FILE *keep;      /* what comes is written there too */
    char keep_path[200];
    uint32_t pace_us, rest_us;
    bool over;
    bool lost;    /* what was to be kept in a file is not there */
    bool failed;  /* a command of its command line did not do its work */
    bool by_keys; /* a person types, and the terminal is ours */
    bool keys_raw;
    monitor *monitor; /* NULL: nobody has asked yet */
    bl_target target;
    bl_eyelet_target eyelet;
    bl_talk_target talk;
    bl_drive_watch line_watch;
    sim_past *past; /* of a simulated board; or NULL */
    payload loaded; /* what was sent or loaded last, for its names */
    bool has_loaded;
    struct screen *screen; /* the full screen, while there is one; or NULL */
} console;

typedef struct console_wish {
    bool hex, echo;
    const char *keep;          /* a file, or NULL */
    uint32_t pace_us, rest_us; /* pause after each byte, and after each line */
    const char *commands; /* a file of commands instead of keys and lines; - is standard input */
    bool screen;          /* the whole screen, instead of lines */
} console_wish;

/* Until its user leaves; until standard input ends and the line is quiet, when that is no terminal.
 * wish may be NULL. Returns an exit code. */
int console_run(connection *c, const console_wish *wish);

/* One line of its command line: sends, fetches, pastes, ... Faults are told. */
void console_obey(console *k, const char *line);
/* The monitor, opened when it is first asked for. */
monitor *console_monitor(console *k);
/* Has the monitor obey a line. False: the first word is none of its own. */
bool console_ask_monitor(console *k, const char *line);
void console_end_monitor(console *k);
/* Takes breakpoints out of the machine's memory, until it goes on. */
void console_clear_breakpoints(console *k);
/* Does the simulated board's CPU stand, so that nothing on the board hears the line? */
bool console_cpu_stands(const console *k);
/* Does a program wait in Eyelet, as far as is known without asking? */
bool console_program_waits(const console *k);
/* load FILE [PLACE] and save RANGE FILE. False: it failed, and that was told. */
bool console_load(console *k, int count, char **word);
bool console_save(console *k, char **word);
/* patch FILE, power on and off, the same. */
bool console_patch(console *k, char **word);
bool console_power(console *k, bool on);
/* press, release, tap of a part of the simulated board's front: "tap keys 5". False, told: it has
 * none of that name. */
bool console_is_touch(const char *verb);
bool console_touch(console *k, char **word);
/* What it shows, or (picture) a drawing of it. */
bool console_front(console *k, const char *picture);

/* boot [anew]: from sources to a board that boots from its disk. False: it failed, and that was
 * told. */
bool console_boot(console *k, bool anew);
/* Keeps what was sent, for its names; it is not the caller's any more. */
void console_keep_payload(console *k, payload *l);
/* Words of the console's own; NULL beyond the last. */
const char *console_own_word(size_t index);
/* From now on Tab completes words, names and files of this console. */
void console_complete(console *k);
/* Keys one by one, and to the machine; or lines, for the user and us. */
void console_keys_raw(console *k, bool raw);
/* Bytes of the machine, on the screen and where they are kept. */
void console_show(console *k, const uint8_t *bytes, size_t count);
/* Lets so much time pass, showing what comes. False: the device is gone. */
bool console_listen(console *k, uint32_t microseconds);
/* Shows what a program said while it was being started. */
void console_show_words(console *k);
/* Sends a byte at the pace that is set. */
bool console_type(console *k, uint8_t byte);
bool console_keep(console *k, const char *path);
/* Is the first word of a line one of the console's own? */
bool console_is_own_word(const char *line);

/* The full screen, up to the end of the console. */
typedef struct screen screen;
void console_screen(console *k);
/* What the machine says is shown there, and keys go to a program that runs. False: it is to stop.
 */
void console_screen_take(console *k, const uint8_t *bytes, size_t count);
bool console_screen_pump(console *k);

#endif

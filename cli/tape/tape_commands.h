/* tape_commands.h - the commands that work on tapes, and what they share. */
#ifndef BOOTLACE_CLI_TAPE_H
#define BOOTLACE_CLI_TAPE_H

#include "json_answer.h"
#include "subcommands.h"
#include "tape/tape_programs.h"

extern const subcommand tape_write, tape_read, tape_list, tape_card_command;

/* tape_said.c */

/* A line of the result; on standard error when -o - has standard output for itself. */
void tape_print(const char *message, ...) G_GNUC_PRINTF(1, 2);
/* "1:20.4". Static text, valid until eight calls later. */
const char *tape_time(uint64_t microseconds);
/* Which keyings a take may have: that of baud; or if that is 0 the bench file's, and then all
 * standards. Returns an exit code, after telling. room is where they are kept. */
int tape_keyings(const bench *b, int baud, bl_keying room[TAKE_KEYINGS], take_keyings *keyings);
/* Reads all takes, with progress on a terminal. Returns an exit code, after telling; takes holds
 * those that were read in any case. Free it with g_ptr_array_unref. */
int tape_takes(char **paths, int count, take_keyings keyings, GPtrArray *takes);
GPtrArray *tape_takes_new(void);
/* Says what a take is: how long, how fast, how well. */
void tape_say_take(const take *t);
/* "$0300..$04FF", "text", "data": what a program is. Static text. */
const char *tape_what(const bench *b, const tape_program *p);
/* "4 of 4 blocks good, CRC-32 right", "3 of 4 blocks good, 1 missing". Free with g_free. */
char *tape_state(const tape_program *p);
/* A line for each block that is not good, with its time. */
void tape_say_blocks(const tape_program *p);
json_t *tape_program_json(const bench *b, const tape_program *p);
json_t *tape_take_json(const take *t);

#endif

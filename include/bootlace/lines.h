/* lines.h - lines of text, one after the other: hex records into a monitor's loader, a listing into
 * a line editor, deposit commands. docs/send.md.
 */
#ifndef BOOTLACE_LINES_H
#define BOOTLACE_LINES_H

#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_LINES_LONGEST = 400, BL_LINES_MARK = 120 };

typedef struct bl_lines_manner {
    const char *ending; /* sent behind each line */
    const char *accept; /* said when a line was taken; "": nothing is waited for */
    const char *reject; /* said when it was not: it is sent again; "": never said */
    const char *cancel; /* sent to have a line forgotten that is not ended yet; "": impossible */
    bool echo;          /* every character comes back, and is compared before the line is ended */
    uint32_t pace_us, rest_us; /* pause after each character, and after each line */
    uint32_t timeout_us;       /* longest wait for echo, accept and reject */
} bl_lines_manner;

/* What of a line was said last. */
typedef enum bl_lines_step {
    BL_LINES_CHARACTERS, /* its characters */
    BL_LINES_ENDING,     /* its end */
    BL_LINES_CANCEL,     /* that it is to be forgotten */
} bl_lines_step;

typedef struct bl_lines {
    bl_transport transport; /* must be first */
    bl_lines_manner manner;
    bl_text text;
    size_t line_at, line_size, line_next; /* in text; all counts are of text */
    uint32_t line;                        /* from 1 */
    bl_lines_step step;
    unsigned retries; /* of this line */
    size_t echoed;
    bool echo_wrong;
    char heard[BL_LINES_MARK]; /* the last that came */
    size_t heard_count;
} bl_lines;

/* Sends text line by line; line ends in it are \n or \r\n. manner's texts and text itself must
 * outlive it. BL_E_REFUSED: a line was rejected eight times; BL_E_LINE: the echo stays wrong, or
 * the answer is neither; BL_E_TIMEOUT: nothing is said any more; BL_E_ARGUMENT, at once: a line is
 * longer than BL_LINES_LONGEST. l->line tells which. */
void bl_lines_send(bl_lines *l, uint32_t baud, bl_text text, const bl_lines_manner *manner,
                   uint64_t now);

#ifdef __cplusplus
}
#endif
#endif

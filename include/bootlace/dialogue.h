/* dialogue.h - how to talk with a device that is not ours and speaks lines of text.
 * docs/dialogue.md.
 *
 * A dialogue file says how the device is woken, what it says when it is ready, how a few bytes are
 * written and read, and how fast it may be spoken to. bl_talk is the conversation, without I/O:
 * bytes and time go in, bytes come out.
 */
#ifndef BOOTLACE_DIALOGUE_H
#define BOOTLACE_DIALOGUE_H

#include "diag.h"
#include "image.h"
#include "method.h"

#ifdef __cplusplus
extern "C" {
#endif

enum {
    BL_DIALOGUE_TEXT = 120,
    BL_DIALOGUE_BLOCK = 64, /* the most bytes that one command can write */
    BL_DIALOGUE_READ = 240, /* the most that one can ask for */
    BL_DIALOGUE_LINE = 1200,
};

typedef struct bl_dialogue {
    char name[24];
    char prompt[BL_DIALOGUE_TEXT];                        /* said by the device when it is ready */
    char wake[BL_DIALOGUE_TEXT];                          /* sent first; empty: nothing */
    char ending[8];                                       /* of what is sent */
    char write[BL_DIALOGUE_TEXT], read[BL_DIALOGUE_TEXT]; /* with {address:N} {count:N} {bytes} */
    char answer[BL_DIALOGUE_TEXT];                        /* a line of what read gives */
    char refuse[BL_DIALOGUE_TEXT];                        /* how a line of refusal begins */
    char separator[BL_DIALOGUE_TEXT];                     /* between bytes */
    char fill[BL_DIALOGUE_TEXT];                          /* sets a range to one byte */
    char start[BL_DIALOGUE_TEXT];                         /* a program */
    char load[BL_DIALOGUE_TEXT], loading[BL_DIALOGUE_TEXT];  /* enters the loader; then it says */
    char leave[BL_DIALOGUE_TEXT];                            /* sent to leave the loader */
    char dump[BL_DIALOGUE_TEXT], dumping[BL_DIALOGUE_TEXT];  /* has bytes sent back */
    char accept[BL_DIALOGUE_TEXT], reject[BL_DIALOGUE_TEXT]; /* of a record in the loader */
    char cancel[BL_DIALOGUE_TEXT];                           /* forgets a line that is not ended */
    bool echo;                /* in the loader every character comes back */
    bl_method loader, dumper; /* TYPING: write is used; dumper NONE: read is */
    uint8_t radix;            /* of all numbers: 16, 10 or 8 */
    uint8_t word;             /* bits: 8, or 12, which are two bytes of an image */
    bool high_first;          /* order of those two */
    uint8_t write_block;      /* most bytes of one write */
    uint8_t read_block;       /* most bytes of one read */
    uint32_t baud;
    uint32_t pace_us, rest_us; /* pause after each character, and after each line */
    uint32_t timeout_us;       /* longest wait for the prompt */
} bl_dialogue;

/* Reads a dialogue file. BL_E_SYNTAX, all faults reported with their lines. */
bl_status bl_dialogue_read(bl_text text, const char *name, const bl_sink *sink, bl_dialogue *d);

/* Writes what would be typed to set a piece of memory, and with start to run it: a line a command.
 * BL_E_UNSUPPORTED: the dialogue has no write, or no start; BL_E_RANGE: a command is longer than
 * BL_DIALOGUE_LINE; else the writer's status. */
bl_status bl_dialogue_script(const bl_dialogue *d, const bl_piece *piece, bool start,
                             uint32_t entry, const bl_writer *writer);

typedef enum bl_talk_kind {
    BL_TALK_WAKE,
    BL_TALK_WRITE,
    BL_TALK_READ,
    BL_TALK_FILL,  /* count bytes from address on, all like bytes[0] */
    BL_TALK_START, /* at address; nothing is expected to come back */
    BL_TALK_LOAD,  /* ends where the loader begins */
    BL_TALK_DUMP,  /* ends where the bytes begin */
    BL_TALK_LEAVE, /* the loader, back to the prompt */
} bl_talk_kind;

typedef struct bl_talk {
    const bl_dialogue *d;
    bl_talk_kind kind;
    bl_status status;           /* BL_E_BUSY while it goes on */
    char out[BL_DIALOGUE_LINE]; /* a text between two NULs is not sent but waited for */
    size_t out_count, out_sent;
    size_t said_from;            /* in out: since the last wait */
    const char *until;           /* what ends it; NULL: nothing does but the silence behind */
    uint64_t next_at, deadline;  /* microseconds */
    char line[BL_DIALOGUE_LINE]; /* what comes back, since the last end of line */
    size_t line_count;
    char tail[BL_DIALOGUE_TEXT]; /* the last of it, line ends too */
    size_t tail_count;
    uint32_t address;
    uint8_t bytes[BL_DIALOGUE_READ]; /* READ: what was read */
    size_t count, got;
    char said[BL_DIALOGUE_TEXT]; /* REFUSED, SYNTAX, TIMEOUT: the last line that was not understood
                                  */
} bl_talk;

/* Begins one exchange. WRITE: count bytes of bytes; READ: count bytes are asked for; count is
 * d->block at most. FILL, LOAD, DUMP: any count. */
void bl_talk_begin(bl_talk *t, const bl_dialogue *d, bl_talk_kind kind, uint32_t address,
                   const uint8_t *bytes, size_t count, uint64_t now);
/* Bytes to send now, one by one as the pace allows; 0: none now. */
size_t bl_talk_output(bl_talk *t, uint8_t *bytes, size_t capacity, uint64_t now);
void bl_talk_input(bl_talk *t, const uint8_t *bytes, size_t count, uint64_t now);
/* When output or tick has something to do. */
uint64_t bl_talk_deadline(const bl_talk *t);
void bl_talk_tick(bl_talk *t, uint64_t now);
/* What the device should have said and did not, for messages: its prompt, another text that was
 * waited for, or the pattern of an answer; "" when nothing was. Valid as long as talk and dialogue
 * are. */
const char *bl_talk_expected(const bl_talk *t);
/* BL_E_BUSY; BL_OK; BL_E_RANGE: the command is longer than BL_DIALOGUE_LINE, or address or count
 * is no whole number of words; BL_E_REFUSED: the device said so; BL_E_SYNTAX: what it gave is not
 * what was asked for; BL_E_TIMEOUT: it did not get ready. */
bl_status bl_talk_status(const bl_talk *t);

#ifdef __cplusplus
}
#endif
#endif

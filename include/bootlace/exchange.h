/* exchange.h - the asking side of a line: one request, its answer, resends on loss and damage.
 *
 * A state machine without I/O. The driver sends what bl_exchange_output gives, hands in what
 * arrives and the time, and looks at bl_exchange_status until it is no longer BL_E_BUSY.
 */
#ifndef BOOTLACE_EXCHANGE_H
#define BOOTLACE_EXCHANGE_H

#include "frame.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Kinds of request, docs/link.md. An answer has BL_ANSWER added, and a bl_answer_code first. */
enum {
    BL_ASK_HELLO = 0x01,
    BL_ASK_READ = 0x02,
    BL_ASK_WRITE = 0x03,
    BL_ASK_SUMS = 0x04,
    BL_ASK_RUN = 0x05,           /* Eyelet only */
    BL_ASK_RESUME = 0x06,        /* Eyelet only */
    BL_ASK_POUR = 0x07,          /* Eyelet only */
    BL_ASK_QUICK = 0x08,         /* Eyelet only */
    BL_ASK_POURED = 0x09,        /* never asked: it answers what followed a pour */
    BL_ASK_REGISTERS = 0x0A,     /* Eyelet only */
    BL_ASK_SET_REGISTERS = 0x0B, /* Eyelet only */
    BL_ASK_STOPPED =
        0x0C, /* never asked: Eyelet tells it, as an answer, when a program is stopped */
    BL_ASK_SELECT = 0x10,  /* the programmer only */
    BL_ASK_PROTECT = 0x11, /* the programmer only */
    BL_ASK_ERASE = 0x12,   /* the programmer only */
    BL_ASK_SUPPLY = 0x13,  /* the programmer only */
    BL_ANSWER = 0x80,
};

typedef enum bl_answer_code {
    BL_ANSWER_GOOD = 0,
    BL_ANSWER_UNKNOWN = 1,   /* no such request */
    BL_ANSWER_MALFORMED = 2, /* wrong length */
    BL_ANSWER_RANGE = 3,     /* address or count outside what is there */
    BL_ANSWER_DIFFERS = 4,   /* read back wrong: address (3), expected, found */
    BL_ANSWER_NOT_READY = 5, /* a write cycle did not end in time: address (3) */
    BL_ANSWER_NO_PART = 6,   /* no part was selected */
    BL_ANSWER_UNCHANGED = 7, /* as DIFFERS, and no byte of the page changed: protected? */
    BL_ANSWER_NOT_BLANK = 8, /* a bit would have to rise: address (3), expected, found */
    BL_ANSWER_NO_SUPPLY = 9, /* this voltage cannot be made */
} bl_answer_code;
enum { BL_ANSWER_CODES = BL_ANSWER_NO_SUPPLY + 1 };

/* Sent alone when the answer to run or resume has come: now the program may go. */
enum { BL_LINK_HEARD = 0x06 };

enum { BL_LINK_VERSION = 1, BL_WHO_EYELET = 1, BL_WHO_PROGRAMMER = 2 };

/* Microseconds for which nothing may be sent after Eyelet was asked to start a program or to let
 * one go on: longer than it waits for a question to come again. */
#define BL_LINK_SILENCE_US 300000u

/* What an answer to BL_ASK_HELLO says. */
typedef struct bl_hello {
    uint8_t who;         /* BL_WHO_EYELET, BL_WHO_PROGRAMMER */
    uint8_t payload_max; /* bytes that a frame to it may carry */
    bl_text name;        /* in the answer; any bytes */
} bl_hello;

/* False: it is a refusal, or cut off, or of another version of the protocol. */
bool bl_hello_read(const bl_frame *answer, bl_hello *hello);

typedef struct bl_exchange {
    uint32_t baud;
    unsigned max_tries; /* sendings of one request before giving up */
    uint32_t slack_us;  /* for the remote's and the PC's own latency */
    bl_status status;   /* BL_E_BUSY while waiting */
    bl_frame request, answer;
    uint32_t timeout_us; /* the remote's working time for this request */
    uint32_t answer_max;
    uint8_t wire[BL_FRAME_WIRE];
    size_t wire_count, wire_sent;
    bl_frame_reader reader;
    uint64_t deadline;
    unsigned tries;
    bool heard;          /* something, however damaged, came since the request */
    const uint8_t *pour; /* bytes that follow a pour; NULL: a request is under way */
    size_t pour_count, pour_at;
    uint16_t pour_fcs;
    bool pour_escaped; /* the escape is out, its byte is not */
    size_t behind; /* bytes of the last input that came behind the answer: somebody else's words */
    /* for the user */
    uint32_t resends, damaged;
    uint64_t bytes_out, bytes_in;
} bl_exchange;

/* Begins; baud is what the line runs at (8N1, so ten bits a byte). */
void bl_exchange_begin(bl_exchange *x, uint32_t baud);

/* Asks. request->sequence is chosen here. timeout_us is how long the remote may work on it and
 * answer_max how many payload bytes may come back. */
void bl_exchange_ask(bl_exchange *x, const bl_frame *request, uint32_t timeout_us,
                     uint32_t answer_max, uint64_t now);

/* After a good answer to a pour request: sends the bytes, which must stay where they are, and waits
 * for the second answer. It is not repeated: BL_E_LINE when none comes. */
void bl_exchange_pour(bl_exchange *x, const uint8_t *bytes, size_t count, uint64_t now);

/* Bytes to send now; 0 when there is nothing. */
size_t bl_exchange_output(bl_exchange *x, uint8_t *bytes, size_t capacity);
void bl_exchange_input(bl_exchange *x, const uint8_t *bytes, size_t count, uint64_t now);
/* To be called when now has reached bl_exchange_deadline. */
void bl_exchange_tick(bl_exchange *x, uint64_t now);
uint64_t bl_exchange_deadline(const bl_exchange *x);

/* BL_E_BUSY: still waiting. BL_OK: x->answer is the answer (its code may still be a refusal).
 * BL_E_TIMEOUT: not a byte came. BL_E_LINE: bytes came, but no whole answer. */
bl_status bl_exchange_status(const bl_exchange *x);

#ifdef __cplusplus
}
#endif
#endif

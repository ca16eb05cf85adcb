/* pump.h - carries a job over a serial port: the loop between the core's state machines and the
 * I/O. */
#ifndef BOOTLACE_PUMP_H
#define BOOTLACE_PUMP_H

#include "bootlace/dialogue.h"
#include "bootlace/parallel.h"
#include "bootlace/port.h"
#include "bootlace/transfer.h"
#include "bootlace/way.h"

/* Called between requests, for progress; returning false ends the job with BL_E_BUSY. */
typedef struct bl_pump_watch {
    void *context;
    bool (*progress)(void *context, const bl_transfer *job, const bl_exchange *exchange);
    /* What comes after the machine was told to start a program, or to let it go on: the program's
     * own words. May be NULL: they are dropped. */
    void (*said)(void *context, const uint8_t *bytes, size_t count);
} bl_pump_watch;

/* Sends one request and waits for its answer. Status as bl_exchange_status, or BL_E_IO. */
bl_status bl_pump_ask(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                      uint32_t patience_us, uint32_t answer_most);

/* Who is there: one greeting, asked once. BL_OK: *who is BL_WHO_EYELET or BL_WHO_PROGRAMMER, name
 * his own name, terminated. BL_E_TIMEOUT: silence. BL_E_LINE: something else came. */
bl_status bl_pump_greet(const bl_serial *port, uint32_t baud, uint8_t *who, char *name,
                        size_t room);

/* Runs a whole transfer. watch may be NULL. */
bl_status bl_pump_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                           const bl_pump_watch *watch);

/* Sends all of it, however slowly the port takes it. */
bl_status bl_pump_send(const bl_serial *port, const uint8_t *bytes, size_t count);

/* Called now and then, for progress; returning false ends it with BL_E_BUSY. */
typedef struct bl_way_watch {
    void *context;
    bool (*progress)(void *context, const bl_way *way);
} bl_way_watch;

/* Any of the ways, until its status is settled and its last byte sent. BL_E_IO: the device is gone.
 * watch may be NULL. */
bl_status bl_pump_way(const bl_serial *port, bl_way *way, const bl_way_watch *watch);

/* One exchange of a dialogue, until its status is settled. BL_E_IO: the device is gone. */
bl_status bl_pump_talk(const bl_serial *port, bl_talk *talk);

/* A machine, or programmer, that is not ours. */
typedef struct bl_far_side {
    const bl_dialogue *dialogue; /* NULL: it cannot be talked with */
    bl_loader loader;            /* how bytes get there; not EYELET */
    uint32_t baud;
    uint8_t packet, rounds; /* PACKETS: payload; BLIND: how often */
} bl_far_side;

/* For messages, when it failed: the far side's last words, and what was expected of it. */
typedef struct bl_far_words {
    char said[BL_DIALOGUE_TEXT], expected[BL_DIALOGUE_TEXT];
} bl_far_words;

/* The same transfer with a machine that is not ours: looks, if it can be read, writes what differs,
 * and reads everything back, whatever it says of its own success. Results are told in job as
 * bl_pump_transfer does, and in proved_by, resends, padding; *words: what was said, when
 * it failed. BL_E_UNSUPPORTED with job->stage: this it cannot do (READ, RUN). */
bl_status bl_pump_far(const bl_serial *port, const bl_far_side *far, bl_transfer *job,
                      const bl_pump_watch *watch, bl_far_words *words);

/* Rows over a parallel port, until their status is settled. */
bl_status bl_pump_rows(const bl_parallel *port, bl_rows *rows);
/* A whole transfer so: everything is written, and proved by Grommet's sums. BL_E_UNSUPPORTED: it
 * cannot be read. */
bl_status bl_pump_parallel(const bl_parallel *port, bl_transfer *job);

#endif

/* drive_frames.h - drives requests in frames over a serial port: Eyelet, and a programmer of ours.
 *
 * The loop between the state machines of exchange.h and transfer.h and a port. It runs in the
 * caller's thread until the work is over; it waits in the port's wait, nowhere else, and never in
 * an interrupt. Ports, exchanges and jobs belong to the caller and must outlive the call.
 */
#ifndef BOOTLACE_DRIVE_FRAMES_H
#define BOOTLACE_DRIVE_FRAMES_H

#include "port.h"
#include "transfer.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Called between requests, and at least every 50 ms of the port's clock while bytes are poured.
 * Either function may be NULL; context is handed to them. */
typedef struct bl_drive_watch {
    void *context;
    /* Returning false ends the work with BL_E_BUSY, at a place from which it can be done again. */
    bool (*progress)(void *context, const bl_progress *p);
    /* What comes after the machine was told to start a program, or to let it go on: the program's
     * own words. NULL: they are dropped. bytes are valid during the call. */
    void (*said)(void *context, const uint8_t *bytes, size_t count);
} bl_drive_watch;

/* Sends one request and waits for its answer, with retries. timeout_us: how long the remote may
 * work on it; answer_max: bytes of the longest answer. Status as bl_exchange_status, or BL_E_IO.
 */
bl_status bl_drive_ask(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                       uint32_t timeout_us, uint32_t answer_max);

/* Who is there: one greeting, asked once, without a retry. BL_OK: *who is BL_WHO_EYELET or
 * BL_WHO_PROGRAMMER, name its own name, terminated and cut to capacity bytes. BL_E_TIMEOUT:
 * silence. BL_E_LINE: something else came. */
bl_status bl_drive_greet(const bl_serial *port, uint32_t baud, uint8_t *who, char *name,
                         size_t capacity);

/* Runs a whole transfer that bl_transfer_begin has begun. watch may be NULL. Statuses of
 * bl_transfer_next, bl_transfer_answer and bl_exchange_status, or BL_E_IO. */
bl_status bl_drive_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                            const bl_drive_watch *watch);

#ifdef __cplusplus
}
#endif
#endif

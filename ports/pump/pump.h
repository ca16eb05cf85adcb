/* pump.h - carries a job over a serial port: the loop between the core's state machines and the
 * I/O. */
#ifndef BOOTLACE_PUMP_H
#define BOOTLACE_PUMP_H

#include "bootlace/port.h"
#include "bootlace/transfer.h"

/* Called between requests, for progress; returning false ends the job with BL_E_BUSY. */
typedef struct bl_pump_watch {
    void *context;
    bool (*progress)(void *context, const bl_transfer *job, const bl_exchange *exchange);
} bl_pump_watch;

/* Sends one request and waits for its answer. Status as bl_exchange_status, or BL_E_IO. */
bl_status bl_pump_ask(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                      uint32_t patience_us, uint32_t answer_most);

/* Runs a whole transfer. watch may be NULL. */
bl_status bl_pump_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                           const bl_pump_watch *watch);

#endif

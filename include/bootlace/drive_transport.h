/* drive_transport.h - drives any transport of transport.h over a serial port: acked bytes, XMODEM,
 * packets, lines, bare bytes.
 *
 * The loop runs in the caller's thread until the transport's status is settled and its last byte
 * has been sent.
 */
#ifndef BOOTLACE_DRIVE_TRANSPORT_H
#define BOOTLACE_DRIVE_TRANSPORT_H

#include "port.h"
#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Called at least every 50 ms of the port's clock; returning false ends it with BL_E_BUSY. */
typedef struct bl_transport_watch {
    void *context;
    bool (*progress)(void *context, const bl_transport *t);
} bl_transport_watch;

/* Sends all of it, however slowly the port takes it. BL_E_IO, or whatever else the port says. */
bl_status bl_drive_send(const bl_serial *port, const uint8_t *bytes, size_t count);

/* Waits until all that was sent has left the port: ten seconds at most, then BL_E_TIMEOUT: a
 * handshake line holds it. BL_E_IO: the device is gone. */
bl_status bl_drive_drain(const bl_serial *port);

/* Runs a transport that its own _send or _receive has begun. Returns its status; BL_E_IO: the
 * device is gone. watch may be NULL. */
bl_status bl_drive_transport(const bl_serial *port, bl_transport *t,
                             const bl_transport_watch *watch);

#ifdef __cplusplus
}
#endif
#endif

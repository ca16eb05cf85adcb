/* serial.h - a real serial device (or a pseudo-terminal) through termios. */
#ifndef BOOTLACE_POSIX_SERIAL_H
#define BOOTLACE_POSIX_SERIAL_H

#include "bootlace/port.h"
#include "lock.h"

typedef struct posix_serial {
    int file;
    posix_lock lock;
} posix_serial;

/* Opens a device raw, 8N1 without flow control, at baud. BL_E_NOT_FOUND: no such file; BL_E_IO:
 * cannot be opened; BL_E_UNSUPPORTED: not a terminal, or a rate it does not know; BL_E_BUSY: in
 * use. errno says more. */
bl_status posix_serial_open(posix_serial *s, const char *path, uint32_t baud);
void posix_serial_close(posix_serial *s);
/* Another rate; what was on its way is forgotten. BL_E_UNSUPPORTED: it does not know this one. */
bl_status posix_serial_rate(posix_serial *s, uint32_t baud);
bl_serial posix_serial_port(posix_serial *s);
/* Holds the line at break for a quarter to half a second. BL_E_UNSUPPORTED: it is a
 * pseudo-terminal, which carries bytes alone; BL_E_IO. */
bl_status posix_serial_break(posix_serial *s);

/* Visits the serial devices that are plugged in. what: what the system knows of it; may be empty.
 */
void posix_serial_list(void *context,
                       void (*visit)(void *context, const char *path, const char *what));

#endif

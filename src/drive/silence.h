/* silence.h - waiting for a line to be silent, and keeping it so. */
#ifndef BOOTLACE_SRC_SILENCE_H
#define BOOTLACE_SRC_SILENCE_H

#include "bootlace/drive_frames.h"

/* Lets so many microseconds pass without a byte sent; what comes in goes to whoever watches. */
bl_status bl_silence_keep(const bl_serial *port, uint32_t microseconds,
                          const bl_drive_watch *watch);
/* Drops what comes until nothing has come for a while, so that what the remote says next is about
 * what is asked next. */
bl_status bl_silence_await(const bl_serial *port);

#endif

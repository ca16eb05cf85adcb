/* drive_talk.h - drives exchanges of a dialogue (dialogue.h) over a serial port. */
#ifndef BOOTLACE_DRIVE_TALK_H
#define BOOTLACE_DRIVE_TALK_H

#include "dialogue.h"
#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

/* The first bytes that came behind the last text that was waited for, as far as there is capacity:
 * what came before is the device's part in the command. bytes belong to the caller. */
typedef struct bl_talk_heard {
    uint8_t *bytes;
    size_t capacity, count;
} bl_talk_heard;

/* One exchange that bl_talk_begin has begun, until its status is settled. heard may be NULL.
 * BL_E_IO: the device is gone. */
bl_status bl_drive_talk(const bl_serial *port, bl_talk *talk, bl_talk_heard *heard);

#ifdef __cplusplus
}
#endif
#endif

/* drive_remote.h - a whole transfer with a machine, or a programmer, that is not ours: described by
 * a dialogue, loaded by a method of transport.h, or both.
 *
 * Nothing that it says of its own success is believed: what it has is read back, where it can be.
 */
#ifndef BOOTLACE_DRIVE_REMOTE_H
#define BOOTLACE_DRIVE_REMOTE_H

#include "dialogue.h"
#include "drive_frames.h"
#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A machine, or programmer, that is not ours. */
typedef struct bl_remote {
    const bl_dialogue *dialogue; /* must outlive the work; NULL: it cannot be talked with */
    bl_method method;            /* how bytes get there; not EYELET, not PARALLEL */
    uint32_t baud;
    uint8_t packet, rounds; /* PACKETS: bytes of payload; BLIND: how often all is sent */
} bl_remote;

/* For messages, when it failed: the remote's last words, and what was expected of it; both
 * terminated. */
typedef struct bl_remote_words {
    char said[BL_DIALOGUE_TEXT], expected[BL_DIALOGUE_TEXT];
} bl_remote_words;

/* Looks, if it can be read, writes what differs, and reads everything back. What came of it is in
 * job->result, as of bl_drive_transfer; *words: what was said, when it failed. BL_E_UNSUPPORTED
 * with the stage of bl_transfer_progress: this it cannot do (READ, RUN). watch may be NULL. */
bl_status bl_drive_remote(const bl_serial *port, const bl_remote *remote, bl_transfer *job,
                          const bl_drive_watch *watch, bl_remote_words *words);

#ifdef __cplusplus
}
#endif
#endif

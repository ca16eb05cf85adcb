/* remote.h - between the files that work with a machine that is not ours. */
#ifndef BOOTLACE_SRC_REMOTE_H
#define BOOTLACE_SRC_REMOTE_H

#include "bootlace/drive_remote.h"
#include "talker.h"

typedef struct bl_remote_work {
    const bl_serial *port;
    const bl_remote *remote;
    const bl_method_row *method; /* of remote */
    const bl_dialogue *d;        /* of remote; NULL: nobody to talk with */
    bl_talk_target talker;       /* when there is one */
    bl_target target;            /* what the talker can do */
    bl_transfer *job;
    uint8_t *wrong;   /* of each block: must it be written? */
    uint32_t misread; /* readings that the line has damaged: read again, they were different */
    size_t dumped;    /* bytes that the last dump brought */
    const bl_drive_watch *watch;
} bl_remote_work;

/* One exchange with a remote that can be talked with; notes where it was. */
bl_status bl_remote_exchange(bl_remote_work *w, bl_talk_kind kind, uint32_t address,
                             const uint8_t *bytes, size_t count);
/* The same for reading, command by command. */
bl_status bl_remote_read(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count);

/* Enters a stage, and tells whoever watches how far it is. False: it is to end. */
bool bl_remote_tell(bl_remote_work *w, bl_stage stage, size_t done);
/* The same, with retries that are under way. */
bool bl_remote_tell_retries(bl_remote_work *w, size_t done, uint32_t retries);

/* Carries pieces over with the method, entering and leaving its loader: one, or all of them when
 * the method takes them all. */
bl_status bl_remote_load(bl_remote_work *w, const bl_piece *pieces, size_t count);

/* Has a range sent back by the dumper. */
bl_status bl_remote_dump(bl_remote_work *w, uint32_t first, uint8_t *bytes, size_t count);

#endif

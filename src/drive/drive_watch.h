/* drive_watch.h - telling whoever watches the work. */
#ifndef BOOTLACE_SRC_DRIVE_WATCH_H
#define BOOTLACE_SRC_DRIVE_WATCH_H

#include "bootlace/drive_frames.h"

/* What a program said; nothing is told when nobody watches. */
static inline void bl_watch_said(const bl_drive_watch *watch, const uint8_t *bytes, size_t count)
{
    if (watch != NULL && watch->said != NULL && count > 0)
        watch->said(watch->context, bytes, count);
}

/* How far the work is. False: it is to end. */
static inline bool bl_watch_progress(const bl_drive_watch *watch, const bl_progress *p)
{
    return watch == NULL || watch->progress == NULL || watch->progress(watch->context, p);
}

#endif

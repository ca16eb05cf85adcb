/* far.h - between the files that work with a machine which is not Eyelet. */
#ifndef BOOTLACE_PUMP_FAR_H
#define BOOTLACE_PUMP_FAR_H

#include "pump.h"

typedef struct bl_far_work {
    const bl_serial *port;
    const bl_far_side *far;
    const bl_dialogue *d; /* of far; NULL: nobody to talk with */
    bl_transfer *job;
    const bl_pump_watch *watch;
    bl_talk talk;
    unsigned retries;
} bl_far_work;

/* One exchange; what makes no sense, is refused, or never comes, is asked for some times more. */
bl_status bl_far_exchange(bl_far_work *w, bl_talk_kind kind, uint32_t address, const uint8_t *bytes,
                          size_t count);
/* Has a program started; what it says at once goes to whoever watches. */
bl_status bl_far_start(bl_far_work *w, uint32_t entry);
/* Drops what comes until nothing does. */
bl_status bl_far_hear_out(const bl_serial *port);

/* Tells whoever watches. False: it is to end. */
bool bl_far_tell(bl_far_work *w, bl_stage stage, size_t block);

/* Carries one run of bytes over with the loader, entering and leaving it. */
bl_status bl_far_load(bl_far_work *w, const bl_piece *run);
/* All pieces at once, for loaders that take addresses along. */
bl_status bl_far_load_all(bl_far_work *w, const bl_piece *runs, size_t count);
bool bl_far_takes_all(bl_loader loader);

/* Has a range sent back by the dumper. */
bl_status bl_far_dump(bl_far_work *w, uint32_t first, uint8_t *bytes, size_t count);

#endif

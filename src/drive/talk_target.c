/* talk_target.c - what a monitor's commands can do of a target's work. */
#include "base/core.h"
#include "silence.h"
#include "talker.h"

void bl_talk_target_begin(bl_talk_target *t, const bl_serial *port, const bl_dialogue *dialogue,
                          const bl_drive_watch *watch)
{
    memset(t, 0, sizeof *t);
    t->port = port;
    t->dialogue = dialogue;
    t->watch = watch;
}

/* A greeting that was not heard yet would be taken for the answer to the first command. */
static bl_status wake_up(bl_talk_target *t)
{
    if (t->awake) return BL_OK;
    bl_status status = bl_talker_exchange(t, BL_TALK_WAKE, 0, NULL, 0);
    if (status == BL_OK) status = bl_silence_await(t->port);
    t->awake = status == BL_OK;
    return status;
}

static bl_status read_rows(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    bl_status status = wake_up(context);
    return status == BL_OK ? bl_talker_read(context, address, bytes, count) : status;
}

/* One command's worth of bytes. Lost characters change what is stored, and nobody says so: then it
 * is written again. */
_Static_assert(BL_DIALOGUE_BLOCK <= BL_DIALOGUE_READ,
               "what is written at once can be read at once");

static bl_status write_checked(bl_talk_target *t, uint32_t address, const uint8_t *bytes,
                               size_t count)
{
    enum { MAX_TRIES = 4 };
    uint8_t found[BL_DIALOGUE_BLOCK];
    bool reads = t->dialogue->read[0] != '\0' && !t->proved_later;
    for (unsigned i = 0; i < MAX_TRIES; i++) {
        bl_status status = bl_talker_exchange(t, BL_TALK_WRITE, address, bytes, count);
        if (status != BL_OK || !reads) return status;
        status = bl_talker_read(t, address, found, count);
        if (status != BL_OK || memcmp(found, bytes, count) == 0) return status;
        t->retries++;
    }
    return BL_E_DIFFERS;
}

static bl_status write_rows(void *context, uint32_t address, const uint8_t *bytes, size_t count)
{
    bl_talk_target *t = context;
    size_t max = t->dialogue->write_block;
    bl_status status = wake_up(t);
    for (size_t at = 0; at < count && status == BL_OK; at += max)
        status = write_checked(t, address + (uint32_t)at, bytes + at,
                               count - at < max ? count - at : max);
    return status;
}

static bl_status start_entry(void *context, const uint32_t *entry)
{
    if (entry == NULL) return BL_E_UNSUPPORTED;
    bl_status status = wake_up(context);
    return status == BL_OK ? bl_talker_start(context, *entry) : status;
}

bl_target bl_talk_target_functions(bl_talk_target *t)
{
    bl_target target = {.context = t};
    if (t->dialogue->read[0] != '\0') target.read = read_rows;
    if (t->dialogue->write[0] != '\0') target.write = write_rows;
    if (t->dialogue->start[0] != '\0') target.go = start_entry;
    return target;
}

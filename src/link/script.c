/* script.c - what would be typed, as text for somebody's fingers or another program's paste. */
#include "base/core.h"
#include "bootlace/dialogue.h"

/* One command: waits become line ends, as do carriage returns. */
static bl_status write_script_line(const bl_talk *t, const bl_writer *writer)
{
    bool fresh = true;                             /* at the beginning of a line */
    if (t->status == BL_E_RANGE) return t->status; /* it is cut off */
    for (size_t i = 0; i < t->out_count; i++) {
        char c = t->out[i];
        bool ends = c == '\r' || c == '\n' || c == '\0';
        if (c == '\0')
            for (i++; t->out[i] != '\0'; i++)
                continue;
        if (ends && fresh) continue;
        fresh = ends;
        bl_status status = writer->write(writer->context, ends ? "\n" : &c, 1);
        if (status != BL_OK) return status;
    }
    return fresh ? BL_OK : writer->write(writer->context, "\n", 1);
}

bl_status bl_dialogue_script(const bl_dialogue *d, const bl_piece *piece, bool start,
                             uint32_t entry, const bl_writer *writer)
{
    bl_talk t;
    bl_status status = BL_OK;
    if (d->write[0] == '\0' || (start && d->start[0] == '\0')) return BL_E_UNSUPPORTED;
    for (size_t at = 0; at < piece->count && status == BL_OK; at += d->write_block) {
        size_t left = piece->count - at, n = left < d->write_block ? left : d->write_block;
        bl_talk_begin(&t, d, BL_TALK_WRITE, piece->first + (uint32_t)at, piece->bytes + at, n, 0);
        status = write_script_line(&t, writer);
    }
    if (status != BL_OK || !start) return status;
    bl_talk_begin(&t, d, BL_TALK_START, entry, NULL, 0, 0);
    return write_script_line(&t, writer);
}

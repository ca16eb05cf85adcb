/* tape_plan.c - programs become blocks, and a plan becomes sound. */
#include "tape_plan.h"

#include <string.h>

#include "bootlace/crc.h"
#include "bootlace/pack.h"
#include "files/files.h"

enum { PACKED_CLOCKS = 300, UNPACKED_CLOCKS = 60 };

void tape_plan_begin(tape_plan *p, const bl_keying *keying)
{
    *p = (tape_plan){.keying = *keying, .gap = BENCH_TAPE_GAP, .clock = 1000000};
    p->segments = g_array_new(FALSE, FALSE, sizeof(tape_segment));
    p->bytes = g_byte_array_new();
}

void tape_plan_end(tape_plan *p)
{
    if (p->segments != NULL) g_array_unref(p->segments);
    if (p->bytes != NULL) g_byte_array_unref(p->bytes);
    *p = (tape_plan){0};
}

void tape_plan_rest(tape_plan *p, uint32_t milliseconds)
{
    tape_segment s = {.kind = TAPE_IDLE, .milliseconds = milliseconds};
    g_array_append_val(p->segments, s);
    p->length += (uint64_t)milliseconds * 1000000;
}

void tape_plan_bytes(tape_plan *p, const void *bytes, size_t count)
{
    tape_segment s = {.kind = TAPE_BYTES, .first = p->bytes->len, .count = count};
    s.stop_bits = p->keying.stop_bits;
    const uint8_t *each = bytes;
    g_byte_array_append(p->bytes, bytes, (guint)count);
    g_array_append_val(p->segments, s);
    for (size_t i = 0; i < count; i++)
        p->length += bl_keying_byte_ns(&p->keying, each[i]);
}

/* A data block in the making. */
typedef struct made_block {
    bl_block_label label;
    size_t unpacked; /* bytes */
    uint8_t data[BL_BLOCK_DATA];
} made_block;

/* The next block of a piece: packed, if that takes less. Returns how many bytes are in it. */
static size_t make_block(made_block *b, const bl_piece *piece, size_t done, bool packs)
{
    size_t rest = piece->count - done, taken = 0, made = 0;
    b->label.kind = BL_BLOCK_PACKED;
    if (packs && bl_pack(&host_memory, piece->bytes + done, done, rest, b->data, BL_BLOCK_DATA,
                         &taken, &made) != BL_OK)
        taken = 0;
    if (taken <= made) {
        b->label.kind = BL_BLOCK_PLAIN;
        taken = made = MIN(rest, BL_BLOCK_DATA);
        memcpy(b->data, piece->bytes + done, made);
    }
    b->label.count = (uint16_t)made, b->unpacked = taken;
    b->label.address = (uint16_t)(piece->first + done);
    return taken;
}

static void make_blocks(GArray *blocks, const tape_item *item, const bl_piece *piece, bool packs)
{
    for (size_t done = 0; done < piece->count;) {
        made_block b = {.label = {.number = item->number, .index = (uint16_t)(blocks->len + 1)}};
        done += make_block(&b, piece, done, packs);
        g_array_append_val(blocks, b);
    }
}

/* Milliseconds that a first-stage loader takes to unpack a block: so many clocks for a byte of each
 * kind, on the slowest CPU that we have one for. */
static uint32_t unpacking(const tape_plan *p, size_t packed, size_t unpacked)
{
    return (uint32_t)((packed * PACKED_CLOCKS + unpacked * UNPACKED_CLOCKS) * 1000 / p->clock);
}

static void put_block(tape_plan *p, const bl_block_label *label, const uint8_t *data)
{
    uint8_t bytes[BL_BLOCK_MOST];
    if (label->kind != BL_BLOCK_HEAD) tape_plan_rest(p, p->gap);
    tape_plan_bytes(p, bytes, bl_block_write(label, data, bytes));
}

/* A file is a piece of memory whose addresses count its bytes. */
static bl_piece piece_at(const tape_item *item, size_t index)
{
    if (item->image != NULL) return bl_image_piece(item->image, index);
    return (bl_piece){0, item->count, item->bytes};
}

guint tape_plan_blocks(tape_plan *p, const tape_item *item, bool packs)
{
    bl_tape_head head = {.content = (uint8_t)item->content};
    bl_block_label label = {.kind = BL_BLOCK_HEAD, .number = item->number};
    size_t pieces = item->image != NULL ? bl_image_pieces(item->image) : 1;
    GArray *blocks = g_array_new(FALSE, FALSE, sizeof(made_block));
    uint32_t entry = 0;
    uint8_t data[BL_TAPE_HEAD_MOST];
    for (size_t i = 0; i < pieces; i++) {
        bl_piece piece = piece_at(item, i);
        if (i == 0) label.address = (uint16_t)piece.first;
        head.size += (uint32_t)piece.count;
        head.crc32 = bl_crc32(head.crc32, piece.bytes, piece.count);
        make_blocks(blocks, item, &piece, packs);
    }
    head.blocks = (uint16_t)blocks->len;
    head.has_entry = item->image != NULL && bl_image_entry(item->image, &entry);
    head.starts = head.has_entry;
    g_strlcpy(head.name, item->name, sizeof head.name);
    label.count = (uint16_t)bl_tape_head_write(&head, data);
    put_block(p, &label, data);
    for (guint i = 0; i < blocks->len; i++) {
        const made_block *b = &g_array_index(blocks, made_block, i);
        put_block(p, &b->label, b->data);
        if (b->label.kind == BL_BLOCK_PACKED)
            tape_plan_rest(p, unpacking(p, b->label.count, b->unpacked));
    }
    label.kind = BL_BLOCK_END, label.index = (uint16_t)(blocks->len + 1);
    label.address = (uint16_t)entry;
    put_block(p, &label, data);
    g_array_unref(blocks);
    return head.blocks;
}

bl_status tape_plan_bare(tape_plan *p, const tape_item *item)
{
    bl_piece piece = {0, item->count, item->bytes};
    if (item->image != NULL) {
        if (bl_image_pieces(item->image) != 1) return BL_E_RANGE;
        piece = bl_image_piece(item->image, 0);
    }
    tape_plan_bytes(p, piece.bytes, piece.count);
    return BL_OK;
}

bl_status tape_plan_play(const tape_plan *p, bl_modulator *m)
{
    bl_status status = BL_OK;
    for (guint i = 0; i < p->segments->len && status == BL_OK; i++) {
        const tape_segment *s = &g_array_index(p->segments, tape_segment, i);
        if (s->kind == TAPE_IDLE) status = bl_modulator_idle(m, s->milliseconds);
        if (s->kind == TAPE_BYTES) bl_modulator_stop_bits(m, s->stop_bits);
        for (size_t j = 0; s->kind == TAPE_BYTES && j < s->count && status == BL_OK; j++)
            status = bl_modulator_byte(m, p->bytes->data[s->first + j]);
    }
    return status == BL_OK ? bl_modulator_end(m) : status;
}

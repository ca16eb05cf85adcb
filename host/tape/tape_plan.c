/* tape_plan.c - programs become blocks, and a plan becomes sound. */
#include "tape_plan.h"

#include <string.h>

#include "bootlace/crc.h"
#include "files/files.h"

void tape_plan_begin(tape_plan *p, const bl_keying *keying)
{
    *p = (tape_plan){.keying = *keying, .gap = TAPE_GAP};
    p->segments = g_array_new(FALSE, FALSE, sizeof(tape_segment));
    p->bytes = g_byte_array_new();
}

void tape_plan_end(tape_plan *p)
{
    if (p->segments != NULL) g_array_unref(p->segments);
    if (p->bytes != NULL) g_byte_array_unref(p->bytes);
    *p = (tape_plan){0};
}

void tape_plan_rest(tape_plan *p, tape_segment_kind kind, uint32_t milliseconds)
{
    tape_segment s = {.kind = kind, .milliseconds = milliseconds};
    g_array_append_val(p->segments, s);
    p->length += (uint64_t)milliseconds * 1000000;
}

void tape_plan_bytes(tape_plan *p, const void *bytes, size_t count)
{
    tape_segment s = {.kind = TAPE_BYTES, .first = p->bytes->len, .count = count};
    const uint8_t *each = bytes;
    g_byte_array_append(p->bytes, bytes, (guint)count);
    g_array_append_val(p->segments, s);
    for (size_t i = 0; i < count; i++)
        p->length += bl_keying_byte_ns(&p->keying, each[i]);
}

static void put_block(tape_plan *p, const bl_block_label *label, const uint8_t *data)
{
    uint8_t bytes[BL_BLOCK_MOST];
    if (label->kind != BL_BLOCK_HEAD) tape_plan_rest(p, TAPE_IDLE, p->gap);
    tape_plan_bytes(p, bytes, bl_block_write(label, data, bytes));
}

/* The data blocks of one piece of memory. */
static void put_piece(tape_plan *p, bl_block_label *label, const uint8_t *bytes, size_t count,
                      uint32_t address)
{
    for (size_t done = 0; done < count; done += label->count) {
        label->kind = BL_BLOCK_PLAIN;
        label->index++;
        label->count = (uint16_t)MIN(count - done, BL_BLOCK_DATA);
        label->address = (uint16_t)(address + done);
        put_block(p, label, bytes + done);
    }
}

static guint blocks_of(size_t count)
{
    return (guint)((count + BL_BLOCK_DATA - 1) / BL_BLOCK_DATA);
}

/* A file is a piece of memory whose addresses count its bytes. */
static guint pieces_of(const tape_item *item, bl_piece *one, size_t index, bl_piece *piece)
{
    *one = (bl_piece){0, item->count, item->bytes};
    if (item->image == NULL) {
        *piece = *one;
        return 1;
    }
    *piece =
        index < bl_image_pieces(item->image) ? bl_image_piece(item->image, index) : (bl_piece){0};
    return (guint)bl_image_pieces(item->image);
}

guint tape_plan_blocks(tape_plan *p, const tape_item *item)
{
    bl_tape_head head = {.content = (uint8_t)item->content};
    bl_block_label label = {.kind = BL_BLOCK_HEAD, .number = item->number};
    uint32_t entry = 0;
    uint8_t data[BL_TAPE_HEAD_MOST];
    bl_piece piece, one;
    guint pieces = pieces_of(item, &one, 0, &piece);
    label.address = (uint16_t)piece.first;
    for (guint i = 0; i < pieces; i++) {
        pieces_of(item, &one, i, &piece);
        head.size += (uint32_t)piece.count;
        head.crc32 = bl_crc32(head.crc32, piece.bytes, piece.count);
        head.blocks = (uint16_t)(head.blocks + blocks_of(piece.count));
    }
    if (item->image != NULL) head.has_entry = bl_image_entry(item->image, &entry);
    head.starts = head.has_entry;
    g_strlcpy(head.name, item->name, sizeof head.name);
    label.count = (uint16_t)bl_tape_head_write(&head, data);
    put_block(p, &label, data);
    for (guint i = 0; i < pieces; i++) {
        pieces_of(item, &one, i, &piece);
        put_piece(p, &label, piece.bytes, piece.count, piece.first);
    }
    label.kind = BL_BLOCK_END, label.index++, label.address = (uint16_t)entry;
    label.count = (uint16_t)bl_tape_head_write(&head, data);
    put_block(p, &label, data);
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
        if (s->kind == TAPE_SILENCE) status = bl_modulator_silence(m, s->milliseconds);
        for (size_t j = 0; s->kind == TAPE_BYTES && j < s->count && status == BL_OK; j++)
            status = bl_modulator_byte(m, p->bytes->data[s->first + j]);
    }
    return status == BL_OK ? bl_modulator_end(m) : status;
}

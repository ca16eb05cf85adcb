/* tape_programs.c - blocks of several takes become programs. */
#include "tape_programs.h"

#include <string.h>

#include "bootlace/crc.h"
#include "bootlace/pack.h"
#include "files/files.h"

/* Blocks that follow one another in a take: a program, or what was heard of one. */
typedef struct passage {
    unsigned take;
    GPtrArray *blocks; /* bl_tape_block *, owned */
    bool head_known;
    bl_tape_head head;
    uint16_t entry;
    bool entry_known;
} passage;

static void passage_free(void *data)
{
    passage *s = data;
    g_ptr_array_unref(s->blocks);
    g_free(s);
}

static void program_free(void *data)
{
    tape_program *p = data;
    g_ptr_array_unref(p->parts);
    g_byte_array_unref(p->bytes);
    bl_image_close(p->image);
    g_free(p);
}

static void data_of(const bl_tape_block *b, uint8_t data[BL_BLOCK_DATA])
{
    for (size_t i = 0; i < b->label.count; i++)
        data[i] = bl_block_byte(b, i);
}

/* What the data of a head or an end are; false if it is bad, or says nothing we know. */
static bool head_of(const bl_tape_block *b, bl_tape_head *head)
{
    uint8_t data[BL_BLOCK_DATA];
    if (b->state == BL_BLOCK_BAD) return false;
    if (b->label.kind != BL_BLOCK_HEAD && b->label.kind != BL_BLOCK_END) return false;
    data_of(b, data);
    return bl_tape_head_read(data, b->label.count, head) == BL_OK;
}

static void passage_add(passage *s, const bl_tape_block *b)
{
    bl_tape_head head;
    g_ptr_array_add(s->blocks, g_memdup2(b, sizeof *b));
    if (!head_of(b, &head)) return;
    if (!s->head_known || b->state == BL_BLOCK_GOOD) s->head = head, s->head_known = true;
    if (b->label.kind == BL_BLOCK_END && head.has_entry)
        s->entry = b->label.address, s->entry_known = true;
}

/* A head begins a passage, an end ends it, and so does an index that goes back or another number.
 */
static bool is_next(const passage *s, const bl_tape_block *b)
{
    if (s == NULL || s->blocks->len == 0) return false;
    const bl_tape_block *last = g_ptr_array_index(s->blocks, s->blocks->len - 1);
    if (b->label.kind == BL_BLOCK_HEAD || last->label.kind == BL_BLOCK_END) return false;
    return b->label.number == last->label.number && b->label.index > last->label.index;
}

static void find_passages(const take *t, unsigned index, GPtrArray *all)
{
    bl_tape_block *b = g_new(bl_tape_block, 1);
    passage *open = NULL;
    size_t from = 0;
    while (bl_block_next((const bl_tape_byte *)(void *)t->bytes->data, t->bytes->len, &from, b)) {
        if (!is_next(open, b)) {
            open = g_new0(passage, 1);
            open->take = index;
            open->blocks = g_ptr_array_new_with_free_func(g_free);
            g_ptr_array_add(all, open);
        }
        passage_add(open, b);
    }
    g_free(b);
}

/* ---- programs ---- */

static bool same_head(const bl_tape_head *a, const bl_tape_head *b)
{
    return a->crc32 == b->crc32 && a->size == b->size && a->blocks == b->blocks &&
           strcmp(a->name, b->name) == 0;
}

/* Is a block of a passage at odds with what a program has? Then they are two programs. */
static bool at_odds(const tape_program *p, const passage *s)
{
    for (guint i = 0; i < s->blocks->len; i++) {
        const bl_tape_block *b = g_ptr_array_index(s->blocks, i);
        if (b->state != BL_BLOCK_GOOD || b->label.index >= p->parts->len) continue;
        const tape_part *part = g_ptr_array_index(p->parts, b->label.index);
        if (part == NULL || part->block.state != BL_BLOCK_GOOD) continue;
        if (part->block.label.address != b->label.address ||
            part->block.label.count != b->label.count)
            return true;
        for (size_t j = 0; j < b->label.count; j++)
            if (bl_block_byte(b, j) != bl_block_byte(&part->block, j)) return true;
    }
    return false;
}

static tape_program *program_for(GPtrArray *programs, const passage *s)
{
    const bl_tape_block *first = g_ptr_array_index(s->blocks, 0);
    for (guint i = 0; i < programs->len; i++) {
        tape_program *p = g_ptr_array_index(programs, i);
        if (p->number != first->label.number || at_odds(p, s)) continue;
        if (!p->head_known || !s->head_known || same_head(&p->head, &s->head)) return p;
    }
    tape_program *p = g_new0(tape_program, 1);
    p->number = first->label.number, p->take = s->take, p->at = first->at;
    p->parts = g_ptr_array_new_with_free_func(g_free);
    p->bytes = g_byte_array_new();
    g_ptr_array_add(programs, p);
    return p;
}

/* One more copy of a block: a good one stands for all, bad ones are added up bit by bit. */
static void part_hear(tape_part *part, const bl_tape_block *b, unsigned in_take)
{
    bool was_good = part->block.state == BL_BLOCK_GOOD;
    part->heard++;
    if (was_good) return;
    if (b->state == BL_BLOCK_GOOD) {
        part->block = *b, part->take = in_take;
        return;
    }
    bl_block_state before = part->block.state;
    bl_tape_block sum = part->block;
    if (bl_block_add(&sum, b) == BL_OK && sum.state <= before) {
        part->merged = sum.state < before || part->merged;
        part->block = sum;
    } else if (b->state < before) {
        part->block = *b, part->take = in_take;
    }
}

/* An index that no program of this size can have is that of a bad block. */
static void program_add(tape_program *p, const passage *s)
{
    if (s->head_known && !p->head_known) p->head = s->head, p->head_known = true;
    if (s->entry_known && !p->entry_known) p->entry = s->entry, p->entry_known = true;
    for (guint i = 0; i < s->blocks->len; i++) {
        const bl_tape_block *b = g_ptr_array_index(s->blocks, i);
        guint index = b->label.index;
        if (b->state == BL_BLOCK_BAD && index > (p->head_known ? p->head.blocks + 1u : 512))
            continue;
        if (index >= p->parts->len) g_ptr_array_set_size(p->parts, (gint)index + 1);
        tape_part *part = g_ptr_array_index(p->parts, index);
        if (part != NULL) {
            part_hear(part, b, s->take);
            continue;
        }
        part = g_new0(tape_part, 1);
        part->block = *b, part->take = s->take, part->heard = 1;
        p->parts->pdata[index] = part;
    }
}

static const tape_part *data_part(const tape_program *p, guint index)
{
    if (index >= p->parts->len) return NULL;
    const tape_part *part = g_ptr_array_index(p->parts, index);
    bool data = part != NULL && (part->block.label.kind == BL_BLOCK_PLAIN ||
                                 part->block.label.kind == BL_BLOCK_PACKED);
    return data ? part : NULL;
}

/* How many blocks there should be: as the head says, or an end that was heard; or else as many as
 * were. */
static guint data_expected(const tape_program *p)
{
    if (p->head_known) return p->head.blocks;
    if (p->parts->len == 0) return 0;
    const tape_part *last = g_ptr_array_index(p->parts, p->parts->len - 1);
    return p->parts->len - (last->block.label.kind == BL_BLOCK_END ? 2u : 1u);
}

/* Memory, as blocks are put into it. */
typedef struct memory {
    uint8_t bytes[0x10000];
    uint8_t known[0x10000];
} memory;

/* Puts the data of a block where they belong. Returns how many bytes they are, or 0: what they copy
 * from is not there, or they reach beyond the last address. */
static size_t put_part(memory *m, const tape_part *part)
{
    const bl_block_label *l = &part->block.label;
    uint8_t data[BL_BLOCK_DATA];
    size_t before = 0, count = l->count;
    data_of(&part->block, data);
    if (l->kind == BL_BLOCK_PACKED) {
        while (before < l->address && m->known[l->address - before - 1] != 0)
            before++;
        if (bl_unpack(data, l->count, m->bytes + l->address, before, 0x10000u - l->address,
                      &count) != BL_OK)
            return 0;
    } else {
        if (l->address + count > 0x10000) return 0;
        memcpy(m->bytes + l->address, data, count);
    }
    memset(m->known + l->address, 1, count);
    return count;
}

/* Puts all blocks together that are good, and those that were mended if they are believed. Returns
 * whether that is the whole: its CRC-32 is that of the head. */
static bool put_together(tape_program *p, bool believe)
{
    memory *m = g_new0(memory, 1);
    uint32_t crc = 0, size = 0;
    p->lost = 0;
    g_byte_array_set_size(p->bytes, 0);
    bl_image_close(p->image);
    p->image = NULL;
    bool first_part = true, status = bl_image_open(&host_memory, &p->image) == BL_OK;
    for (guint i = 1; i <= p->data && status; i++) {
        const tape_part *part = data_part(p, i);
        bool use = part != NULL && (part->block.state == BL_BLOCK_GOOD ||
                                    (believe && part->block.state == BL_BLOCK_MENDED));
        size_t count = use ? put_part(m, part) : 0;
        if (use && count == 0) p->lost++;
        first_part = first_part && count != 0;
        if (count == 0) continue;
        const uint8_t *bytes = m->bytes + part->block.label.address;
        crc = bl_crc32(crc, bytes, count), size += (uint32_t)count;
        status = bl_image_put(p->image, part->block.label.address, bytes, count,
                              (bl_origin){0, 0}) == BL_OK; /* blocks that overlap are no whole */
        if (first_part) g_byte_array_append(p->bytes, bytes, (guint)count);
    }
    if (p->entry_known && status) bl_image_set_entry(p->image, p->entry);
    g_free(m);
    bool right = p->head.no_crc ? p->mended == 0 : crc == p->head.crc32;
    return status && p->head_known && right && size == p->head.size;
}

static void count_parts(tape_program *p)
{
    p->data = data_expected(p);
    p->good = p->missing = p->bad = p->mended = 0;
    for (guint i = 1; i <= p->data; i++) {
        const tape_part *part = data_part(p, i);
        if (part == NULL)
            p->missing++;
        else if (part->block.state == BL_BLOCK_BAD)
            p->bad++;
        else if (part->block.state == BL_BLOCK_MENDED)
            p->mended++;
        else
            p->good++;
    }
}

static void judge_program(tape_program *p)
{
    count_parts(p);
    bool whole = p->missing == 0 && p->bad == 0;
    bool proven = put_together(p, true);
    if (whole && proven) {
        p->outcome = TAPE_PROVEN;
        return;
    }
    put_together(p, false);
    p->outcome = !whole || p->lost != 0 ? TAPE_INCOMPLETE
                 : p->head_known        ? TAPE_WRONG
                 : p->mended != 0       ? TAPE_INCOMPLETE
                                        : TAPE_UNPROVEN;
}

GPtrArray *tape_programs_find(take *const *takes, guint count)
{
    GPtrArray *passages = g_ptr_array_new_with_free_func(passage_free);
    GPtrArray *programs = g_ptr_array_new_with_free_func(program_free);
    for (guint i = 0; i < count; i++)
        find_passages(takes[i], i, passages);
    for (guint i = 0; i < passages->len; i++) {
        const passage *s = g_ptr_array_index(passages, i);
        program_add(program_for(programs, s), s);
    }
    for (guint i = 0; i < programs->len; i++)
        judge_program(g_ptr_array_index(programs, i));
    g_ptr_array_unref(passages);
    return programs;
}

uint64_t tape_block_doubt(const bl_tape_block *b)
{
    return b->at + (b->end - b->at) * (b->worst + 2u) / (b->slots + 2u);
}

const char *tape_program_name(const tape_program *p)
{
    return p->head_known ? p->head.name : "";
}

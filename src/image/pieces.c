/* pieces.c - an ordered set of pieces of bytes. */
#include "pieces.h"

enum { CHUNK = 256 }; /* pieces in one, at most */
_Static_assert(CHUNK % 2 == 0 && CHUNK >= 4, "a full chunk is halved");

void pieces_free(pieces *s, const bl_memory *memory)
{
    for (size_t c = 0; c < s->count; c++) {
        for (size_t i = 0; i < s->chunks[c].count; i++)
            bl_release(memory, s->chunks[c].pieces[i].block);
        bl_release(memory, s->chunks[c].pieces);
    }
    bl_release(memory, s->chunks);
}

/* ---- places ---- */

/* Two binary searches: for the chunk, then in it. */
place pieces_find(const pieces *s, uint32_t address)
{
    size_t low = 0, high = s->count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        const chunk *c = &s->chunks[middle];
        if (piece_end(&c->pieces[c->count - 1]) <= address)
            low = middle + 1;
        else
            high = middle;
    }
    place found = {low, 0};
    if (low == s->count) return found;
    const chunk *c = &s->chunks[low];
    for (high = c->count; found.at < high;) {
        size_t middle = found.at + (high - found.at) / 2;
        if (piece_end(&c->pieces[middle]) <= address)
            found.at = middle + 1;
        else
            high = middle;
    }
    return found;
}

piece *pieces_at(const pieces *s, place where)
{
    return where.chunk < s->count ? &s->chunks[where.chunk].pieces[where.at] : NULL;
}

place pieces_next(const pieces *s, place where)
{
    BL_ASSERT(where.chunk < s->count);
    if (where.at + 1 < s->chunks[where.chunk].count) return (place){where.chunk, where.at + 1};
    return (place){where.chunk + 1, 0};
}

bool pieces_before(const pieces *s, place where, place *before)
{
    BL_ASSERT(where.chunk <= s->count);
    if (where.chunk < s->count && where.at > 0) {
        *before = (place){where.chunk, where.at - 1};
        return true;
    }
    if (where.chunk == 0) return false;
    *before = (place){where.chunk - 1, s->chunks[where.chunk - 1].count - 1};
    return true;
}

size_t pieces_total(const pieces *s)
{
    size_t total = 0;
    for (size_t c = 0; c < s->count; c++)
        total += s->chunks[c].count;
    return total;
}

place pieces_numbered(const pieces *s, size_t index)
{
    place found = {0, index};
    while (found.chunk < s->count && found.at >= s->chunks[found.chunk].count)
        found.at -= s->chunks[found.chunk++].count;
    return found;
}

/* ---- one piece ---- */

static bl_status append(piece *p, const bl_memory *memory, const uint8_t *bytes, size_t count)
{
    uint8_t *grown = bl_grown(memory, p->block, &p->capacity, p->lead + p->count + count, 1);
    if (grown == NULL) return BL_E_MEMORY;
    p->block = grown;
    memcpy(piece_bytes(p) + p->count, bytes, count);
    p->count += count;
    return BL_OK;
}

static bl_status prepend(piece *p, const bl_memory *memory, const uint8_t *bytes, size_t count)
{
    if (p->lead < count) {
        /* As much room in front as there are bytes, so that each is moved only a few times. */
        size_t lead = count + p->count, capacity = 0;
        uint8_t *fresh = bl_grow(memory, NULL, &capacity, lead + p->count, 1);
        if (fresh == NULL) return BL_E_MEMORY;
        memcpy(fresh + lead, piece_bytes(p), p->count);
        bl_release(memory, p->block);
        p->block = fresh;
        p->lead = lead;
        p->capacity = capacity;
    }
    p->lead -= count;
    memcpy(piece_bytes(p), bytes, count);
    p->first -= (uint32_t)count;
    p->count += count;
    return BL_OK;
}

/* ---- the set ---- */

static void remove_at(pieces *s, const bl_memory *memory, place where)
{
    chunk *c = &s->chunks[where.chunk];
    bl_release(memory, c->pieces[where.at].block);
    memmove(&c->pieces[where.at], &c->pieces[where.at + 1],
            (c->count - where.at - 1) * sizeof *c->pieces);
    if (--c->count > 0) return;
    bl_release(memory, c->pieces);
    memmove(c, c + 1, (s->count - where.chunk - 1) * sizeof *c);
    s->count--;
}

/* An empty chunk in front of the one that has this number. */
static bl_status add_chunk(pieces *s, const bl_memory *memory, size_t number)
{
    chunk fresh = {0};
    fresh.pieces = bl_grow(memory, NULL, &fresh.capacity, 1, sizeof *fresh.pieces);
    if (fresh.pieces == NULL) return BL_E_MEMORY;
    chunk *chunks = bl_grown(memory, s->chunks, &s->capacity, s->count + 1, sizeof *chunks);
    if (chunks == NULL) {
        bl_release(memory, fresh.pieces);
        return BL_E_MEMORY;
    }
    s->chunks = chunks;
    memmove(chunks + number + 1, chunks + number, (s->count - number) * sizeof *chunks);
    chunks[number] = fresh;
    s->count++;
    return BL_OK;
}

/* The upper half of a full chunk becomes one of its own. */
static bl_status split_piece(pieces *s, const bl_memory *memory, place *where)
{
    enum { HALF = CHUNK / 2 };
    bl_status status = add_chunk(s, memory, where->chunk + 1);
    if (status != BL_OK) return status;
    chunk *low = &s->chunks[where->chunk], *high = low + 1;
    piece *fresh = bl_grown(memory, high->pieces, &high->capacity, CHUNK - HALF, sizeof *fresh);
    if (fresh == NULL) {
        bl_release(memory, high->pieces);
        memmove(high, high + 1, (s->count - where->chunk - 2) * sizeof *high);
        s->count--;
        return BL_E_MEMORY;
    }
    high->pieces = fresh;
    memcpy(high->pieces, low->pieces + HALF, (CHUNK - HALF) * sizeof *fresh);
    high->count = CHUNK - HALF;
    low->count = HALF;
    if (where->at > HALF) *where = (place){where->chunk + 1, where->at - HALF};
    return BL_OK;
}

/* A piece of its own in front of the one at a place. */
static bl_status insert(pieces *s, const bl_memory *memory, place where, uint32_t address,
                        const uint8_t *bytes, size_t count)
{
    place before;
    piece fresh = {.first = address};
    bl_status status = BL_OK;
    if (where.chunk == s->count) { /* behind all */
        if (pieces_before(s, where, &before))
            where = (place){before.chunk, before.at + 1};
        else
            status = add_chunk(s, memory, 0);
    }
    bool made = s->count > 0 && s->chunks[0].count == 0;
    if (status == BL_OK && s->chunks[where.chunk].count == CHUNK)
        status = split_piece(s, memory, &where);
    if (status != BL_OK) return status;
    chunk *c = &s->chunks[where.chunk];
    piece *grown = bl_grown(memory, c->pieces, &c->capacity, c->count + 1, sizeof *grown);
    if (grown != NULL) c->pieces = grown;
    status = grown == NULL ? BL_E_MEMORY : append(&fresh, memory, bytes, count);
    if (status != BL_OK) {
        if (made) { /* the only chunk would stay empty */
            bl_release(memory, c->pieces);
            s->count = 0;
        }
        return status;
    }
    memmove(c->pieces + where.at + 1, c->pieces + where.at, (c->count - where.at) * sizeof *grown);
    c->pieces[where.at] = fresh;
    c->count++;
    return BL_OK;
}

/* The bytes close the gap between two pieces: all goes into the larger of them. */
static bl_status bridge_gap(pieces *s, const bl_memory *memory, place low, place high,
                            const uint8_t *bytes, size_t count)
{
    piece *p = pieces_at(s, low), *next = pieces_at(s, high);
    bl_status status;
    if (p->count >= next->count) {
        status = append(p, memory, bytes, count);
        if (status != BL_OK) return status;
        status = append(p, memory, piece_bytes(next), next->count);
        if (status != BL_OK) p->count -= count;
        if (status == BL_OK) remove_at(s, memory, high);
        return status;
    }
    status = prepend(next, memory, bytes, count);
    if (status != BL_OK) return status;
    status = prepend(next, memory, piece_bytes(p), p->count);
    if (status == BL_OK) {
        remove_at(s, memory, low);
        return BL_OK;
    }
    next->lead += count;
    next->first += (uint32_t)count;
    next->count -= count;
    return status;
}

bl_status pieces_put(pieces *s, const bl_memory *memory, uint32_t address, const uint8_t *bytes,
                     size_t count)
{
    BL_ASSERT(count > 0);
    place behind = pieces_find(s, address), before;
    piece *next = pieces_at(s, behind);
    bool after = pieces_before(s, behind, &before) && piece_end(pieces_at(s, before)) == address;
    bool touches = next != NULL && next->first == (uint64_t)address + count;
    if (after && touches) return bridge_gap(s, memory, before, behind, bytes, count);
    if (after) return append(pieces_at(s, before), memory, bytes, count);
    if (touches) return prepend(next, memory, bytes, count);
    return insert(s, memory, behind, address, bytes, count);
}

/* Blocks: what is good is right, whatever happened on the way. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "recording.h"

enum { BLOCKS = 6, MOST = BLOCKS * BL_BLOCK_MOST };

typedef struct tape {
    uint8_t data[BLOCKS][BL_BLOCK_DATA];
    bl_block_label label[BLOCKS];
    bl_tape_byte heard[2 * MOST];
    size_t count;
} tape;

static bl_tape_byte surely(uint8_t value, uint64_t at)
{
    bl_tape_byte b = {.at = at, .length = 30000, .value = value, .certainty = 90, .framed = true};
    for (unsigned i = 0; i < 8; i++)
        b.bit[i] = value >> i & 1 ? 90 : -90;
    return b;
}

/* Blocks of chance, their bytes 36 ms apart, with pauses between them. */
static void make_tape(tape *t)
{
    uint64_t at = 5000000;
    t->count = 0;
    for (unsigned i = 0; i < BLOCKS; i++) {
        uint8_t bytes[BL_BLOCK_MOST];
        t->label[i] =
            (bl_block_label){.kind = BL_BLOCK_PLAIN, .number = 3, .index = (uint16_t)(i + 1)};
        t->label[i].count = (uint16_t)(chance() % 256 + 1);
        t->label[i].address = (uint16_t)chance();
        for (unsigned j = 0; j < BL_BLOCK_DATA; j++)
            t->data[i][j] = (uint8_t)(chance() % 8 == 0 ? BL_BLOCK_MARK_1 : chance());
        size_t count = bl_block_write(&t->label[i], t->data[i], bytes);
        for (size_t j = 0; j < count; j++, at += 36667)
            t->heard[t->count++] = surely(bytes[j], at + chance() % 1000);
        at += 120000;
    }
}

static bool is_right(const tape *t, const bl_tape_block *b)
{
    unsigned i = b->label.index - 1u;
    if (i >= BLOCKS || b->label.number != 3 || b->label.count != t->label[i].count ||
        b->label.address != t->label[i].address || b->label.kind != BL_BLOCK_PLAIN)
        return false;
    for (size_t j = 0; j < b->label.count; j++)
        if (bl_block_byte(b, j) != t->data[i][j]) return false;
    return true;
}

TEST(blocks_come_back)
{
    static tape t;
    static bl_tape_block b;
    chance_from(11);
    for (unsigned turn = 0; turn < 50; turn++) {
        size_t from = 0;
        make_tape(&t);
        for (unsigned i = 0; i < BLOCKS; i++) {
            CHECK(bl_block_next(t.heard, t.count, &from, &b));
            CHECK(b.state == BL_BLOCK_GOOD && b.label.index == i + 1 && is_right(&t, &b));
            CHECK(b.certainty == 90 && b.mended == 0);
        }
        CHECK(!bl_block_next(t.heard, t.count, &from, &b));
    }
}

/* One of the many things that happen to bytes. */
static void damage(tape *t)
{
    size_t at = chance() % t->count, length = chance() % 40 + 1, kind = chance() % 6;
    for (size_t i = at; i < at + length && i < t->count; i++) {
        bl_tape_byte *b = &t->heard[i];
        unsigned bit = chance() % 8;
        if (kind == 0) b->bit[bit] = (int8_t)(chance() % 30) - 15; /* doubtful */
        if (kind == 1) b->bit[bit] = (int8_t)-b->bit[bit];         /* surely wrong */
        if (kind == 2)
            for (unsigned j = 0; j < 8; j++)
                b->bit[j] = (int8_t)(chance() % 200 - 100); /* noise */
        if (kind == 3) b->at += 20000;                      /* late */
        if (kind == 4) b->framed = false;
    }
    if (kind != 5) return;
    if (at + length > t->count) length = t->count - at; /* lost */
    memmove(t->heard + at, t->heard + at + length, (t->count - at - length) * sizeof *t->heard);
    t->count -= length;
}

TEST(no_damaged_block_is_called_good)
{
    static tape t;
    static bl_tape_block b;
    unsigned good = 0, mended = 0, wrong = 0, bad = 0;
    chance_from(12);
    for (unsigned turn = 0; turn < 2000; turn++) {
        make_tape(&t);
        for (unsigned i = chance() % 5 + 1; i > 0; i--)
            damage(&t);
        for (size_t from = 0; bl_block_next(t.heard, t.count, &from, &b);) {
            if (b.state == BL_BLOCK_GOOD) {
                CHECK(is_right(&t, &b));
                good++;
            }
            if (b.state == BL_BLOCK_BAD) bad++;
            if (b.state == BL_BLOCK_MENDED) mended++, wrong += !is_right(&t, &b);
        }
    }
    CHECK(good > 5000 && bad > 1000 && mended > 10);
    CHECK(wrong * 10 < mended); /* only the sum of the whole proves those */
}

TEST(a_doubtful_bit_is_found_by_the_check)
{
    static tape t;
    static bl_tape_block b;
    chance_from(13);
    make_tape(&t);
    size_t from = 0, third = 0;
    for (unsigned i = 0; i < 2; i++)
        CHECK(bl_block_next(t.heard, t.count, &from, &b));
    third = from;
    for (unsigned i = 0; i < 3; i++) { /* two of them wrong, one right */
        int8_t *bit = &t.heard[third + 10 + 3 * i].bit[i];
        *bit = (int8_t)(i == 2 ? *bit / 20 : -*bit / 20);
    }
    CHECK(bl_block_next(t.heard, t.count, &from, &b));
    CHECK_INT(b.state, BL_BLOCK_MENDED);
    CHECK(b.mended == 2 && is_right(&t, &b));
}

/* Two takes that each have lost something else. */
TEST(takes_add_up)
{
    static tape t, u;
    static bl_tape_block a, b;
    chance_from(14);
    make_tape(&t);
    u = t;
    for (unsigned j = 0; j < 8; j++)
        for (unsigned i = 0; i < 3; i++) {
            t.heard[12 + i].bit[j] = (int8_t)(-t.heard[12 + i].bit[j] / 9);
            u.heard[60 + i].bit[j] = (int8_t)(-u.heard[60 + i].bit[j] / 9);
        }
    size_t x = 0, y = 0;
    CHECK(bl_block_next(t.heard, t.count, &x, &a) && bl_block_next(u.heard, u.count, &y, &b));
    CHECK(a.state == BL_BLOCK_BAD && b.state == BL_BLOCK_BAD);
    CHECK_INT(bl_block_add(&a, &b), BL_OK);
    CHECK(a.state == BL_BLOCK_GOOD && is_right(&u, &a));
    CHECK(bl_block_next(u.heard, u.count, &y, &b));
    if (a.slots != b.slots) CHECK_INT(bl_block_add(&a, &b), BL_E_DIFFERS);
}

TEST(heads_come_back)
{
    bl_tape_head h = {.content = BL_TAPE_TEXT, .has_entry = true, .starts = true, .blocks = 300},
                 back;
    uint8_t data[BL_TAPE_HEAD_MOST];
    h.size = 70000, h.crc32 = 0xCBF43926;
    strcpy(h.name, "sixteen letters!");
    size_t count = bl_tape_head_write(&h, data);
    CHECK_INT(count, BL_TAPE_HEAD_MOST);
    CHECK_INT(bl_tape_head_read(data, count, &back), BL_OK);
    CHECK(memcmp(&h, &back, sizeof h) == 0 || strcmp(h.name, back.name) == 0);
    CHECK(back.size == h.size && back.crc32 == h.crc32 && back.blocks == h.blocks && back.starts);
    CHECK_INT(bl_tape_head_read(data, 12, &back), BL_E_SYNTAX);
    data[0] = 9;
    CHECK_INT(bl_tape_head_read(data, count, &back), BL_E_SYNTAX);
}

/* From bytes to sound and back: blocks in a recording that is fast, wavers, and has noise. */
TEST(blocks_through_a_bad_recorder)
{
    static tape t;
    static bl_tape_block b;
    static uint8_t bytes[MOST];
    size_t count = 0, from = 0;
    chance_from(15);
    make_tape(&t);
    for (unsigned i = 0; i < BLOCKS; i++)
        count += bl_block_write(&t.label[i], t.data[i], bytes + count);
    recording r = record_bytes(1200, 1, bytes, count,
                               &(impairment){.speed = 1.1, .wow = 0.02, .noise = 9, .level = 0.2});
    heard_bytes h = hear(&r, NULL);
    for (unsigned i = 0; i < BLOCKS; i++) {
        CHECK(bl_block_next(h.at, h.count, &from, &b));
        CHECK(b.state == BL_BLOCK_GOOD && is_right(&t, &b));
    }
    free(r.samples), free(h.at);
}

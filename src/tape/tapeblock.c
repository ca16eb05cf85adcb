/* tapeblock.c - blocks to bytes, and blocks out of bytes that were heard more or less surely. */
#include "bootlace/tapeblock.h"

#include "base/core.h"
#include "bootlace/crc.h"

enum {
    VERSION = 1,
    HAS_ENTRY = 1,
    STARTS = 2,
    NO_CRC = 4,
    HEAD_FIXED = 13,
    DOUBTFUL_BITS = 8, /* so many may be found by the check */
    MARK_WRONG = 2,    /* bits of a mark that may be wrong, if they are not sure */
    SURE = 50,
    MOST_SURE = 10000, /* of many takes together */
};

/* ---- writing ---- */

size_t bl_block_write(const bl_block_label *l, const uint8_t *data, uint8_t *bytes)
{
    uint8_t before[BL_BLOCK_BEFORE] = {
        l->kind,
        l->number,
        (uint8_t)l->index,
        (uint8_t)(l->index >> 8),
        (uint8_t)l->count,
        (uint8_t)l->address,
        (uint8_t)(l->address >> 8),
    };
    size_t count = 0;
    BL_ASSERT(l->count >= 1 && l->count <= BL_BLOCK_DATA);
    bytes[count++] = BL_BLOCK_MARK_1, bytes[count++] = BL_BLOCK_MARK_2;
    memcpy(bytes + count, before, sizeof before);
    count += sizeof before;
    memcpy(bytes + count, data, l->count);
    count += l->count;
    uint16_t crc = bl_crc16(0, bytes + 2, count - 2);
    bytes[count++] = (uint8_t)(crc >> 8), bytes[count++] = (uint8_t)crc;
    return count;
}

static void put_little(uint8_t *bytes, uint32_t value, unsigned count)
{
    for (unsigned i = 0; i < count; i++)
        bytes[i] = (uint8_t)(value >> 8 * i);
}

static uint32_t get_little(const uint8_t *bytes, unsigned count)
{
    uint32_t value = 0;
    for (unsigned i = count; i-- > 0;)
        value = value << 8 | bytes[i];
    return value;
}

size_t bl_tape_head_write(const bl_tape_head *h, uint8_t *data)
{
    size_t length = bl_length(h->name);
    data[0] = VERSION, data[1] = h->content;
    data[2] = (uint8_t)((h->has_entry ? HAS_ENTRY : 0) | (h->starts ? STARTS : 0) |
                        (h->no_crc ? NO_CRC : 0));
    put_little(data + 3, h->blocks, 2);
    put_little(data + 5, h->size, 4);
    put_little(data + 9, h->crc32, 4);
    memcpy(data + HEAD_FIXED, h->name, length);
    return HEAD_FIXED + length;
}

bl_status bl_tape_head_read(const uint8_t *data, size_t count, bl_tape_head *h)
{
    if (count < HEAD_FIXED || count > BL_TAPE_HEAD_MOST || data[0] != VERSION ||
        data[1] > BL_TAPE_TEXT || data[2] > (HAS_ENTRY | STARTS | NO_CRC))
        return BL_E_SYNTAX;
    *h = (bl_tape_head){.content = data[1],
                        .has_entry = (data[2] & HAS_ENTRY) != 0,
                        .starts = (data[2] & STARTS) != 0,
                        .no_crc = (data[2] & NO_CRC) != 0};
    h->blocks = (uint16_t)get_little(data + 3, 2);
    h->size = get_little(data + 5, 4);
    h->crc32 = get_little(data + 9, 4);
    memcpy(h->name, data + HEAD_FIXED, count - HEAD_FIXED);
    return BL_OK;
}

/* ---- slots ---- */

uint8_t bl_slot_value(const bl_block_slot *s)
{
    unsigned value = 0;
    for (unsigned i = 0; i < 8; i++)
        value |= (unsigned)(s->bit[i] > 0) << i;
    return (uint8_t)value;
}

uint8_t bl_slot_certainty(const bl_block_slot *s)
{
    int least = 100;
    for (unsigned i = 0; i < 8; i++) {
        int sure = s->bit[i] < 0 ? -s->bit[i] : s->bit[i];
        if (sure < least) least = sure;
    }
    return (uint8_t)least;
}

void bl_slot_add(bl_block_slot *s, const bl_block_slot *other)
{
    for (unsigned i = 0; i < 8; i++) {
        int sum = s->bit[i] + other->bit[i];
        s->bit[i] = (int16_t)(sum > MOST_SURE ? MOST_SURE : sum < -MOST_SURE ? -MOST_SURE : sum);
    }
}

/* A byte whose start or stop bits are wrong is not believed as much as its bits are. */
static void slot_hear(bl_block_slot *s, const bl_tape_byte *b)
{
    for (unsigned i = 0; i < 8; i++)
        s->bit[i] = b->framed ? b->bit[i] : b->bit[i] / 4;
}

uint8_t bl_block_byte(const bl_tape_block *block, size_t index)
{
    BL_ASSERT(index < block->label.count);
    return bl_slot_value(&block->slot[BL_BLOCK_BEFORE + index]);
}

static void read_label(bl_tape_block *b)
{
    uint8_t v[BL_BLOCK_BEFORE];
    for (unsigned i = 0; i < BL_BLOCK_BEFORE; i++)
        v[i] = bl_slot_value(&b->slot[i]);
    b->label =
        (bl_block_label){.kind = v[0], .number = v[1], .index = (uint16_t)get_little(v + 2, 2)};
    b->label.count = v[4] == 0 ? 256 : v[4];
    b->label.address = (uint16_t)get_little(v + 5, 2);
}

/* ---- the check, and what it can mend ---- */

static uint16_t check_of(const bl_tape_block *b)
{
    uint16_t crc = 0;
    for (unsigned i = 0; i < b->slots; i++) {
        uint8_t value = bl_slot_value(&b->slot[i]);
        crc = bl_crc16(crc, &value, 1);
    }
    return crc;
}

/* What turning a bit does to the check. */
static uint16_t effect_of(const bl_tape_block *b, unsigned slot, unsigned bit)
{
    uint8_t value = (uint8_t)(1u << bit);
    uint16_t crc = bl_crc16(0, &value, 1);
    value = 0;
    for (unsigned i = slot + 1; i < b->slots; i++)
        crc = bl_crc16(crc, &value, 1);
    return crc;
}

typedef struct doubt {
    uint16_t slot, effect;
    uint8_t bit;
} doubt;

/* The bits in doubt. Returns how many, more than DOUBTFUL_BITS if they are too many. */
static unsigned doubts_of(const bl_tape_block *b, doubt doubts[DOUBTFUL_BITS])
{
    unsigned count = 0;
    for (unsigned i = 0; i < b->slots; i++)
        for (unsigned j = 0; j < 8; j++) {
            int sure = b->slot[i].bit[j];
            if (sure >= BL_CERTAIN || sure <= -BL_CERTAIN) continue;
            if (count == DOUBTFUL_BITS) return count + 1;
            doubts[count++] = (doubt){(uint16_t)i, effect_of(b, i, j), (uint8_t)j};
        }
    return count;
}

/* Turns those doubtful bits that make the check right, if there is exactly one way to do it. */
static bool mend(bl_tape_block *b, uint16_t wrong)
{
    doubt doubts[DOUBTFUL_BITS];
    unsigned count = doubts_of(b, doubts), ways = 0, found = 0;
    if (count > DOUBTFUL_BITS) return false;
    for (unsigned set = 1; set < 1u << count; set++) {
        uint16_t effect = 0;
        for (unsigned i = 0; i < count; i++)
            if (set >> i & 1) effect ^= doubts[i].effect;
        if (effect == wrong) ways++, found = set;
    }
    if (ways != 1) return false;
    for (unsigned i = 0; i < count; i++)
        if (found >> i & 1) {
            int16_t *bit = &b->slot[doubts[i].slot].bit[doubts[i].bit];
            *bit = *bit > 0 ? -1 : 1;
            b->mended++;
        }
    return true;
}

static bool label_holds(const bl_tape_block *b)
{
    return b->label.kind >= BL_BLOCK_HEAD && b->label.kind <= BL_BLOCK_END &&
           b->slots == BL_BLOCK_BEFORE + b->label.count + 2;
}

/* A check that is right by chance is none: with more bits in doubt than it could tell, it is worth
 * no more than one that was made right. */
static void judge_block(bl_tape_block *b)
{
    doubt doubts[DOUBTFUL_BITS];
    b->mended = 0, b->certainty = 100, b->worst = 0;
    for (unsigned i = 0; i < b->slots; i++) {
        uint8_t sure = bl_slot_certainty(&b->slot[i]);
        if (sure < b->certainty) b->certainty = sure, b->worst = (uint16_t)i;
    }
    uint16_t wrong = check_of(b);
    bool right = wrong == 0 || mend(b, wrong);
    bool proven = wrong == 0 && doubts_of(b, doubts) <= DOUBTFUL_BITS;
    read_label(b);
    b->state = !right || !label_holds(b) ? BL_BLOCK_BAD : proven ? BL_BLOCK_GOOD : BL_BLOCK_MENDED;
}

/* ---- finding blocks ---- */

/* How many bits of a byte are wrong; those that are sure count as many. */
static unsigned wrong_bits(const bl_tape_byte *b, uint8_t expected)
{
    unsigned wrong = 0;
    for (unsigned i = 0; i < 8; i++) {
        int sure = expected >> i & 1 ? b->bit[i] : -b->bit[i];
        if (sure <= 0) wrong += sure <= -SURE ? 8 : 1;
    }
    return wrong;
}

static bool is_mark(const bl_tape_byte *bytes, size_t count, size_t i)
{
    return i + 1 < count &&
           wrong_bits(&bytes[i], BL_BLOCK_MARK_1) + wrong_bits(&bytes[i + 1], BL_BLOCK_MARK_2) <=
               MARK_WRONG;
}

/* How far bytes are apart here, if they follow one another. */
static uint64_t period_at(const bl_tape_byte *bytes, size_t i)
{
    return bytes[i + 1].at - bytes[i].at;
}

/* Puts bytes into slots by their time, so that one that was lost leaves a hole and moves none. A
 * pause that is longer than what is left ends the block. Returns the index behind the last byte. */
static size_t fill_slots(const bl_tape_byte *bytes, size_t count, size_t mark, bl_tape_block *b)
{
    uint64_t period = period_at(bytes, mark), last = bytes[mark + 1].at;
    unsigned need = BL_BLOCK_BEFORE, filled = 0;
    size_t i = mark + 2;
    memset(b, 0, sizeof *b);
    b->at = bytes[mark].at, b->end = last + period;
    for (; i < count && filled < need; i++) {
        uint64_t passed = bytes[i].at - last;
        uint64_t holes = (passed + period / 2) / (period + (period == 0));
        if (holes == 0) continue; /* two bytes where one fits: noise */
        if (filled + holes > need + (need == BL_BLOCK_BEFORE ? 2u : 0u)) break;
        filled += (unsigned)holes;
        slot_hear(&b->slot[filled - 1], &bytes[i]);
        last = bytes[i].at, b->end = last + period;
        if (holes == 1) period = (period * 7 + passed) / 8;
        if (filled >= BL_BLOCK_BEFORE && need == BL_BLOCK_BEFORE) {
            read_label(b);
            need = BL_BLOCK_BEFORE + b->label.count + 2u;
        }
    }
    b->slots = (uint16_t)need;
    judge_block(b);
    return i;
}

bool bl_block_next(const bl_tape_byte *bytes, size_t count, size_t *from, bl_tape_block *block)
{
    for (size_t i = *from; i < count; i++) {
        if (!is_mark(bytes, count, i)) continue;
        size_t end = fill_slots(bytes, count, i, block);
        if (block->state == BL_BLOCK_BAD && !label_holds(block)) continue;
        *from = end;
        if (block->state == BL_BLOCK_GOOD) return true;
        for (size_t j = i + 1; j < end; j++) { /* a good one that begins within a bad one */
            bl_tape_block inner;
            if (!is_mark(bytes, count, j)) continue;
            fill_slots(bytes, count, j, &inner);
            if (inner.state != BL_BLOCK_GOOD) continue;
            *from = j;
            break;
        }
        return true;
    }
    *from = count;
    return false;
}

bl_status bl_block_add(bl_tape_block *block, const bl_tape_block *other)
{
    if (block->slots != other->slots) return BL_E_DIFFERS;
    for (unsigned i = 0; i < block->slots; i++)
        bl_slot_add(&block->slot[i], &other->slot[i]);
    judge_block(block);
    return BL_OK;
}

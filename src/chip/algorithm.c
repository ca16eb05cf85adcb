/* algorithm.c - pages, bytes, pulses and commands at the pins.
 *
 * Sources: the data sheets of the 28C series (page load, data polling on I/O 7, toggle bit on I/O
 * 6, software data protection), of the 27 series (pulses until a byte reads right, then one longer
 * pulse for its margin) and of the 39F series (command sequences, sector erase).
 */
#include "algorithm.h"

#include "base/core.h"

/* A strobe that every part of the catalogue takes; it is sampled as slowly as its slowest grade. */
enum { STROBE_NS = 200, LOOK_US = 20, SLACK_US = 5000 };

uint8_t bl_pins_read(const bl_chip_bus *b, const bl_part *part, uint32_t address)
{
    b->address(b->context, address);
    b->release(b->context);
    b->enables(b->context, true, true, false);
    b->pause(b->context, part->access_ns[0]);
    uint8_t data = b->sense(b->context);
    b->enables(b->context, false, false, false);
    return data;
}

static void strobe(const bl_chip_bus *b, uint32_t address, uint8_t data, uint32_t nanoseconds)
{
    b->address(b->context, address);
    b->enables(b->context, true, false, false);
    b->drive(b->context, data);
    b->enables(b->context, true, false, true);
    b->pause(b->context, nanoseconds);
    b->enables(b->context, true, false, false); /* the rising edge takes the data */
    b->pause(b->context, STROBE_NS);
    b->enables(b->context, false, false, false);
    b->release(b->context);
}

typedef struct key {
    uint16_t address;
    uint8_t data;
} key;

static void turn_key(const bl_chip_bus *b, const bl_part *part, const key *keys, size_t count)
{
    for (size_t i = 0; i < count; i++)
        strobe(b, keys[i].address & (part->size - 1), keys[i].data, STROBE_NS);
}

void bl_pins_protect(const bl_chip_bus *b, const bl_part *part, bool on)
{
    static const key lock[] = {{0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0xA0}};
    static const key open[] = {{0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x80},
                               {0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x20}};
    if (on)
        turn_key(b, part, lock, 3);
    else
        turn_key(b, part, open, 6);
    b->pause(b->context, 20u * 1000 * 1000);
}

/* ---- outcome ---- */

_Static_assert(BL_PAGE_MAX <= UINT16_MAX, "places in a page are 16 bits");

static void end_page(bl_page_work *w, bl_answer_code outcome, uint16_t index, uint8_t found)
{
    BL_ASSERT(outcome <= BL_ANSWER_NO_SUPPLY);
    w->busy = false;
    w->outcome = outcome;
    w->where = w->first + index;
    w->expected = w->wanted[index];
    w->found = found;
}

/* Every byte of the page against what was asked. */
static void compare_page(bl_page_work *w, const bl_part *part, const bl_chip_bus *b)
{
    bool changed = false, right = true;
    uint16_t wrong = 0;
    uint8_t found = 0;
    for (uint16_t i = 0; i < w->count; i++) {
        uint8_t byte = bl_pins_read(b, part, w->first + i);
        changed |= byte != w->old[i];
        if (byte == w->wanted[i] || !right) continue;
        right = false;
        wrong = i;
        found = byte;
    }
    end_page(w,
             right     ? BL_ANSWER_GOOD
             : changed ? BL_ANSWER_DIFFERS
                       : BL_ANSWER_UNCHANGED,
             wrong, found);
}

/* ---- parts that tell when they are ready ---- */

static void wait_for(bl_page_work *w, uint32_t longest_us, uint64_t now)
{
    w->look_again = now + LOOK_US;
    w->give_up = now + longest_us + SLACK_US;
}

/* Starts the next unit: the page, or the next byte that is not right yet. False: none is left. */
static bool load_page(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    static const key write[] = {{0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0xA0}};
    uint16_t i = w->position;
    if (part->algorithm == BL_ALGORITHM_PAGE && i == 0) {
        for (; i < w->count; i++)
            strobe(b, w->first + i, w->wanted[i], STROBE_NS);
    } else {
        while (i < w->count && w->old[i] == w->wanted[i])
            i++;
        if (i == w->count) return false;
        if (part->algorithm == BL_ALGORITHM_COMMAND) turn_key(b, part, write, 3);
        strobe(b, w->first + i, w->wanted[i], STROBE_NS);
        i++;
    }
    w->position = i;
    wait_for(w, part->cycle_us, now);
    return true;
}

/* Two equal reads: neither data polling nor the toggle bit is at work. */
static void poll(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    uint32_t at = w->first + (w->erasing ? 0 : w->position - 1u);
    uint8_t wanted = w->erasing ? 0xFF : w->wanted[w->position - 1];
    uint8_t one = bl_pins_read(b, part, at), two = bl_pins_read(b, part, at);
    bool ready = one == two && one == wanted;
    if (!ready && now < w->give_up) {
        w->look_again = now + LOOK_US;
        return;
    }
    if (one != two) {
        end_page(w, BL_ANSWER_NOT_READY, (uint16_t)(at - w->first), one);
        return;
    }
    if (w->erasing)
        end_page(w, ready ? BL_ANSWER_GOOD : BL_ANSWER_UNCHANGED, 0, one);
    else if (!ready || w->position == w->count || !load_page(w, part, b, now))
        compare_page(w, part, b);
}

/* ---- pulses ---- */

bool bl_pins_supply(const bl_chip_bus *b, uint8_t vcc, uint8_t vpp)
{
    if (b->supply == NULL) return vcc == 50 && vpp == 0;
    return b->supply(b->context, vcc, vpp);
}

/* One byte a step: pulses until it reads right, then the longer one. The supplies are off between
 * steps of different pages only. */
static void pulse(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    uint16_t i = w->position;
    while (i < w->count && w->old[i] == w->wanted[i])
        i++;
    w->position = (uint16_t)(i + 1);
    w->look_again = now;
    if (i == w->count) {
        bl_pins_supply(b, 50, 0);
        compare_page(w, part, b);
        return;
    }
    uint32_t at = w->first + i, given = 0;
    uint8_t found = w->old[i];
    while (found != w->wanted[i] && given < part->pulses) {
        strobe(b, at, w->wanted[i], part->cycle_us * 1000u);
        b->pause(b->context, STROBE_NS);
        found = bl_pins_read(b, part, at);
        given++;
    }
    if (found == w->wanted[i] && part->over > 0)
        strobe(b, at, w->wanted[i], part->cycle_us * 1000u * part->over * given);
    if (found == w->wanted[i]) return;
    bl_pins_supply(b, 50, 0);
    end_page(w, BL_ANSWER_DIFFERS, i, found);
}

/* ---- the whole ---- */

/* One step at a time, so that the caller's line is served meanwhile. */
bool bl_work_write(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    bool equal = true;
    w->busy = w->erasing = false;
    w->position = 0;
    for (uint16_t i = 0; i < w->count; i++) {
        w->old[i] = bl_pins_read(b, part, w->first + i);
        equal = equal && w->old[i] == w->wanted[i];
        if (!bl_part_only_falls(part) || (w->old[i] & w->wanted[i]) == w->wanted[i]) continue;
        end_page(w, BL_ANSWER_NOT_BLANK, i, w->old[i]);
        return false;
    }
    w->outcome = BL_ANSWER_GOOD;
    if (equal) return true;
    if (part->algorithm == BL_ALGORITHM_PULSE && !bl_pins_supply(b, part->vcc, part->vpp)) {
        end_page(w, BL_ANSWER_NO_SUPPLY, 0, w->old[0]);
        return false;
    }
    w->busy = true;
    w->look_again = now;
    if (part->algorithm != BL_ALGORITHM_PULSE) load_page(w, part, b, now);
    return true;
}

void bl_work_erase(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    static const key erase[] = {
        {0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x80}, {0x5555, 0xAA}, {0x2AAA, 0x55}};
    w->busy = w->erasing = true;
    w->outcome = BL_ANSWER_GOOD;
    w->first &= ~(part->sector - 1);
    w->count = 1;
    w->wanted[0] = 0xFF;
    turn_key(b, part, erase, 5);
    strobe(b, w->first, 0x30, STROBE_NS);
    wait_for(w, part->erase_us, now);
}

void bl_work_step(bl_page_work *w, const bl_part *part, const bl_chip_bus *b, uint64_t now)
{
    if (!w->busy || now < w->look_again) return;
    if (part->algorithm == BL_ALGORITHM_PULSE)
        pulse(w, part, b, now);
    else
        poll(w, part, b, now);
}

/* programmer.c - the microcontroller's side: requests and answers. */
#include "bootlace/programmer.h"

#include "algorithm.h"
#include "base/core.h"
#include "bootlace/crc.h"

enum { ADDRESS = 3 };
_Static_assert(ADDRESS + BL_PAGE_MAX <= BL_FRAME_PAYLOAD, "a page goes into one frame");

/* ---- answers ---- */

static void send_answer(bl_programmer *p)
{
    p->answer.kind = (uint8_t)(p->request.kind | BL_ANSWER);
    p->answer.sequence = p->request.sequence;
    p->wire_count = bl_frame_encode(&p->answer, p->wire);
    p->wire_sent = 0;
    p->answered = true;
}

static void answer_code(bl_programmer *p, bl_answer_code code)
{
    p->answer.payload[0] = (uint8_t)code;
    p->answer.length = 1;
}

/* How the last page or sector ended; told once. */
static void answer_outcome(bl_programmer *p)
{
    bl_page_work *w = &p->work;
    answer_code(p, w->outcome);
    if (w->outcome != BL_ANSWER_GOOD && w->outcome != BL_ANSWER_NO_SUPPLY)
        bl_frame_put(&p->answer, w->where, ADDRESS);
    if (w->outcome == BL_ANSWER_DIFFERS || w->outcome == BL_ANSWER_UNCHANGED ||
        w->outcome == BL_ANSWER_NOT_BLANK) {
        p->answer.payload[p->answer.length++] = w->expected;
        p->answer.payload[p->answer.length++] = w->found;
    }
    w->outcome = BL_ANSWER_GOOD;
}

/* ---- requests ---- */

static void hello(bl_programmer *p)
{
    bl_frame_put(&p->answer, BL_LINK_VERSION, 1);
    bl_frame_put(&p->answer, BL_WHO_PROGRAMMER, 1);
    bl_frame_put(&p->answer, BL_FRAME_PAYLOAD, 1);
    for (size_t i = 0; p->name[i] != '\0' && i < 32; i++)
        p->answer.payload[p->answer.length++] = (uint8_t)p->name[i];
}

/* docs/programmer.md: the order of the figures. */
static void select_part(bl_programmer *p)
{
    const uint8_t *d = p->request.payload;
    bl_part part = {.size = bl_frame_number(d, 4),
                    .algorithm = d[4],
                    .page = (uint16_t)bl_frame_number(d + 5, 2),
                    .cycle_us = bl_frame_number(d + 7, 4),
                    .window_us = (uint16_t)bl_frame_number(d + 11, 2),
                    .pulses = d[13],
                    .over = d[14],
                    .vpp = d[15],
                    .vcc = d[16],
                    .sector = bl_frame_number(d + 17, 4),
                    .erase_us = bl_frame_number(d + 21, 4),
                    .access_ns = {(uint16_t)bl_frame_number(d + 25, 2)}};
    if (bl_part_fault(&part) != NULL) {
        answer_code(p, BL_ANSWER_RANGE);
        return;
    }
    p->part = part;
    p->selected = bl_pins_supply(p->bus, 50, 0);
    if (!p->selected) answer_code(p, BL_ANSWER_NO_SUPPLY);
}

/* Does first .. first + count lie within the part? The refusal is prepared when not. */
static bool within(bl_programmer *p, uint32_t first, uint32_t count)
{
    if (!p->selected) {
        answer_code(p, BL_ANSWER_NO_PART);
        return false;
    }
    if (count > 0 && count <= p->part.size && first <= p->part.size - count) return true;
    answer_code(p, BL_ANSWER_RANGE);
    return false;
}

static void answer_read(bl_programmer *p)
{
    uint32_t first = bl_frame_number(p->request.payload, ADDRESS),
             count = p->request.payload[ADDRESS];
    if (count >= BL_FRAME_PAYLOAD) count = 0;
    if (!within(p, first, count)) return;
    for (uint32_t i = 0; i < count; i++)
        p->answer.payload[p->answer.length++] = bl_pins_read(p->bus, &p->part, first + i);
}

static void sums(bl_programmer *p)
{
    uint32_t first = bl_frame_number(p->request.payload, ADDRESS);
    uint32_t size = bl_frame_number(p->request.payload + 3, 2), count = p->request.payload[5];
    if (count * 4 >= BL_FRAME_PAYLOAD) count = 0;
    if (!within(p, first, size * count)) return;
    for (uint32_t i = 0; i < count; i++) {
        uint32_t crc = 0;
        for (uint32_t k = 0; k < size; k++) {
            uint8_t byte = bl_pins_read(p->bus, &p->part, first + i * size + k);
            crc = bl_crc32(crc, &byte, 1);
        }
        bl_frame_put(&p->answer, crc, 4);
    }
}

static void protect(bl_programmer *p)
{
    if (within(p, 0, 1)) bl_pins_protect(p->bus, &p->part, p->request.payload[0] != 0);
}

/* For reading only: between 4.5 and 5.5 V. */
static void set_supply(bl_programmer *p)
{
    uint8_t vcc = p->request.payload[0];
    if (vcc < 45 || vcc > 55)
        answer_code(p, BL_ANSWER_RANGE);
    else if (within(p, 0, 1) && !bl_pins_supply(p->bus, vcc, 0))
        answer_code(p, BL_ANSWER_NO_SUPPLY);
}

/* A write is answered when it has begun; a fault of it is told with the next answer. */
static void start_write(bl_programmer *p, uint64_t now)
{
    const uint8_t *d = p->request.payload;
    bl_page_work *w = &p->work;
    uint32_t first = bl_frame_number(d, ADDRESS), count = p->request.length - (uint32_t)ADDRESS;
    if (!within(p, first, count)) return;
    if (first / p->part.page != (first + count - 1) / p->part.page) {
        answer_code(p, BL_ANSWER_RANGE);
        return;
    }
    w->first = first;
    w->count = (uint16_t)count;
    memcpy(w->wanted, d + ADDRESS, (size_t)count);
    if (!bl_work_write(w, &p->part, p->bus, now)) {
        answer_outcome(p);
        return;
    }
    bl_frame_put(&p->answer, w->busy, 1); /* otherwise it held this already */
    p->pages_written += w->busy;
}

static void start_erase(bl_programmer *p, uint64_t now)
{
    uint32_t first = bl_frame_number(p->request.payload, ADDRESS);
    if (!within(p, first, 1)) return;
    if (p->part.algorithm != BL_ALGORITHM_COMMAND) {
        answer_code(p, BL_ANSWER_UNKNOWN);
        return;
    }
    p->work.first = first;
    bl_work_erase(&p->work, &p->part, p->bus, now);
}

typedef struct rule {
    uint8_t kind;
    uint8_t min, max; /* payload bytes */
    void (*take)(bl_programmer *p);
} rule;

/* A table of what each request needs, so that no length is looked at twice. */
static void begin_request(bl_programmer *p, uint64_t now)
{
    static const rule rules[] = {
        {BL_ASK_HELLO, 0, 0, hello},      {BL_ASK_SELECT, 27, 27, select_part},
        {BL_ASK_READ, 4, 4, answer_read}, {BL_ASK_SUMS, 6, 6, sums},
        {BL_ASK_PROTECT, 1, 1, protect},  {BL_ASK_WRITE, 4, ADDRESS + BL_PAGE_MAX, NULL},
        {BL_ASK_ERASE, 3, 3, NULL},       {BL_ASK_SUPPLY, 1, 1, set_supply},
    };
    const rule *r = NULL;
    for (size_t i = 0; i < sizeof rules / sizeof rules[0]; i++)
        if (rules[i].kind == p->request.kind) r = &rules[i];
    if (p->request.kind == BL_ASK_HELLO)
        p->work.outcome = BL_ANSWER_GOOD; /* somebody begins anew */
    answer_code(p, BL_ANSWER_GOOD);
    if (p->work.outcome != BL_ANSWER_GOOD)
        answer_outcome(p);
    else if (r == NULL)
        answer_code(p, BL_ANSWER_UNKNOWN);
    else if (p->request.length < r->min || p->request.length > r->max)
        answer_code(p, BL_ANSWER_MALFORMED);
    else if (r->take != NULL)
        r->take(p);
    else if (r->kind == BL_ASK_WRITE)
        start_write(p, now);
    else
        start_erase(p, now);
    send_answer(p);
}

static bool same_frame(const bl_frame *a, const bl_frame *b)
{
    return a->kind == b->kind && a->sequence == b->sequence && a->length == b->length &&
           memcmp(a->payload, b->payload, a->length) == 0;
}

static void take_frame(bl_programmer *p, const bl_frame *frame, uint64_t now)
{
    if (p->answered && same_frame(frame, &p->request)) {
        p->wire_sent = 0; /* the answer was lost */
        return;
    }
    if (p->work.busy) {
        p->held = *frame;
        p->is_held = true;
        return;
    }
    p->answered = false;
    p->request = *frame;
    begin_request(p, now);
}

void bl_programmer_tick(bl_programmer *p, uint64_t now)
{
    bl_work_step(&p->work, &p->part, p->bus, now);
    if (p->work.busy || !p->is_held) return;
    p->is_held = false;
    bl_frame frame = p->held;
    take_frame(p, &frame, now);
}

void bl_programmer_input(bl_programmer *p, const uint8_t *bytes, size_t count, uint64_t now)
{
    bl_frame frame;
    for (size_t i = 0; i < count; i++)
        if (bl_frame_take(&p->reader, bytes[i], &frame) == BL_FRAME_GOOD)
            take_frame(p, &frame, now);
}

size_t bl_programmer_output(bl_programmer *p, uint8_t *bytes, size_t capacity)
{
    size_t n = p->wire_count - p->wire_sent;
    if (n > capacity) n = capacity;
    memcpy(bytes, p->wire + p->wire_sent, n);
    p->wire_sent += n;
    return n;
}

uint64_t bl_programmer_deadline(const bl_programmer *p)
{
    return p->work.busy ? p->work.look_again : UINT64_MAX;
}

void bl_programmer_begin(bl_programmer *p, const bl_chip_bus *bus, const char *name)
{
    memset(p, 0, sizeof *p);
    p->bus = bus;
    p->name = name;
    bus->enables(bus->context, false, false, false);
    bus->release(bus->context);
    bl_pins_supply(bus, 50, 0);
}

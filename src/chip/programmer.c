/* programmer.c - the microcontroller's side: requests, page writes, data polling. */
#include "bootlace/programmer.h"

#include "base/core.h"
#include "bootlace/crc.h"
#include "bootlace/exchange.h"

/* Pulse and access times that every part of the catalogue meets (28C256-15: 100 ns write pulse,
 * 150 ns access). */
enum { PULSE_NS = 200, ACCESS_NS = 250, LOOK_US = 100, ADDRESS = 3 };

/* ---- pins ---- */

static uint8_t read_byte(const bl_chip_bus *b, uint32_t address)
{
    b->address(b->context, address);
    b->release(b->context);
    b->enables(b->context, true, true, false);
    b->pause(b->context, ACCESS_NS);
    uint8_t data = b->sense(b->context);
    b->enables(b->context, false, false, false);
    return data;
}

static void write_byte(const bl_chip_bus *b, uint32_t address, uint8_t data)
{
    b->address(b->context, address);
    b->enables(b->context, true, false, false);
    b->drive(b->context, data);
    b->enables(b->context, true, false, true);
    b->pause(b->context, PULSE_NS);
    b->enables(b->context, true, false, false); /* the rising edge takes the data */
    b->pause(b->context, PULSE_NS);
    b->enables(b->context, false, false, false);
    b->release(b->context);
}

/* ---- answers ---- */

static uint32_t number_at(const uint8_t *p, unsigned width)
{
    uint32_t value = 0;
    for (unsigned i = 0; i < width; i++)
        value |= (uint32_t)p[i] << (8 * i);
    return value;
}

static void put_number(bl_frame *f, uint32_t value, unsigned width)
{
    for (unsigned i = 0; i < width; i++)
        f->payload[f->length++] = (uint8_t)(value >> (8 * i));
}

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

static void answer_difference(bl_programmer *p, bl_answer_code code, uint32_t address,
                              uint8_t expected, uint8_t found)
{
    answer_code(p, code);
    put_number(&p->answer, address, ADDRESS);
    p->answer.payload[p->answer.length++] = expected;
    p->answer.payload[p->answer.length++] = found;
}

/* ---- requests ---- */

static void hello(bl_programmer *p)
{
    put_number(&p->answer, BL_LINK_VERSION, 1);
    put_number(&p->answer, BL_WHO_PROGRAMMER, 1);
    put_number(&p->answer, BL_FRAME_PAYLOAD, 1);
    for (size_t i = 0; p->name[i] != '\0' && i < 32; i++)
        p->answer.payload[p->answer.length++] = (uint8_t)p->name[i];
}

static void select_part(bl_programmer *p)
{
    const uint8_t *d = p->request.payload;
    uint32_t size = number_at(d, 4), page = number_at(d + 4, 2);
    bool sound = page > 0 && page <= BL_PAGE_MOST && (page & (page - 1)) == 0 && size > 0 &&
                 size <= 0x1000000u && size % page == 0;
    if (!sound) {
        answer_code(p, BL_ANSWER_RANGE);
        return;
    }
    p->size = size;
    p->page = (uint16_t)page;
    p->cycle_ms = (uint16_t)number_at(d + 6, 2);
    p->selected = true;
}

/* Does first .. first + count lie within the part? The refusal is prepared when not. */
static bool within(bl_programmer *p, uint32_t first, uint32_t count)
{
    if (!p->selected) {
        answer_code(p, BL_ANSWER_NO_PART);
        return false;
    }
    if (count > 0 && count <= p->size && first <= p->size - count) return true;
    answer_code(p, BL_ANSWER_RANGE);
    return false;
}

static void read_bytes(bl_programmer *p)
{
    uint32_t first = number_at(p->request.payload, ADDRESS), count = p->request.payload[ADDRESS];
    if (count >= BL_FRAME_PAYLOAD) count = 0;
    if (!within(p, first, count)) return;
    for (uint32_t i = 0; i < count; i++)
        p->answer.payload[p->answer.length++] = read_byte(p->bus, first + i);
}

static void sums(bl_programmer *p)
{
    uint32_t first = number_at(p->request.payload, ADDRESS);
    uint32_t size = number_at(p->request.payload + 3, 2), count = p->request.payload[5];
    if (count * 4 >= BL_FRAME_PAYLOAD) count = 0;
    if (!within(p, first, size * count)) return;
    for (uint32_t i = 0; i < count; i++) {
        uint32_t crc = 0;
        for (uint32_t k = 0; k < size; k++) {
            uint8_t byte = read_byte(p->bus, first + i * size + k);
            crc = bl_crc32(crc, &byte, 1);
        }
        put_number(&p->answer, crc, 4);
    }
}

/* Software data protection of the 28C parts: three bytes before a page switch it on, six switch it
 * off. */
static void protect(bl_programmer *p)
{
    static const uint16_t addresses[] = {0x5555, 0x2AAA, 0x5555, 0x5555, 0x2AAA, 0x5555};
    static const uint8_t off[] = {0xAA, 0x55, 0x80, 0xAA, 0x55, 0x20}, on[] = {0xAA, 0x55, 0xA0};
    bool turn_on = p->request.payload[0] != 0;
    if (!within(p, 0, 1)) return;
    for (size_t i = 0; i < (turn_on ? sizeof on : sizeof off); i++)
        write_byte(p->bus, addresses[i] & (p->size - 1), turn_on ? on[i] : off[i]);
    p->bus->pause(p->bus->context, 20u * 1000 * 1000);
}

/* Loads a page in one go, as the part's load window demands; polling follows in tick. */
static bool start_write(bl_programmer *p, uint64_t now)
{
    const uint8_t *d = p->request.payload;
    uint32_t first = number_at(d, ADDRESS), count = p->request.length - (uint32_t)ADDRESS;
    if (!within(p, first, count)) return false;
    if (first / p->page != (first + count - 1) / p->page) {
        answer_code(p, BL_ANSWER_RANGE);
        return false;
    }
    for (uint32_t i = 0; i < count; i++)
        p->old[i] = read_byte(p->bus, first + i);
    for (uint32_t i = 0; i < count; i++)
        write_byte(p->bus, first + i, d[ADDRESS + i]);
    p->writing = true;
    p->first = first;
    p->count = (uint8_t)count;
    p->look_again = now + LOOK_US;
    p->give_up = now + (uint64_t)p->cycle_ms * 1000 + 5000;
    p->pages_written++;
    return true;
}

static void compare_page(bl_programmer *p)
{
    const uint8_t *wanted = p->request.payload + ADDRESS;
    bool changed = false, right = true;
    uint8_t first_wrong = 0, found = 0;
    for (uint8_t i = 0; i < p->count; i++) {
        uint8_t byte = read_byte(p->bus, p->first + i);
        changed |= byte != p->old[i];
        if (byte == wanted[i] || !right) continue;
        right = false;
        first_wrong = i;
        found = byte;
    }
    answer_code(p, BL_ANSWER_GOOD);
    if (!right)
        answer_difference(p, changed ? BL_ANSWER_DIFFERS : BL_ANSWER_UNCHANGED,
                          p->first + first_wrong, wanted[first_wrong], found);
}

void bl_programmer_tick(bl_programmer *p, uint64_t now)
{
    if (!p->writing || now < p->look_again) return;
    /* Two equal reads of the last byte: neither data polling nor the toggle bit is at work. */
    uint32_t last = p->first + p->count - 1u;
    uint8_t one = read_byte(p->bus, last), two = read_byte(p->bus, last);
    uint8_t wanted = p->request.payload[ADDRESS + p->count - 1];
    bool ready = one == two && one == wanted;
    if (!ready && now < p->give_up) {
        p->look_again = now + LOOK_US;
        return;
    }
    p->writing = false;
    if (one != two) {
        answer_code(p, BL_ANSWER_NOT_READY);
        put_number(&p->answer, last, ADDRESS);
    } else {
        compare_page(p);
    }
    send_answer(p);
}

typedef struct rule {
    uint8_t kind;
    uint8_t least, most; /* payload bytes */
    void (*take)(bl_programmer *p);
} rule;

static void take_request(bl_programmer *p, uint64_t now)
{
    static const rule rules[] = {
        {BL_ASK_HELLO, 0, 0, hello},     {BL_ASK_SELECT, 10, 10, select_part},
        {BL_ASK_READ, 4, 4, read_bytes}, {BL_ASK_SUMS, 6, 6, sums},
        {BL_ASK_PROTECT, 1, 1, protect}, {BL_ASK_WRITE, 4, ADDRESS + BL_PAGE_MOST, NULL},
    };
    const rule *r = NULL;
    for (size_t i = 0; i < sizeof rules / sizeof rules[0]; i++)
        if (rules[i].kind == p->request.kind) r = &rules[i];
    answer_code(p, BL_ANSWER_GOOD);
    if (r == NULL)
        answer_code(p, BL_ANSWER_UNKNOWN);
    else if (p->request.length < r->least || p->request.length > r->most)
        answer_code(p, BL_ANSWER_MALFORMED);
    else if (r->take != NULL)
        r->take(p);
    else if (start_write(p, now))
        return; /* answered when the write cycle is over */
    send_answer(p);
}

static bool same_frame(const bl_frame *a, const bl_frame *b)
{
    return a->kind == b->kind && a->sequence == b->sequence && a->length == b->length &&
           memcmp(a->payload, b->payload, a->length) == 0;
}

void bl_programmer_input(bl_programmer *p, const uint8_t *bytes, size_t count, uint64_t now)
{
    bl_frame frame;
    for (size_t i = 0; i < count; i++) {
        if (bl_frame_take(&p->reader, bytes[i], &frame) != BL_FRAME_GOOD) continue;
        if (p->writing) continue; /* the PC asked again too early; it will once more */
        if (p->answered && same_frame(&frame, &p->request)) {
            p->wire_sent = 0;
            continue;
        }
        p->answered = false;
        p->request = frame;
        take_request(p, now);
    }
}

size_t bl_programmer_output(bl_programmer *p, uint8_t *bytes, size_t room)
{
    size_t n = p->wire_count - p->wire_sent;
    if (n > room) n = room;
    memcpy(bytes, p->wire + p->wire_sent, n);
    p->wire_sent += n;
    return n;
}

uint64_t bl_programmer_deadline(const bl_programmer *p)
{
    return p->writing ? p->look_again : UINT64_MAX;
}

void bl_programmer_begin(bl_programmer *p, const bl_chip_bus *bus, const char *name)
{
    memset(p, 0, sizeof *p);
    p->bus = bus;
    p->name = name;
    bus->enables(bus->context, false, false, false);
    bus->release(bus->context);
}

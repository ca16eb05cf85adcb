/* The socket pin by pin: every part of the catalogue burned through its own pins. */
#include "chip_support.h"

#include <string.h>

#include "sim/part/zif.h"

static sim_zif zif;
static sim_part part;
static bl_programmer programmer;
static bl_pin_bus bus;
static bl_chip_bus chip_bus;
static bl_pins pins;

/* The PC's end of a line without a line: what is sent is there at once. */
static bl_status send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    (void)context;
    bl_programmer_input(&programmer, bytes, count, zif.now / 1000);
    *taken = count;
    return BL_OK;
}

static bl_status receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    (void)context;
    *got = bl_programmer_output(&programmer, bytes, capacity);
    return BL_OK;
}

static bl_status wait(void *context, uint32_t microseconds)
{
    uint64_t end = zif.now + microseconds * 1000ull;
    (void)context;
    while (zif.now < end && programmer.wire_sent == programmer.wire_count) {
        pins.delay(pins.context, 20000);
        bl_programmer_tick(&programmer, zif.now / 1000);
    }
    return BL_OK;
}

static uint64_t now(void *context)
{
    (void)context;
    return zif.now / 1000;
}

static bl_status burn(const bl_part *p, bool corners)
{
    static const bl_serial line = {NULL, send, receive, wait, now, NULL};
    bl_piece pieces[24];
    size_t count = 0;
    /* The pages that each address line leads to, and the last. */
    for (uint32_t at = p->page; at < p->size; at <<= 1)
        pieces[count++] = (bl_piece){at, p->page, wanted + at};
    pieces[count++] = (bl_piece){0, p->page, wanted};
    pieces[count++] = (bl_piece){p->size - p->page, p->page, wanted + (p->size - p->page)};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = pieces,
                             .piece_count = count,
                             .block = p->page,
                             .who = BL_WHO_PROGRAMMER,
                             .part = p,
                             .corners = corners,
                             .sum_ns = 5000};
    pins = sim_zif_pins(&zif);
    chip_bus = bl_pin_bus_begin(&bus, &pins, &programmer.part);
    bl_programmer_begin(&programmer, &chip_bus, "pins");
    bl_exchange_begin(&exchange, 115200);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_transfer(&line, &exchange, &job, NULL);
    bl_transfer_end(&job);
    return status;
}

TEST(every_part_through_its_own_pins)
{
    for (size_t i = 0; i < bl_parts(); i++) {
        const bl_part *p = bl_part_at(i);
        memset(cells, 0xFF, p->size);
        memset(wanted, 0xFF, p->size);
        /* Something on each address line, and at the ends. */
        for (uint32_t at = 1; at < p->size; at <<= 1)
            wanted[at] = (uint8_t)test_random();
        wanted[0] = 0x5A, wanted[p->size - 1] = 0x3C, wanted[p->size / 2 + 3] = 0;
        sim_part_begin(&part, p, cells);
        sim_zif_begin(&zif, &part);
        bl_status status = burn(p, p->algorithm == BL_ALGORITHM_PULSE);
        if (status != BL_OK)
            test_fail(__FILE__, __LINE__, "%s: %s", p->name, bl_status_text(status));
        CHECK_BYTES(cells, p->size, wanted, p->size);
        CHECK(!part.destroyed);
        CHECK_INT(zif.faults, 0);
        CHECK_INT(zif.vpp, 0); /* and left switched off */
        CHECK_INT(zif.vcc, 50);
    }
}

/* The supply reaches no pin before a part is known, and the right one then. */
TEST(nothing_is_driven_before_a_part_is_selected)
{
    const bl_part *p = bl_part_named((bl_text){"27256", 5});
    sim_part_begin(&part, p, cells);
    sim_zif_begin(&zif, &part);
    pins = sim_zif_pins(&zif);
    chip_bus = bl_pin_bus_begin(&bus, &pins, &programmer.part);
    memset(&programmer, 0, sizeof programmer);
    bl_programmer_begin(&programmer, &chip_bus, "pins");
    for (unsigned pin = 1; pin <= BL_SOCKET_PINS; pin++)
        CHECK(zif.state[pin] != BL_PIN_SUPPLY && zif.state[pin] != BL_PIN_VPP &&
              zif.state[pin] != BL_PIN_GROUND);
    memset(cells, 0xFF, p->size);
    memset(wanted, 0xFF, p->size);
    CHECK_INT(burn(p, false), BL_OK);
    CHECK_INT(zif.state[30], BL_PIN_SUPPLY);
    CHECK_INT(zif.state[16], BL_PIN_GROUND);
    CHECK_INT(zif.state[3], BL_PIN_HIGH); /* Vpp at 5 V */
    CHECK_INT(zif.state[32], BL_PIN_FREE);
}

/* Simulated EPROMs, flash and byte-write EEPROMs at their pins, against their data sheets. */
#include "harness.h"

#include <string.h>

#include "sim/part/sim_part.h"

static uint8_t cells[131072];
static sim_part part;
static uint64_t now;

static void begin(const char *name)
{
    const bl_part *p = bl_part_named((bl_text){name, strlen(name)});
    CHECK(p != NULL);
    memset(cells, 0xFF, sizeof cells);
    sim_part_begin(&part, p, cells);
    now = 1000;
}

/* A strobe of so many nanoseconds. */
static void strobe(uint32_t address, uint8_t data, uint64_t nanoseconds)
{
    part.address = address;
    part.data = data;
    part.driven = true;
    sim_part_pins(&part, now, true, false, true);
    sim_part_pins(&part, now += nanoseconds, true, false, false);
    sim_part_pins(&part, now += 100, false, false, false);
    part.driven = false;
}

static uint8_t look(uint32_t address)
{
    part.address = address;
    sim_part_pins(&part, now, true, true, false);
    uint8_t byte = sim_part_sense(&part, now += 500);
    sim_part_pins(&part, now, false, false, false);
    return byte;
}

/* ---- EPROM ---- */

static const uint64_t ms = 1000000;

TEST(an_eprom_takes_pulses_only_at_its_voltage)
{
    static const uint8_t wrong[] = {0, 50, 110, 131};
    begin("27256");
    for (size_t i = 0; i < sizeof wrong; i++) {
        sim_part_supply(&part, now, 60, wrong[i]);
        for (unsigned n = 0; n < 10; n++)
            strobe(0x100, 0x00, ms);
        CHECK_INT(look(0x100), 0xFF);
    }
    sim_part_supply(&part, now, 60, 125);
    for (unsigned n = 0; n < 10; n++)
        strobe(0x100, 0x00, ms / 2); /* too short */
    CHECK_INT(look(0x100), 0xFF);
    for (unsigned n = 0; n < 3; n++)
        strobe(0x100, 0x0F, ms);
    CHECK_INT(look(0x100), 0x0F);
    for (unsigned n = 0; n < 3; n++)
        strobe(0x100, 0xF3, ms);
    CHECK_INT(look(0x100), 0x03); /* bits only fall */
    CHECK(!part.destroyed);
}

TEST(pulses_are_counted_for_one_address_at_a_time)
{
    unsigned max = 0;
    begin("27256");
    sim_part_supply(&part, now, 60, 125);
    for (uint32_t at = 0; at < 200; at++) {
        unsigned n = 0;
        while (look(at) != 0x55 && n < 25) {
            strobe(at, 0x55, ms);
            n++;
        }
        CHECK_INT(look(at), 0x55);
        if (n > max) max = n;
    }
    CHECK(max > 1 && max <= 3); /* some need more than one, none many */
}

TEST(margin_shows_at_the_high_corner)
{
    begin("2764");
    sim_part_supply(&part, now, 60, 210);
    for (unsigned n = 0; n < 3; n++)
        strobe(7, 0x12, ms);
    sim_part_supply(&part, now, 50, 0);
    CHECK_INT(look(7), 0x12);
    sim_part_supply(&part, now, 55, 0);
    CHECK_INT(look(7), 0xFF);
    sim_part_supply(&part, now, 60, 210);
    strobe(7, 0x12, 4 * 3 * ms);
    sim_part_supply(&part, now, 55, 0);
    CHECK_INT(look(7), 0x12);
    sim_part_supply(&part, now, 45, 0);
    CHECK_INT(look(7), 0x12);
}

TEST(what_ends_a_part)
{
    begin("27256");
    cells[3] = 0x42;
    sim_part_supply(&part, now, 60, 210); /* a 12.5 V part at 21 V */
    CHECK(part.destroyed);
    sim_part_supply(&part, now, 50, 0);
    CHECK_INT(look(3), 0xFF);
    begin("28C64");
    sim_part_supply(&part, now, 75, 0);
    CHECK(part.destroyed);
    begin("2716");
    sim_part_supply(&part, now, 50, 250); /* what it wants */
    CHECK(!part.destroyed);
    strobe(0, 0x99, 50 * ms);
    sim_part_supply(&part, now, 50, 0);
    CHECK_INT(look(0), 0x99);
    CHECK(sim_part_ultraviolet(&part));
    CHECK_INT(look(0), 0xFF);
    begin("28C64");
    CHECK(!sim_part_ultraviolet(&part)); /* it has no window */
}

/* ---- flash ---- */

static void command(uint8_t last)
{
    strobe(0x5555, 0xAA, 100);
    strobe(0x2AAA, 0x55, 100);
    strobe(0x5555, last, 100);
}

static void program(uint32_t address, uint8_t data)
{
    command(0xA0);
    strobe(address, data, 100);
}

TEST(flash_bytes_need_their_command)
{
    begin("39F010");
    strobe(0x1234, 0x00, 100); /* no command: nothing */
    now += ms;
    CHECK_INT(look(0x1234), 0xFF);
    strobe(0x5555, 0xAA, 100);
    strobe(0x2AAA, 0x54, 100); /* a wrong key */
    strobe(0x5555, 0xA0, 100);
    strobe(0x1234, 0x00, 100);
    now += ms;
    CHECK_INT(look(0x1234), 0xFF);
    program(0x1234, 0x3C);
    uint8_t one = look(0x1234), two = look(0x1234);
    CHECK((one ^ two) == 0x40);            /* the toggle bit */
    CHECK((one & 0x80) == (~0x3C & 0x80)); /* data polling */
    now += 20000;
    CHECK_INT(look(0x1234), 0x3C);
    program(0x1234, 0xC3);
    now += ms;
    CHECK_INT(look(0x1234), 0x00); /* bits only fall */
}

TEST(a_sector_is_erased_and_no_other)
{
    begin("39F010");
    memset(cells, 0x11, sizeof cells);
    command(0x80);
    strobe(0x5555, 0xAA, 100);
    strobe(0x2AAA, 0x55, 100);
    strobe(0x2345, 0x30, 100);
    CHECK(look(0x2000) != look(0x2000)); /* busy */
    program(0x9000, 0x00);               /* not heard meanwhile */
    now += 25 * ms;
    CHECK_INT(look(0x1FFF), 0x11);
    CHECK_INT(look(0x2000), 0xFF);
    CHECK_INT(look(0x2FFF), 0xFF);
    CHECK_INT(look(0x3000), 0x11);
    CHECK_INT(look(0x9000), 0x11);
}

TEST(a_power_cut_leaves_things_half_done)
{
    sim_chance chance = {5};
    unsigned changed = 0, whole = 0;
    for (unsigned n = 0; n < 50; n++) {
        begin("28C64");
        for (uint32_t i = 0; i < 64; i++)
            strobe(0x40 + i, 0x00, 100);
        now += ms; /* the cycle is under way */
        sim_part_power_cut(&part, now, &chance);
        now += 100 * ms;
        unsigned right = 0;
        for (uint32_t i = 0; i < 64; i++)
            right += look(0x40 + i) == 0x00;
        changed += right > 0;
        whole += right == 64;
        CHECK_INT(look(0x3F), 0xFF);
        CHECK_INT(look(0x80), 0xFF);
    }
    CHECK(whole == 0 && changed > 0);
}

/* ---- byte writes ---- */

TEST(byte_writes_poll_without_a_toggle_bit)
{
    begin("28C16");
    strobe(5, 0x7E, 200);
    now += 1000;
    uint8_t one = look(5), two = look(5);
    CHECK_INT(one, two);
    CHECK_INT(one & 0x80, 0x80); /* the complement of bit 7 */
    strobe(6, 0x00, 200);        /* not heard while it is busy */
    now += 10 * ms;
    CHECK_INT(look(5), 0x7E);
    CHECK_INT(look(6), 0xFF);
    strobe(5, 0x81, 200); /* over what is there */
    now += 10 * ms;
    CHECK_INT(look(5), 0x81);
}

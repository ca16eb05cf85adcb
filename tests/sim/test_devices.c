/* Wires, the serial interface and the EEPROM, each against its data sheet. */
#include "harness.h"

#include <string.h>

#include "sim/device/serial/acia.h"
#include "sim/part/sim_part.h"
#include "wired_board.h"

TEST(a_byte_takes_ten_bit_times)
{
    static sim_wire w;
    sim_wire_begin(&w, 19200, NULL);
    for (unsigned i = 0; i < 1920; i++)
        CHECK(sim_wire_put(&w, 0, (uint8_t)i));
    uint8_t byte;
    CHECK_INT(sim_wire_next(&w), 520833);
    CHECK(!sim_wire_take(&w, 520832, &byte));
    CHECK(sim_wire_take(&w, 520833, &byte));
    for (unsigned i = 1; i < 1919; i++)
        CHECK(sim_wire_take(&w, UINT64_MAX - 1, &byte));
    CHECK_INT(sim_wire_next(&w), 1000000000); /* 1920 bytes take a second, to the nanosecond */
}

TEST(line_faults_come_as_often_as_asked)
{
    static sim_wire w;
    sim_line_faults f = {.lose_one_in = 10, .chance = {7}};
    unsigned arrived = 0, flipped = 0;
    uint8_t byte;
    sim_wire_begin(&w, 115200, &f);
    for (unsigned i = 0; i < 10000; i++) {
        sim_wire_put(&w, 0, 0);
        arrived += sim_wire_take(&w, UINT64_MAX - 1, &byte);
    }
    CHECK(arrived > 8800 && arrived < 9200);
    f = (sim_line_faults){.flip_one_in = 80, .chance = {7}};
    for (unsigned i = 0; i < 10000; i++) {
        sim_wire_put(&w, 0, 0);
        CHECK(sim_wire_take(&w, UINT64_MAX - 1, &byte));
        flipped += byte != 0;
    }
    CHECK(flipped > 800 && flipped < 1100);
    f = (sim_line_faults){.vanish_after = 3};
    for (arrived = 0, flipped = 0; flipped < 10; flipped++) {
        sim_wire_put(&w, 0, 0);
        arrived += sim_wire_take(&w, UINT64_MAX - 1, &byte);
    }
    CHECK_INT(arrived, 3);
}

/* ---- the serial interface ---- */

static sim_wire in, out;
static sim_device acia;

static void acia_on(uint8_t control, uint8_t command)
{
    sim_wire_begin(&in, 19200, NULL);
    sim_wire_begin(&out, 19200, NULL);
    acia = (sim_device){.kind = &sim_acia_kind, .in = &in, .out = &out};
    acia.kind->begin(&acia, true);
    acia.kind->write(&acia, 0, SIM_ACIA_CONTROL, control);
    acia.kind->write(&acia, 0, SIM_ACIA_COMMAND, command);
}

TEST(acia_receives_and_notices_overrun)
{
    acia_on(0x1F, 0x0B);
    sim_wire_put(&in, 0, 'a');
    CHECK_INT(acia.kind->read(&acia, 520000, SIM_ACIA_STATUS) & SIM_ACIA_RECEIVED, 0);
    CHECK_INT(acia.kind->read(&acia, 521000, SIM_ACIA_STATUS) & SIM_ACIA_RECEIVED,
              SIM_ACIA_RECEIVED);
    CHECK_INT(acia.kind->read(&acia, 521000, SIM_ACIA_DATA), 'a');
    CHECK_INT(acia.kind->read(&acia, 521000, SIM_ACIA_STATUS) & SIM_ACIA_RECEIVED, 0);
    sim_wire_put(&in, 521000, 'b');
    sim_wire_put(&in, 521000, 'c');
    uint8_t status = acia.kind->read(&acia, 3000000, SIM_ACIA_STATUS);
    CHECK_INT(status & (SIM_ACIA_RECEIVED | SIM_ACIA_OVERRUN),
              SIM_ACIA_RECEIVED | SIM_ACIA_OVERRUN);
    CHECK_INT(acia.kind->read(&acia, 3000000, SIM_ACIA_DATA), 'b'); /* the late one is lost */
    CHECK_INT(acia.kind->read(&acia, 3000000, SIM_ACIA_STATUS) & SIM_ACIA_OVERRUN, 0);
}

TEST(acia_sends_one_byte_at_a_time)
{
    acia_on(0x1F, 0x0B);
    uint8_t byte;
    acia.kind->write(&acia, 0, SIM_ACIA_DATA, 'x');
    CHECK(acia.kind->read(&acia, 1, SIM_ACIA_STATUS) &
          SIM_ACIA_EMPTY); /* it went to the shift register */
    acia.kind->write(&acia, 2, SIM_ACIA_DATA, 'y');
    CHECK(!(acia.kind->read(&acia, 3, SIM_ACIA_STATUS) & SIM_ACIA_EMPTY));
    acia.kind->write(&acia, 4, SIM_ACIA_DATA, 'z'); /* too early: replaces y */
    CHECK(acia.kind->read(&acia, 521000, SIM_ACIA_STATUS) & SIM_ACIA_EMPTY);
    CHECK(sim_wire_take(&out, 520834, &byte) && byte == 'x');
    CHECK(!sim_wire_take(&out, 1041000, &byte));
    CHECK(sim_wire_take(&out, 1042000, &byte) && byte == 'z');
}

TEST(acia_at_another_rate_hears_garbage)
{
    acia_on(0x1E, 0x0B); /* 9600 */
    sim_wire_put(&in, 0, 'a');
    uint8_t status = acia.kind->read(&acia, 2000000, SIM_ACIA_STATUS);
    CHECK(status & SIM_ACIA_FRAMING);
    CHECK(acia.kind->read(&acia, 2000000, SIM_ACIA_DATA) != 'a');
}

TEST(acia_interrupts_and_resets)
{
    acia_on(0x1F, 0x09); /* receiver interrupt on */
    sim_wire_put(&in, 0, 'a');
    acia.kind->update(&acia, 600000);
    CHECK(acia.kind->interrupt(&acia));
    acia.kind->read(&acia, 600000, SIM_ACIA_STATUS);
    CHECK(!acia.kind->interrupt(&acia)); /* reading the status clears it */
    CHECK_INT(acia.kind->read(&acia, 600000, SIM_ACIA_DATA), 'a');
    acia.kind->write(&acia, 600000, SIM_ACIA_STATUS, 0);
    CHECK_INT(acia.kind->read(&acia, 600000, SIM_ACIA_COMMAND), 0);
    sim_wire_put(&in, 600000, 'b');
    CHECK_INT(acia.kind->read(&acia, 2000000, SIM_ACIA_STATUS) & SIM_ACIA_RECEIVED,
              0); /* DTR is off: deaf */
}

/* ---- the EEPROM ---- */

static uint8_t cells[32768];
static sim_part chip;
static uint64_t now;

static void chip_on(void)
{
    memset(cells, 0xFF, sizeof cells);
    sim_part_begin(&chip, bl_part_named((bl_text){"28C256", 6}), cells);
    now = 1000;
}

static void chip_write(uint32_t address, uint8_t data)
{
    chip.address = address;
    chip.data = data;
    chip.driven = true;
    sim_part_pins(&chip, now, true, false, true);
    sim_part_pins(&chip, now += 200, false, false, false);
    chip.driven = false;
    now += 1000;
}

static uint8_t chip_read(uint32_t address)
{
    chip.address = address;
    sim_part_pins(&chip, now, true, true, false);
    uint8_t data = sim_part_sense(&chip, now += 250);
    sim_part_pins(&chip, now, false, false, false);
    return data;
}

enum { MS = 1000000 };

TEST(a_page_is_loaded_then_programmed)
{
    chip_on();
    for (uint32_t i = 0; i < 64; i++)
        chip_write(0x1240 + i, (uint8_t)i);
    CHECK_INT(cells[0x1240], 0xFF); /* not yet */
    now += 1 * MS;
    uint8_t one = chip_read(0x127F), two = chip_read(0x127F);
    CHECK_INT(one & 0x80, ~63 & 0x80); /* data polling: the complement of bit 7 */
    CHECK((one ^ two) & 0x40);         /* the toggle bit */
    now += 10 * MS;
    for (uint32_t i = 0; i < 64; i++)
        CHECK_INT(chip_read(0x1240 + i), i);
    CHECK_INT(chip.cycles, 1);
}

TEST(bytes_after_the_load_window_are_lost)
{
    chip_on();
    chip_write(0x100, 1);
    now += 200000; /* more than 150 us */
    chip_write(0x101, 2);
    now += 20 * MS;
    CHECK_INT(chip_read(0x100), 1);
    CHECK_INT(chip_read(0x101), 0xFF);
}

TEST(unselected_pages_keep_their_bytes)
{
    chip_on();
    memset(cells, 0x55, sizeof cells);
    chip_write(0x105, 9);
    now += 20 * MS;
    CHECK_INT(chip_read(0x104), 0x55);
    CHECK_INT(chip_read(0x105), 9);
    CHECK_INT(chip_read(0x145), 0x55);
}

static void unlock(const uint8_t *data, size_t count)
{
    static const uint16_t at[] = {0x5555, 0x2AAA, 0x5555, 0x5555, 0x2AAA, 0x5555};
    for (size_t i = 0; i < count; i++)
        chip_write(at[i], data[i]);
}

TEST(software_protection)
{
    chip_on();
    unlock((const uint8_t *)"\xAA\x55\xA0", 3);
    chip_write(0x200, 1);
    now += 20 * MS;
    CHECK_INT(chip_read(0x200), 1); /* with the key it is written, and protected from now on */
    CHECK(chip.protect);
    CHECK_INT(chip_read(0x5555), 0xFF); /* the key itself is not stored */
    chip_write(0x200, 2);
    now += 20 * MS;
    CHECK_INT(chip_read(0x200), 1);
    unlock((const uint8_t *)"\xAA\x55\x80\xAA\x55\x20", 6);
    now += 20 * MS;
    CHECK(!chip.protect);
    chip_write(0x200, 3);
    now += 20 * MS;
    CHECK_INT(chip_read(0x200), 3);
}

TEST(faults_of_a_chip)
{
    chip_on();
    chip.faults.stuck[0] = (sim_stuck){0x10, 3, false};
    chip.faults.stuck_count = 1;
    CHECK_INT(chip_read(0x10), 0xF7);
    chip_on();
    chip.faults.write_blocked = true;
    chip_write(0x10, 1);
    now += 20 * MS;
    CHECK_INT(chip_read(0x10), 0xFF);
    chip_on();
    chip.faults.cycle_us = 40000;
    chip_write(0x10, 1);
    now += 20 * MS;
    CHECK(chip_read(0x10) != chip_read(0x10)); /* still toggling */
}

/* ---- the 6551's lines ---- */

TEST(a_6551_interrupts_when_dcd_or_dsr_changes)
{
    wired_begin();
    unsigned a = wired_add("acia-6551"), carrier = wired_add("switch");
    wired_join("0.dcd 1.out");
    wired_power();
    wired_touch(carrier, "", true); /* low */
    wired_pass(10000000);
    wired_write(a, SIM_ACIA_CONTROL, 0x1E);
    wired_touch(carrier, "", false);
    wired_pass(10000000);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & (SIM_ACIA_IRQ | SIM_ACIA_DCD), SIM_ACIA_DCD);
    wired_write(a, SIM_ACIA_COMMAND, 0x03); /* its receiver on, receiving without an interrupt */
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & SIM_ACIA_IRQ, 0);
    wired_touch(carrier, "", true);
    wired_pass(10000000); /* it has bounced: the status is as it was at the first change */
    unsigned both = SIM_ACIA_IRQ | SIM_ACIA_DCD;
    CHECK(wired.devices[a].kind->interrupt(&wired.devices[a]));
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, SIM_ACIA_IRQ);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, 0);
    wired_touch(carrier, "", false);
    wired_pass(10000000);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, both);
    wired_touch(carrier, "", true);
    wired_pass(10000000);
    wired_touch(carrier, "", false); /* back before anybody has looked */
    wired_pass(10000000);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, SIM_ACIA_IRQ);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, both);
    CHECK_INT(wired_read(a, SIM_ACIA_STATUS) & both, SIM_ACIA_DCD);
}

/* The serial EEPROM, driven by two pins of a port as a program does it. */
#include <string.h>

#include "wired_board.h"

enum { VIA_B = 0, VIA_DIRECTION_B = 2, SCL = 1, SDA = 2, QUARTER = 2500 };

static unsigned via, chip;
static uint8_t low; /* outputs of the port: the lines that the master pulls, and wp */

/* Open lines: low is an output of 0, high an input that a resistor pulls up. */
static void lines(uint8_t pulled)
{
    low = pulled;
    wired_write(via, VIA_DIRECTION_B, pulled);
    wired_pass(QUARTER);
}

static void line(uint8_t which, bool high)
{
    lines(high ? low & (uint8_t)~which : low | which);
}

static bool sda(void)
{
    return (wired_read(via, VIA_B) & SDA) != 0;
}

static void set_up(void)
{
    wired_begin();
    via = wired_add("via-6522"), chip = wired_add("eeprom-24c02");
    wired_join("0.pb0 1.scl"), wired_join("0.pb1 1.sda"), wired_join("0.pb2 1.wp");
    wired_power();
    wired_write(via, VIA_B, 0);
    lines(0x04); /* not protected */
}

static void begin(void)
{
    line(SDA, true), line(SCL, true), line(SDA, false), line(SCL, false);
}

static void end(void)
{
    line(SDA, false), line(SCL, true), line(SDA, true);
}

/* True: it acknowledged. */
static bool say(uint8_t byte)
{
    for (unsigned i = 0; i < 8; i++) {
        line(SDA, (byte >> (7 - i) & 1) != 0);
        line(SCL, true), line(SCL, false);
    }
    line(SDA, true), line(SCL, true);
    bool taken = !sda();
    line(SCL, false);
    return taken;
}

static uint8_t hear(bool more)
{
    unsigned byte = 0;
    line(SDA, true);
    for (unsigned i = 0; i < 8; i++) {
        line(SCL, true);
        byte = byte << 1 | sda();
        line(SCL, false);
    }
    line(SDA, !more), line(SCL, true), line(SCL, false);
    line(SDA, true);
    return (uint8_t)byte;
}

static bool store(uint8_t place, const uint8_t *bytes, unsigned count)
{
    begin();
    bool good = say(0xA0) && say(place);
    for (unsigned i = 0; i < count; i++)
        good = good && say(bytes[i]);
    end();
    return good;
}

static void fetch(uint8_t place, uint8_t *bytes, unsigned count)
{
    begin();
    CHECK(say(0xA0) && say(place));
    begin(); /* once more, to read */
    CHECK(say(0xA1));
    for (unsigned i = 0; i < count; i++)
        bytes[i] = hear(i + 1 < count);
    end();
}

TEST(a_serial_eeprom_is_written_and_read)
{
    static const uint8_t bytes[] = {0x12, 0x34, 0x56};
    uint8_t found[5];
    set_up();
    fetch(0x40, found, 5);
    CHECK_BYTES(found, 5, "\xFF\xFF\xFF\xFF\xFF", 5);
    CHECK(store(0x41, bytes, 3));
    begin();
    CHECK(!say(0xA0)); /* it writes: nobody answers */
    end();
    wired_pass(5000000);
    fetch(0x40, found, 5);
    CHECK_BYTES(found, 5, "\xFF\x12\x34\x56\xFF", 5);
    begin();
    CHECK(!say(0xA2)); /* somebody else's address */
    end();
}

TEST(a_serial_eeprom_wraps_in_its_page)
{
    static const uint8_t bytes[] = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10};
    uint8_t found[10];
    set_up();
    CHECK(store(0x16, bytes, 10));
    wired_pass(6000000);
    fetch(0x10, found, 10);
    CHECK_BYTES(found, 10, "\x03\x04\x05\x06\x07\x08\x09\x0A\xFF\xFF", 10);
}

TEST(a_serial_eeprom_keeps_and_is_protected)
{
    static const uint8_t one = 0x5A, other = 0xA5;
    uint8_t found;
    set_up();
    CHECK(store(0x80, &one, 1));
    wired_pass(6000000);
    wired_power();
    wired_write(via, VIA_B, 0x04); /* wp is high now */
    lines(0x04);
    CHECK(store(0x80, &other, 1));
    wired_pass(6000000);
    fetch(0x80, &found, 1);
    CHECK_INT(found, 0x5A);
}

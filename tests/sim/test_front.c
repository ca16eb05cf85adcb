/* What people see and touch, and the wires in between. */
#include <string.h>

#include "sim/device/front/display.h"
#include "wired_board.h"

#define MS 1000000ull

/* ---- wires to the CPU ---- */

TEST(a_button_resets_and_one_interrupts)
{
    wired_begin();
    unsigned reset = wired_add("button-clean"), nmi = wired_add("button-clean");
    wired_join("0.out cpu.reset");
    wired_join("1.out cpu.nmi");
    wired_power();
    CHECK(!wired.held && !wired.cpu.nmi);
    wired_touch(nmi, "", true);
    CHECK(wired.cpu.nmi);
    wired.cpu.nmi = false;
    wired_touch(nmi, "", false);
    wired_pass(MS);
    CHECK(!wired.cpu.nmi); /* the edge alone */
    wired_touch(reset, "", true);
    CHECK(wired.held);
    wired_touch(reset, "", false);
    CHECK(!wired.held && wired.begins);
}

TEST(a_button_bounces)
{
    wired_begin();
    unsigned button = wired_add("button"), via = wired_add("via-6522");
    wired_join("0.out 1.ca1");
    wired_power();
    wired_touch(button, "", true);
    unsigned edges = 0;
    for (unsigned i = 0; i < 100; i++) {
        edges += (wired_read(via, 13) & 2) != 0;
        wired_write(via, 13, 2);
        wired_pass(MS / 10);
    }
    CHECK_INT(edges, 4); /* the touch, and three that are bounces */
    CHECK(!wired_level(button, "out"));
    CHECK_TEXT(wired_shows(button), "pressed");
    wired_touch(button, "", false);
    wired_pass(10 * MS);
    CHECK(wired_level(button, "out"));
}

TEST(a_switch_stays)
{
    wired_begin();
    unsigned s = wired_add("switch"), input = wired_add("buffer");
    wired_join("0.out 1.d2");
    wired_join("0.to high");
    wired_power();
    CHECK_INT(wired_read(input, 0), 0xFB); /* pulled down while it is off */
    wired_touch(s, "", true);
    wired_pass(10 * MS);
    CHECK_INT(wired_read(input, 0), 0xFF);
    wired_power();
    CHECK_TEXT(wired_shows(s), "on");
}

/* ---- keys ---- */

/* Rows are driven low one by one, columns are read, as a program does it. */
static unsigned scan(unsigned via)
{
    unsigned keys = 0;
    for (unsigned row = 0; row < 4; row++) {
        wired_write(via, 3, (uint8_t)(1u << row)); /* this one is an output, and low */
        unsigned columns = ~(unsigned)wired_read(via, 15) >> 4 & 0x0F;
        keys |= columns << row * 4;
    }
    return keys;
}

TEST(a_keypad_is_scanned)
{
    wired_begin();
    unsigned pad = wired_add("keypad-16"), via = wired_add("via-6522");
    wired_join("0.row0 1.pa0"), wired_join("0.row1 1.pa1");
    wired_join("0.row2 1.pa2"), wired_join("0.row3 1.pa3");
    wired_join("0.column0 1.pa4"), wired_join("0.column1 1.pa5");
    wired_join("0.column2 1.pa6"), wired_join("0.column3 1.pa7");
    wired_power();
    CHECK_INT(scan(via), 0);
    for (unsigned key = 0; key < 16; key++) {
        char name[2] = {"0123456789ABCDEF"[key], '\0'};
        wired_touch(pad, name, true);
        wired_pass(10 * MS);
        CHECK_INT(scan(via), 1u << key);
        CHECK_TEXT(wired_shows(pad), name);
        wired_touch(pad, name, false);
        wired_pass(10 * MS);
        CHECK_INT(scan(via), 0);
    }
    /* Three corners of a square look like four. */
    wired_touch(pad, "0", true), wired_touch(pad, "1", true), wired_touch(pad, "4", true);
    wired_pass(10 * MS);
    CHECK_INT(scan(via), 0x33);
    CHECK_TEXT(wired_shows(pad), "014");
    CHECK(!wired.devices[pad].kind->operate(&wired.devices[pad], wired_now, "G", true));
    CHECK(!wired.devices[pad].kind->operate(&wired.devices[pad], wired_now, "12", true));
}

/* ---- lamps and digits ---- */

TEST(digits_straight_and_multiplexed)
{
    wired_begin();
    unsigned segments = wired_add("latch"), commons = wired_add("latch");
    unsigned left = wired_add("digit-cathode"), right = wired_add("digit-cathode");
    char pins[] = "0.q0 2.a 3.a";
    for (unsigned i = 0; i < 7; i++) {
        pins[3] = (char)('0' + i);
        pins[7] = pins[11] = (char)('a' + i);
        wired_join(pins);
    }
    wired_join("2.common 1.q0");
    wired_join("3.common 1.q1");
    wired_power();
    wired_write(segments, 0, 0x06);
    wired_write(commons, 0, 0xFC); /* both: the same */
    wired_pass(100 * MS);
    CHECK_TEXT(wired_shows(left), "1");
    CHECK_TEXT(wired_shows(right), "1");
    for (unsigned i = 0; i < 40; i++) { /* 4 and 2, 2 ms each */
        wired_write(commons, 0, 0xFF);
        wired_write(segments, 0, i % 2 == 0 ? 0x66 : 0x5B);
        wired_write(commons, 0, i % 2 == 0 ? 0xFE : 0xFD);
        wired_pass(2 * MS);
    }
    CHECK_TEXT(wired_shows(left), "4");
    CHECK_TEXT(wired_shows(right), "2");
    wired_write(commons, 0, 0xFF);
    wired_pass(100 * MS);
    CHECK_TEXT(wired_shows(left), " ");
}

TEST(a_lamp_is_lit_between_high_and_low)
{
    wired_begin();
    unsigned latch = wired_add("latch"), lamp = wired_add("lamp"), sunk = wired_add("lamp");
    wired_join("0.q0 1.plus");
    wired_join("0.q1 2.minus");
    wired_power();
    wired_write(latch, 0, 0x02);
    wired_pass(50 * MS);
    CHECK_TEXT(wired_shows(lamp), ".");
    CHECK_TEXT(wired_shows(sunk), ".");
    wired_write(latch, 0, 0x01);
    wired_pass(50 * MS);
    CHECK_TEXT(wired_shows(lamp), "*");
    CHECK_TEXT(wired_shows(sunk), "*");
}

TEST(a_buzzer_is_heard)
{
    wired_begin();
    unsigned latch = wired_add("latch"), buzzer = wired_add("buzzer");
    wired_join("0.q0 1.in");
    wired_power();
    for (unsigned i = 0; i < 200; i++) {
        wired_write(latch, 0, i & 1);
        wired_pass(MS / 2);
    }
    CHECK_TEXT(wired_shows(buzzer), "1000 Hz");
    wired_pass(200 * MS);
    CHECK_TEXT(wired_shows(buzzer), "silent");
}

/* ---- the display ---- */

static unsigned glass;

static void tell(unsigned reg, uint8_t value)
{
    unsigned turns = 0;
    while ((wired_read(glass, SIM_DISPLAY_COMMAND) & 0x80) != 0) {
        CHECK(turns++ < 2000);
        wired_pass(10000);
    }
    wired_write(glass, reg, value);
}

static void write_text(const char *text)
{
    for (; *text != '\0'; text++)
        tell(SIM_DISPLAY_DATA, (uint8_t)*text);
}

TEST(a_display_at_an_address)
{
    wired_begin();
    glass = wired_add("display-16x2");
    wired_power();
    tell(SIM_DISPLAY_COMMAND, 0x38);
    tell(SIM_DISPLAY_COMMAND, 0x0E);
    tell(SIM_DISPLAY_COMMAND, 0x01);
    tell(SIM_DISPLAY_COMMAND, 0x06);
    write_text("Fog bank ahead");
    tell(SIM_DISPLAY_COMMAND, 0xC2);
    write_text("horn on");
    CHECK_TEXT(wired_shows(glass), "Fog bank ahead  \n  horn on       ");
    sim_display_look look;
    sim_display_see(&wired.devices[glass], &look);
    CHECK(look.on && look.cursor && !look.blinks);
    CHECK_INT(look.cursor_row, 1);
    CHECK_INT(look.cursor_column, 9);
    tell(SIM_DISPLAY_COMMAND, 0x1C); /* the picture to the right */
    CHECK_TEXT(wired_shows(glass), " Fog bank ahead \n   horn on      ");
    tell(SIM_DISPLAY_COMMAND, 0x08); /* off: nothing is forgotten */
    CHECK_TEXT(wired_shows(glass), "                \n                ");
    tell(SIM_DISPLAY_COMMAND, 0x0C);
    tell(SIM_DISPLAY_COMMAND, 0x02);
    CHECK_TEXT(wired_shows(glass), "Fog bank ahead  \n  horn on       ");
}

/* What comes while it is busy is lost. */
TEST(a_display_is_busy)
{
    wired_begin();
    glass = wired_add("display-16x2");
    wired_power();
    wired_write(glass, SIM_DISPLAY_COMMAND, 0x0C); /* too early after power-on */
    wired_pass(15 * MS);
    wired_write(glass, SIM_DISPLAY_DATA, 'a');
    CHECK_TEXT(wired_shows(glass), "                \n                ");
    tell(SIM_DISPLAY_COMMAND, 0x0C);
    tell(SIM_DISPLAY_COMMAND, 0x80);
    wired_pass(40000);
    wired_write(glass, SIM_DISPLAY_DATA, 'b');
    wired_pass(36000);
    wired_write(glass, SIM_DISPLAY_DATA, 'c');
    wired_pass(2000);
    wired_write(glass, SIM_DISPLAY_DATA, 'd');
    CHECK(strncmp(wired_shows(glass), "bd ", 3) == 0);
    wired_pass(MS);
    wired_write(glass, SIM_DISPLAY_COMMAND, 0x01);
    wired_pass(1500000);
    CHECK_INT(wired_read(glass, SIM_DISPLAY_COMMAND), 0x80);
    wired_pass(20000);
    CHECK_INT(wired_read(glass, SIM_DISPLAY_COMMAND), 0x00);
}

/* Four lines of port B: rs, e, and d4 to d7; rw is at ground. */
static void nibble(unsigned via, unsigned rs, unsigned value)
{
    uint8_t lines = (uint8_t)(value << 4 | rs);
    wired_write(via, 0, lines);
    wired_write(via, 0, lines | 2);
    wired_write(via, 0, lines);
    wired_pass(50000);
}

static void byte_of(unsigned via, unsigned rs, unsigned value)
{
    nibble(via, rs, value >> 4);
    nibble(via, rs, value & 15);
    wired_pass(rs == 0 && value < 4 ? 2 * MS : 0);
}

TEST(a_display_in_four_bits)
{
    wired_begin();
    unsigned via = wired_add("via-6522");
    glass = wired_add("display-20x4");
    wired_join("1.rs 0.pb0"), wired_join("1.e 0.pb1"), wired_join("1.rw low");
    wired_join("1.d4 0.pb4"), wired_join("1.d5 0.pb5"), wired_join("1.d6 0.pb6");
    wired_join("1.d7 0.pb7");
    wired_power();
    wired_write(via, 0, 0);
    wired_write(via, 2, 0xFF);
    wired_pass(20 * MS);
    nibble(via, 0, 3), wired_pass(5 * MS);
    nibble(via, 0, 3), nibble(via, 0, 3), nibble(via, 0, 2);
    byte_of(via, 0, 0x28), byte_of(via, 0, 0x0C), byte_of(via, 0, 0x01), byte_of(via, 0, 0x06);
    static const char *const lines[] = {"Skerry", "tide falls", "wind 7", "lamp 2"};
    static const unsigned begins[] = {0x80, 0xC0, 0x94, 0xD4};
    for (unsigned i = 0; i < 4; i++) {
        byte_of(via, 0, begins[i]);
        for (const char *p = lines[i]; *p != '\0'; p++)
            byte_of(via, 1, (unsigned)*p);
    }
    CHECK_TEXT(wired_shows(glass), "Skerry              \ntide falls          \n"
                                   "wind 7              \nlamp 2              ");
}

TEST(a_display_has_characters_of_ones_own)
{
    wired_begin();
    glass = wired_add("display-16x2");
    wired_power();
    tell(SIM_DISPLAY_COMMAND, 0x38);
    tell(SIM_DISPLAY_COMMAND, 0x0C);
    tell(SIM_DISPLAY_COMMAND, 0x48); /* the second */
    for (unsigned i = 0; i < 8; i++)
        tell(SIM_DISPLAY_DATA, (uint8_t)(0xE0 | i));
    tell(SIM_DISPLAY_COMMAND, 0x80);
    tell(SIM_DISPLAY_DATA, 1);
    sim_display_look look;
    sim_display_see(&wired.devices[glass], &look);
    CHECK_INT(look.codes[0][0], 1);
    for (unsigned i = 0; i < 8; i++)
        CHECK_INT(look.own[8 + i], i);
}

/* Serial interfaces against their data sheets: timing, flags, errors, interrupts. */
#include <string.h>

#include "harness.h"
#include "sim/device/serial/acia.h"
#include "sim/device/serial/acia6850.h"
#include "sim/device/serial/bits.h"
#include "sim/device/serial/sio.h"
#include "sim/device/serial/uart16550.h"
#include "sim/device/serial/usart8251.h"

enum { BAUD = 9600, BYTE_NS = 1041667 };

static sim_wire in, out;
static sim_device chip;
static uint64_t now;

static void set_up(const sim_device_kind *kind, uint32_t clock)
{
    sim_wire_begin(&in, BAUD, NULL);
    sim_wire_begin(&out, BAUD, NULL);
    chip = (sim_device){.kind = kind, .in = &in, .out = &out, .clock = clock};
    chip.kind->begin(&chip, true);
    now = 1000;
}

static uint8_t get(unsigned reg)
{
    return chip.kind->read(&chip, now, reg);
}

static void put(unsigned reg, uint8_t value)
{
    chip.kind->write(&chip, now, reg, value);
}

static bool interrupts(void)
{
    chip.kind->update(&chip, now);
    return chip.kind->interrupt(&chip);
}

/* Bytes that the PC sends, until they have arrived. */
static void arrive(const char *bytes)
{
    for (; *bytes != '\0'; bytes++)
        sim_wire_put(&in, now, (uint8_t)*bytes);
    now = in.free_at;
}

/* What the PC has heard so far, as text. */
static const char *heard(void)
{
    static char text[64];
    size_t n = 0;
    uint8_t byte;
    while (n < sizeof text - 1 && sim_wire_take(&out, now, &byte))
        text[n++] = (char)byte;
    text[n] = '\0';
    return text;
}

/* ---- what all of them do ---- */

typedef struct way {
    const sim_device_kind *kind;
    uint32_t clock;
    unsigned data, status;
    uint8_t received, empty, overrun;
    uint8_t setup[10][2]; /* register, value */
    unsigned setups;
    bool keeps_first; /* the character that was not read is kept, the new one lost */
} way;

static const way ways[] = {
    {&sim_acia_kind, 0, 0, 1, 0x08, 0x10, 0x04, {{3, 0x1E}, {2, 0x0B}}, 2, true},
    {&sim_6850_kind, BAUD * 16, 1, 0, 0x01, 0x02, 0x20, {{0, 3}, {0, 0x15}}, 2, true},
    {&sim_8250_kind, 1843200, 0, 5, 1, 0x20, 2, {{3, 0x80}, {0, 12}, {1, 0}, {3, 3}}, 4, false},
    {&sim_8251_kind, BAUD * 64, 0, 1, 2, 1, 0x10, {{1, 0x4F}, {1, 0x37}}, 2, false},
    {&sim_sio_kind,
     BAUD * 16,
     0,
     2,
     1,
     4,
     0,
     {{2, 0x18}, {2, 4}, {2, 0x44}, {2, 3}, {2, 0xC1}, {2, 5}, {2, 0xEA}},
     7,
     true},
};
static const way *w;

static void begin(const way *which)
{
    w = which;
    set_up(w->kind, w->clock);
    for (unsigned i = 0; i < w->setups; i++)
        put(w->setup[i][0], w->setup[i][1]);
}

#define EACH_WAY(each)                                                                             \
    for (const way *each = ways; each < ways + sizeof ways / sizeof ways[0]; each++)

TEST(a_character_is_there_when_its_stop_bit_is)
{
    EACH_WAY(each)
    {
        begin(each);
        sim_wire_put(&in, now, 'a');
        uint64_t began = now;
        now = began + BYTE_NS - 10;
        CHECK_INT(get(w->status) & w->received, 0);
        now = began + BYTE_NS + 10;
        CHECK_INT(get(w->status) & w->received, w->received);
        CHECK_INT(get(w->data), 'a');
        CHECK_INT(get(w->status) & w->received, 0);
    }
}

TEST(one_is_sent_while_one_waits)
{
    EACH_WAY(each)
    {
        begin(each);
        CHECK(get(w->status) & w->empty);
        put(w->data, 'x');
        CHECK(get(w->status) & w->empty); /* in the shift register */
        put(w->data, 'y');
        CHECK_INT(get(w->status) & w->empty, 0);
        now += BYTE_NS + 100;
        CHECK(get(w->status) & w->empty);
        CHECK_TEXT(heard(), "x");
        now += BYTE_NS;
        get(w->status);
        CHECK_TEXT(heard(), "y");
    }
}

TEST(a_character_too_many)
{
    EACH_WAY(each)
    {
        if (each->overrun == 0) continue; /* it has room for more */
        begin(each);
        arrive("ab");
        if (w->kind == &sim_6850_kind) { /* it tells when the good one has been read */
            CHECK_INT(get(w->status) & w->overrun, 0);
            CHECK_INT(get(w->data), 'a');
            CHECK_INT(get(w->status) & (w->overrun | w->received), w->overrun | w->received);
            get(w->data);
            CHECK_INT(get(w->status) & (w->overrun | w->received), 0);
            continue;
        }
        CHECK(get(w->status) & w->overrun);
        CHECK_INT(get(w->data), w->keeps_first ? 'a' : 'b');
    }
}

/* The line at another rate: nothing that comes is what was sent. */
TEST(a_wrong_rate_is_a_framing_error)
{
    static const uint8_t framing[] = {SIM_ACIA_FRAMING, SIM_6850_FRAMING, SIM_16550_FRAMING,
                                      SIM_8251_FRAMING, 0};
    EACH_WAY(each)
    {
        begin(each);
        in.baud = out.baud = 4800;
        arrive("a");
        uint8_t status = get(w->status), wrong = framing[each - ways];
        CHECK_INT(status & wrong, wrong);
        CHECK(get(w->data) != 'a');
        put(w->data, 'a');
        now += 3 * BYTE_NS;
        CHECK(strcmp(heard(), "a") != 0);
    }
}

/* ---- 6551 ---- */

/* 7 bits and even parity are as long as 8 bits: 'C' has three ones, so its parity bit is 1. */
TEST(acia_with_parity)
{
    set_up(&sim_acia_kind, 0);
    put(SIM_ACIA_CONTROL, 0x3E); /* 7 bits */
    put(SIM_ACIA_COMMAND, 0x6B); /* even */
    put(SIM_ACIA_DATA, 'C');
    now += BYTE_NS + 10;
    CHECK_TEXT(heard(), "\xC3");
    arrive("\xC3");
    CHECK_INT(get(SIM_ACIA_STATUS) & (SIM_ACIA_PARITY | SIM_ACIA_RECEIVED), SIM_ACIA_RECEIVED);
    CHECK_INT(get(SIM_ACIA_DATA), 'C');
    arrive("C");
    CHECK_INT(get(SIM_ACIA_STATUS) & SIM_ACIA_PARITY, SIM_ACIA_PARITY);
    CHECK_INT(get(SIM_ACIA_DATA), 'C');
    CHECK_INT(get(SIM_ACIA_STATUS) & SIM_ACIA_PARITY, 0);
}

TEST(acia_echoes_and_breaks)
{
    set_up(&sim_acia_kind, 0);
    put(SIM_ACIA_CONTROL, 0x1E);
    put(SIM_ACIA_COMMAND, 0x13); /* echo */
    arrive("q");
    get(SIM_ACIA_STATUS);
    now += BYTE_NS + 10;
    CHECK_TEXT(heard(), "q");
    put(SIM_ACIA_COMMAND, 0x0F);
    now += BYTE_NS + 10;
    uint8_t byte;
    CHECK(sim_wire_take(&out, now, &byte) && byte == 0);
}

/* ---- 6850 ---- */

TEST(the_6850_does_nothing_before_its_master_reset)
{
    set_up(&sim_6850_kind, BAUD * 16);
    CHECK_INT(get(SIM_6850_STATUS), 0);
    put(SIM_6850_DATA, 'x');
    arrive("a");
    CHECK_INT(get(SIM_6850_STATUS), 0);
    put(SIM_6850_STATUS, 0x03);
    CHECK_INT(get(SIM_6850_STATUS), 0);
    put(SIM_6850_STATUS, 0x15);
    CHECK_INT(get(SIM_6850_STATUS), SIM_6850_EMPTY);
    now += 2 * BYTE_NS;
    CHECK_TEXT(heard(), "");
}

TEST(the_6850_interrupts_both_ways)
{
    set_up(&sim_6850_kind, BAUD * 16);
    put(SIM_6850_STATUS, 0x03);
    put(SIM_6850_STATUS, 0x95);
    CHECK(!interrupts());
    arrive("a");
    CHECK(interrupts());
    CHECK(get(SIM_6850_STATUS) & SIM_6850_IRQ);
    get(SIM_6850_DATA);
    CHECK(!interrupts());
    put(SIM_6850_STATUS, 0x35); /* when it is empty */
    CHECK(interrupts());
    put(SIM_6850_DATA, 'x');
    put(SIM_6850_DATA, 'y');
    CHECK(!interrupts());
    now += BYTE_NS + 10;
    CHECK(interrupts());
}

/* ---- the 8250 family ---- */

static void start_16550(uint8_t fifo)
{
    set_up(&sim_16550_kind, 1843200);
    put(SIM_16550_FORMAT, 0x83);
    put(SIM_16550_DATA, 12);
    put(SIM_16550_ENABLE, 0);
    put(SIM_16550_FORMAT, 0x03);
    put(SIM_16550_IDENTIFY, fifo);
}

TEST(the_16550_holds_sixteen)
{
    start_16550(0x81); /* trigger at 8 */
    put(SIM_16550_ENABLE, 0x01);
    CHECK_INT(get(SIM_16550_IDENTIFY), 0xC1);
    arrive("abcdefg");
    CHECK(!interrupts());
    arrive("h");
    CHECK(interrupts());
    CHECK_INT(get(SIM_16550_IDENTIFY), 0xC4);
    for (char c = 'a'; c <= 'g'; c++)
        CHECK_INT(get(SIM_16550_DATA), c);
    CHECK(!interrupts());
    now += 4 * BYTE_NS - 1000; /* the last lies there too long */
    CHECK(!interrupts());
    now += 2000;
    CHECK(interrupts());
    CHECK_INT(get(SIM_16550_IDENTIFY), 0xCC);
    CHECK_INT(get(SIM_16550_DATA), 'h');
    CHECK(!interrupts());
    arrive("0123456789abcdefX");
    CHECK_INT(get(SIM_16550_STATUS) & (SIM_16550_OVERRUN | SIM_16550_RECEIVED),
              SIM_16550_OVERRUN | SIM_16550_RECEIVED);
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_OVERRUN, 0);
    for (const char *p = "0123456789abcdef"; *p != '\0'; p++)
        CHECK_INT(get(SIM_16550_DATA), *p);
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_RECEIVED, 0);
}

TEST(the_16550_sends_sixteen)
{
    start_16550(0x01);
    for (char c = 'a'; c < 'a' + 17; c++)
        put(SIM_16550_DATA, (uint8_t)c); /* the first goes on at once */
    CHECK_INT(get(SIM_16550_STATUS) & (SIM_16550_EMPTY | SIM_16550_IDLE), 0);
    now += 16ull * BYTE_NS + 1000;
    CHECK_INT(get(SIM_16550_STATUS) & (SIM_16550_EMPTY | SIM_16550_IDLE), SIM_16550_EMPTY);
    now += BYTE_NS;
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_IDLE, SIM_16550_IDLE);
    CHECK_TEXT(heard(), "abcdefghijklmnopq");
}

/* The interrupt for an empty register ends when it was identified, or something is written. */
TEST(the_8250_family_interrupts_by_priority)
{
    start_16550(0);
    put(SIM_16550_ENABLE, 0x07);
    CHECK_INT(get(SIM_16550_IDENTIFY), 2);
    CHECK_INT(get(SIM_16550_IDENTIFY), 1);
    put(SIM_16550_DATA, 'x');
    put(SIM_16550_DATA, 'y');
    CHECK(!interrupts());
    arrive("ab"); /* overrun */
    CHECK_INT(get(SIM_16550_IDENTIFY), 6);
    get(SIM_16550_STATUS);
    CHECK_INT(get(SIM_16550_IDENTIFY), 4);
    CHECK_INT(get(SIM_16550_DATA), 'b');
    CHECK_INT(get(SIM_16550_IDENTIFY), 2);
    CHECK(!interrupts());
}

TEST(the_8250_family_loops_back)
{
    start_16550(0);
    put(SIM_16550_MODEM, 0x1A);                          /* loop, RTS, OUT2 */
    CHECK_INT(get(SIM_16550_MODEM_STATUS) & 0xF0, 0x90); /* DCD, CTS */
    put(SIM_16550_DATA, 'r');
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_RECEIVED, 0);
    now += BYTE_NS + 10;
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_RECEIVED, SIM_16550_RECEIVED);
    CHECK_INT(get(SIM_16550_DATA), 'r');
    CHECK_TEXT(heard(), "");
}

TEST(what_tells_the_8250_family_apart)
{
    static const sim_device_kind *const kinds[] = {&sim_8250_kind, &sim_16450_kind,
                                                   &sim_16550_kind};
    for (unsigned i = 0; i < 3; i++) {
        set_up(kinds[i], 1843200);
        put(SIM_16550_SCRATCH, 0x5A);
        put(SIM_16550_IDENTIFY, 0x01);
        CHECK_INT(get(SIM_16550_SCRATCH), i == 0 ? 0xFF : 0x5A);
        CHECK_INT(get(SIM_16550_IDENTIFY), i == 2 ? 0xC1 : 0x01);
    }
}

/* ---- 8251 ---- */

/* After a reset the mode is due; three zeros and a reset command find the beginning from anywhere.
 */
TEST(the_8251_takes_mode_then_commands)
{
    for (unsigned lost = 0; lost < 6; lost++) {
        set_up(&sim_8251_kind, BAUD * 16);
        static const uint8_t strays[] = {0x80, 0x00, 0x4E, 0x37, 0x05};
        for (unsigned i = 0; i < lost; i++)
            put(SIM_8251_STATUS, strays[i]);
        for (unsigned i = 0; i < 3; i++)
            put(SIM_8251_STATUS, 0);
        put(SIM_8251_STATUS, 0x40);
        put(SIM_8251_STATUS, 0x4E);
        put(SIM_8251_STATUS, 0x37);
        put(SIM_8251_DATA, 'x');
        arrive("a");
        now += BYTE_NS;
        CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_RECEIVED, SIM_8251_RECEIVED);
        CHECK_INT(get(SIM_8251_DATA), 'a');
        CHECK_TEXT(heard(), "x");
    }
}

TEST(the_8251_forgets_errors_when_told)
{
    set_up(&sim_8251_kind, BAUD * 16);
    put(SIM_8251_STATUS, 0x4E);
    put(SIM_8251_STATUS, 0x37);
    arrive("ab");
    get(SIM_8251_DATA);
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_OVERRUN, SIM_8251_OVERRUN);
    put(SIM_8251_STATUS, 0x37);
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_OVERRUN, 0);
    put(SIM_8251_STATUS, 0x26); /* transmitter off: what is written waits */
    put(SIM_8251_DATA, 'w');
    now += 2 * BYTE_NS;
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_READY, 0);
    CHECK_TEXT(heard(), "");
    put(SIM_8251_STATUS, 0x27);
    now += 2 * BYTE_NS;
    CHECK_TEXT(heard(), "w");
}

/* ---- the Z80 family's pair ---- */

static void sio_write(unsigned control, uint8_t reg, uint8_t value)
{
    put(control, reg);
    put(control, value);
}

static void start_sio(uint8_t interrupt_mode)
{
    set_up(&sim_sio_kind, BAUD * 16);
    put(SIM_SIO_CONTROL_A, 0x18);
    sio_write(SIM_SIO_CONTROL_B, 2, 0xE0);
    sio_write(SIM_SIO_CONTROL_B, 1, 0x04); /* status affects vector */
    sio_write(SIM_SIO_CONTROL_A, 4, 0x44);
    sio_write(SIM_SIO_CONTROL_A, 3, 0xC1);
    sio_write(SIM_SIO_CONTROL_A, 5, 0xEA);
    sio_write(SIM_SIO_CONTROL_A, 1, interrupt_mode);
}

TEST(the_pair_keeps_three_and_tells_the_fourth)
{
    start_sio(0);
    arrive("abcd");
    CHECK_INT(get(SIM_SIO_DATA_A), 'a');
    CHECK_INT(get(SIM_SIO_DATA_A), 'b');
    put(SIM_SIO_CONTROL_A, 1);
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_OVERRUN, SIM_SIO_OVERRUN);
    CHECK_INT(get(SIM_SIO_DATA_A), 'd');
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_RECEIVED, 0);
    put(SIM_SIO_CONTROL_A, 1);
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_OVERRUN, SIM_SIO_OVERRUN); /* stays */
    put(SIM_SIO_CONTROL_A, 0x30);                                         /* error reset */
    put(SIM_SIO_CONTROL_A, 1);
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_OVERRUN, 0);
}

TEST(the_pair_brings_its_vector)
{
    start_sio(0x1A); /* each character, and the empty transmitter */
    put(SIM_SIO_DATA_A, 'x');
    CHECK(interrupts()); /* it went on at once */
    CHECK_INT(chip.kind->acknowledge(&chip, now), 0xE8);
    CHECK(!interrupts()); /* in service */
    arrive("a");
    CHECK(interrupts()); /* a receiver stands before it */
    CHECK_INT(chip.kind->acknowledge(&chip, now), 0xEC);
    CHECK_INT(get(SIM_SIO_DATA_A), 'a');
    CHECK(!interrupts());
    chip.kind->returned(&chip, now);
    put(SIM_SIO_CONTROL_A, 0x28); /* reset the transmitter's */
    chip.kind->returned(&chip, now);
    CHECK(!chip.kind->in_service(&chip));
    CHECK(!interrupts());
}

TEST(channel_b_has_nobody_at_its_line)
{
    start_sio(0);
    sio_write(SIM_SIO_CONTROL_B, 4, 0x44);
    sio_write(SIM_SIO_CONTROL_B, 3, 0xC1);
    sio_write(SIM_SIO_CONTROL_B, 5, 0xEA);
    put(SIM_SIO_DATA_B, 'x');
    put(SIM_SIO_DATA_B, 'y');
    CHECK_INT(get(SIM_SIO_CONTROL_B) & SIM_SIO_EMPTY, 0);
    arrive("a");
    now += 100;
    CHECK_INT(get(SIM_SIO_CONTROL_B) & (SIM_SIO_RECEIVED | SIM_SIO_EMPTY), SIM_SIO_EMPTY);
    CHECK_INT(get(SIM_SIO_DATA_A), 'a');
    now += 3 * BYTE_NS;
    CHECK_TEXT(heard(), "");
}

/* ---- breaks ---- */

enum { BREAK_NS = 30 * BYTE_NS };

/* One character, a 0 without a stop bit, and what is sent afterwards is heard. */
TEST(a_break_is_one_character)
{
    static const uint8_t framing[] = {SIM_ACIA_FRAMING, SIM_6850_FRAMING,
                                      SIM_16550_FRAMING | SIM_16550_BREAK, SIM_8251_FRAMING, 0};
    EACH_WAY(each)
    {
        begin(each);
        uint64_t began = now;
        CHECK(sim_wire_break(&in, now, BREAK_NS));
        sim_wire_put(&in, now, 'a');
        now = began + BYTE_NS - 100;
        CHECK_INT(get(w->status) & w->received, 0);
        now = began + BYTE_NS + 100;
        uint8_t status = get(w->status), wrong = framing[each - ways];
        CHECK_INT(status & w->received, w->received);
        CHECK_INT(status & wrong, wrong);
        CHECK_INT(get(w->data), 0);
        now = began + BREAK_NS + BYTE_NS - 100;
        CHECK_INT(get(w->status) & w->received, 0);
        now += 200;
        CHECK_INT(get(w->status) & w->received, w->received);
        CHECK_INT(get(w->data), 'a');
    }
}

TEST(the_8250_family_interrupts_for_a_break)
{
    start_16550(0x01);
    put(SIM_16550_ENABLE, 0x04);
    CHECK(sim_wire_break(&in, now, BREAK_NS));
    now += 2 * BYTE_NS;
    CHECK(interrupts());
    CHECK_INT(get(SIM_16550_IDENTIFY) & 0x0F, 6);
    CHECK_INT(get(SIM_16550_STATUS) & (SIM_16550_BREAK | SIM_16550_FIFO_ERROR),
              SIM_16550_BREAK | SIM_16550_FIFO_ERROR);
    CHECK_INT(get(SIM_16550_STATUS) & SIM_16550_BREAK, 0); /* told once */
    now += BREAK_NS;
    CHECK(!interrupts());
}

TEST(the_8251_detects_a_break_while_it_lasts)
{
    begin(&ways[3]);
    uint64_t began = now;
    CHECK(sim_wire_break(&in, now, BREAK_NS));
    now = began + 2 * BYTE_NS - 1000;
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_BREAK, 0);
    CHECK_INT(chip.kind->next_event(&chip), began + 2 * sim_wire_byte_time(BAUD));
    now = began + 2 * BYTE_NS + 1000;
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_BREAK, SIM_8251_BREAK);
    now = began + BREAK_NS + 1000;
    CHECK_INT(get(SIM_8251_STATUS) & SIM_8251_BREAK, 0);
}

/* An interrupt for each end of it. */
TEST(the_pair_tells_begin_and_end_of_a_break)
{
    start_sio(0x01); /* external interrupts alone */
    put(SIM_SIO_CONTROL_A, 0x10);
    CHECK(!interrupts());
    CHECK(sim_wire_break(&in, now, BREAK_NS));
    now += 2 * BYTE_NS;
    CHECK(interrupts());
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_BREAK, SIM_SIO_BREAK);
    put(SIM_SIO_CONTROL_A, 0x10);
    CHECK(!interrupts());
    now += BREAK_NS;
    CHECK(interrupts());
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_BREAK, 0);
    put(SIM_SIO_CONTROL_A, 0x10);
    CHECK(!interrupts());
    /* One that is over before anybody has looked is two interrupts all the same. */
    CHECK(sim_wire_break(&in, now, BREAK_NS));
    now += 2 * BYTE_NS;
    CHECK(interrupts());
    now += BREAK_NS;
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_BREAK, SIM_SIO_BREAK);
    put(SIM_SIO_CONTROL_A, 0x10);
    CHECK(interrupts());
    CHECK_INT(get(SIM_SIO_CONTROL_A) & SIM_SIO_BREAK, 0);
}

/* Without a chip the line is low from the begin to the end of it, and high behind. */
TEST(bits_see_a_break_as_it_is)
{
    set_up(&sim_bits_kind, 0);
    uint64_t began = now;
    CHECK(sim_wire_break(&in, now, BREAK_NS));
    for (unsigned i = 0; i < 40; i++) {
        now = began + i * (uint64_t)BYTE_NS + BYTE_NS / 2;
        CHECK_INT(get(0) & 0x80, i < 30 ? 0 : 0x80);
    }
    put(0, 0); /* and makes one */
    now += 2 * BYTE_NS;
    get(0);
    put(0, 1);
    uint8_t byte;
    CHECK(sim_wire_take(&out, now, &byte) && byte == 0);
}

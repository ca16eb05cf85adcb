/* Port chips and timers against their data sheets, alone and wired to others. */
#include "sim/device/parallel/pia6821.h"
#include "sim/device/parallel/ppi8255.h"
#include "sim/device/parallel/riot6532.h"
#include "sim/device/parallel/via6522.h"
#include "wired_board.h"

enum { CYCLE = 1000 };

static unsigned chip, other;

static void set_up(const char *kind, const char *second)
{
    wired_begin();
    chip = wired_add(kind);
    if (second != NULL) other = wired_add(second);
    wired_power();
}

static uint8_t get(unsigned reg)
{
    return wired_read(chip, reg);
}

static void put(unsigned reg, uint8_t value)
{
    wired_write(chip, reg, value);
}

static bool interrupts(void)
{
    return wired.cpu.irq;
}

/* ---- 6522 ---- */

TEST(via_ports)
{
    wired_begin();
    chip = wired_add("via-6522"), other = wired_add("latch");
    wired_join("0.pa0 1.q0");
    wired_join("0.pb3 1.q1");
    wired_power();
    put(SIM_VIA_DIRECTION_A, 0xF0);
    put(SIM_VIA_PORT_A, 0x5A);
    CHECK_INT(get(SIM_VIA_PORT_A), 0x5E); /* outputs, the latch's 0, and inputs that float high */
    wired_write(other, 0, 0x01);
    CHECK_INT(get(SIM_VIA_PORT_A), 0x5F);
    put(SIM_VIA_DIRECTION_B, 0x08);
    put(SIM_VIA_PORT_B, 0x08);
    CHECK_INT(get(SIM_VIA_PORT_B) & 0x08, 0x08); /* what it puts out, not what the pin has */
    CHECK(!wired_level(chip, "pb3"));            /* low wins */
    CHECK(wired.nets.nets[1].fights);
    CHECK(!wired.nets.nets[0].fights);
}

/* Loaded with N its flag comes N + 2 cycles later, and freely every N + 2. */
TEST(via_timer_1)
{
    set_up("via-6522", NULL);
    put(SIM_VIA_ENABLE, 0x80 | SIM_VIA_T1);
    put(SIM_VIA_T1_LOW, 0x10);
    put(SIM_VIA_T1_HIGH, 0x01);
    wired_pass(CYCLE);
    CHECK_INT(get(SIM_VIA_T1_LOW), 0x10);
    wired_pass(0x110 * CYCLE);
    CHECK_INT(get(SIM_VIA_T1_LOW), 0);
    CHECK(!interrupts());
    wired_pass(CYCLE);
    CHECK(interrupts());
    CHECK_INT(get(SIM_VIA_FLAGS), SIM_VIA_IRQ | SIM_VIA_T1);
    CHECK_INT(get(SIM_VIA_T1_HIGH), 0xFF); /* it counts on */
    get(SIM_VIA_T1_LOW);
    CHECK(!interrupts());
    wired_pass(200000 * CYCLE);
    CHECK(!interrupts());         /* once */
    put(SIM_VIA_AUXILIARY, 0xC0); /* freely, with PB7 */
    put(SIM_VIA_T1_LOW, 98);
    put(SIM_VIA_T1_HIGH, 0);
    unsigned rounds = 0, turns = 0;
    bool before = wired_level(chip, "pb7");
    for (unsigned i = 0; i < 1000; i++) {
        wired_pass(CYCLE);
        if (interrupts()) get(SIM_VIA_T1_LOW), rounds++;
        bool level = (get(SIM_VIA_PORT_B) & 0x80) != 0;
        turns += level != before;
        before = level;
    }
    CHECK_INT(rounds, 10);
    CHECK_INT(turns, 11); /* loading makes it low */
}

TEST(via_timer_2_counts_cycles_or_pulses)
{
    wired_begin();
    chip = wired_add("via-6522"), other = wired_add("latch");
    wired_join("0.pb6 1.q0");
    wired_power();
    put(SIM_VIA_T2_LOW, 20);
    put(SIM_VIA_T2_HIGH, 0);
    wired_pass(21 * CYCLE);
    CHECK_INT(get(SIM_VIA_FLAGS), 0);
    wired_pass(CYCLE);
    CHECK_INT(get(SIM_VIA_FLAGS), SIM_VIA_T2);
    put(SIM_VIA_AUXILIARY, 0x20);
    put(SIM_VIA_T2_LOW, 3);
    put(SIM_VIA_T2_HIGH, 0);
    for (unsigned i = 0; i < 4; i++) {
        CHECK_INT(get(SIM_VIA_FLAGS), 0);
        wired_write(other, 0, 1);
        wired_write(other, 0, 0);
        wired_pass(100 * CYCLE);
    }
    CHECK_INT(get(SIM_VIA_FLAGS), SIM_VIA_T2);
}

/* CA1 by its edge; CA2 answers a read until CA1 comes, or for a cycle. */
TEST(via_handshake)
{
    wired_begin();
    chip = wired_add("via-6522"), other = wired_add("latch");
    wired_join("0.ca1 1.q0");
    wired_join("0.pa0 1.q1");
    wired_power();
    put(SIM_VIA_AUXILIARY, 0x01);  /* port A is latched */
    put(SIM_VIA_PERIPHERAL, 0x09); /* CA1 rises, CA2 answers */
    put(SIM_VIA_ENABLE, 0x82);
    CHECK(wired_level(chip, "ca2") == true);
    get(SIM_VIA_PORT_A);
    const sim_device *d = &wired.devices[chip];
    CHECK(d->kind->drives(d, SIM_VIA_PIN_CA2) == SIM_LOW);
    wired_write(other, 0, 0x03);
    CHECK(interrupts());
    CHECK(d->kind->drives(d, SIM_VIA_PIN_CA2) == SIM_HIGH);
    wired_write(other, 0, 0x01); /* what was there at the edge stays */
    CHECK_INT(get(SIM_VIA_PORT_A) & 1, 1);
    CHECK(!interrupts());
    CHECK_INT(get(SIM_VIA_PORT_A) & 1, 0);
    put(SIM_VIA_PERIPHERAL, 0x0A); /* a pulse */
    get(SIM_VIA_PORT_A);
    CHECK(d->kind->drives(d, SIM_VIA_PIN_CA2) == SIM_LOW);
    wired_pass(2 * CYCLE);
    CHECK(d->kind->drives(d, SIM_VIA_PIN_CA2) == SIM_HIGH);
}

/* Its shift register into eight outputs: CB1 is the clock, CB2 the data. */
TEST(via_shifts_out)
{
    wired_begin();
    chip = wired_add("via-6522"), other = wired_add("shift-595");
    wired_join("0.cb1 1.clock");
    wired_join("0.cb2 1.data");
    wired_join("0.pa0 1.latch");
    wired_power();
    put(SIM_VIA_DIRECTION_A, 0x01);
    for (unsigned mode = 5; mode <= 6; mode++) {
        put(SIM_VIA_T2_LOW, 10);
        put(SIM_VIA_AUXILIARY, (uint8_t)(mode << 2));
        put(SIM_VIA_SHIFT, 0xA3);
        wired_pass((mode == 6 ? 16 : 16 * 12 - 2) * CYCLE);
        CHECK_INT(get(SIM_VIA_FLAGS) & SIM_VIA_SHIFTED, 0);
        wired_pass(4 * CYCLE);
        CHECK_INT(get(SIM_VIA_FLAGS) & SIM_VIA_SHIFTED, SIM_VIA_SHIFTED);
        put(SIM_VIA_PORT_A, 1);
        put(SIM_VIA_PORT_A, 0);
        CHECK_INT(wired.devices[other].kind->lamps(&wired.devices[other]), 0xA3);
        CHECK_INT(get(SIM_VIA_SHIFT), 0xA3); /* once round */
    }
}

/* ---- 6821 ---- */

TEST(pia_ports_and_lines)
{
    wired_begin();
    chip = wired_add("pia-6821"), other = wired_add("latch");
    wired_join("0.ca1 1.q0");
    wired_join("0.cb2 1.q1");
    wired_power();
    put(SIM_PIA_PORT_A, 0x0F); /* the direction, after a reset */
    put(SIM_PIA_CONTROL_A, 0x04);
    put(SIM_PIA_PORT_A, 0xA5);
    CHECK_INT(get(SIM_PIA_PORT_A), 0xF5);
    put(SIM_PIA_CONTROL_A, 0x00);
    CHECK_INT(get(SIM_PIA_PORT_A), 0x0F);
    put(SIM_PIA_CONTROL_A, 0x07); /* CA1 rises, interrupts */
    CHECK(!interrupts());
    wired_write(other, 0, 1);
    CHECK(interrupts());
    CHECK_INT(get(SIM_PIA_CONTROL_A), 0x87);
    get(SIM_PIA_PORT_A);
    CHECK(!interrupts());
    CHECK_INT(get(SIM_PIA_CONTROL_A), 0x07);
    put(SIM_PIA_CONTROL_B, 0x0C); /* CB2 falls, interrupts */
    wired_write(other, 0, 3);
    CHECK(!interrupts());
    wired_write(other, 0, 1);
    CHECK(interrupts());
    CHECK_INT(get(SIM_PIA_CONTROL_B), 0x4C);
}

/* CB2 falls when port B is written: for a cycle, or until CB1. CA2 when port A is read. */
TEST(pia_handshake)
{
    set_up("pia-6821", NULL);
    const sim_device *d = &wired.devices[chip];
    put(SIM_PIA_CONTROL_B, 0x2C);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CB2) == SIM_HIGH);
    get(SIM_PIA_PORT_B);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CB2) == SIM_HIGH);
    put(SIM_PIA_PORT_B, 1);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CB2) == SIM_LOW);
    wired_pass(2 * CYCLE);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CB2) == SIM_HIGH);
    put(SIM_PIA_CONTROL_A, 0x24);
    get(SIM_PIA_PORT_A);
    wired_pass(100 * CYCLE);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CA2) == SIM_LOW);
    d->kind->edge(&wired.devices[chip], wired_now, SIM_PIA_PIN_CA1, false);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CA2) == SIM_HIGH);
    put(SIM_PIA_CONTROL_A, 0x34);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CA2) == SIM_LOW);
    put(SIM_PIA_CONTROL_A, 0x3C);
    CHECK(d->kind->drives(d, SIM_PIA_PIN_CA2) == SIM_HIGH);
}

/* ---- 8255 ---- */

TEST(ppi_plain)
{
    set_up("ppi-8255", NULL);
    CHECK_INT(get(SIM_PPI_PORT_A), 0xFF); /* inputs */
    put(SIM_PPI_CONTROL, 0x83);           /* A out, B in, C: upper half out, lower in */
    put(SIM_PPI_PORT_A, 0x5A);
    CHECK_INT(get(SIM_PPI_PORT_A), 0x5A);
    put(SIM_PPI_PORT_C, 0xA5);
    CHECK_INT(get(SIM_PPI_PORT_C), 0xAF);
    put(SIM_PPI_CONTROL, 0x0C); /* bit 6 off */
    put(SIM_PPI_CONTROL, 0x0D); /* bit 6 on */
    CHECK_INT(get(SIM_PPI_PORT_C), 0xEF);
    put(SIM_PPI_CONTROL, 0x83); /* the mode again: all outputs 0 */
    CHECK_INT(get(SIM_PPI_PORT_A), 0);
    CHECK_INT(get(SIM_PPI_PORT_C), 0x0F);
}

/* Port A of one, strobed out, into port B of another, strobed in. */
TEST(ppi_strobed)
{
    wired_begin();
    chip = wired_add("ppi-8255"), other = wired_add("ppi-8255");
    for (char i = '0'; i < '8'; i++) {
        char pins[] = "0.pa0 1.pb0";
        pins[4] = pins[10] = i;
        wired_join(pins);
    }
    wired_join("0.pc7 1.pc2"); /* output full: strobe */
    wired_join("0.pc6 1.pc1"); /* acknowledge: input full, turned round by hand below */
    wired_power();
    put(SIM_PPI_CONTROL, 0xA0);                /* A out in mode 1 */
    wired_write(other, SIM_PPI_CONTROL, 0x86); /* B in, in mode 1 */
    put(SIM_PPI_CONTROL, 0x0D);                /* interrupt of outputs */
    wired_write(other, SIM_PPI_CONTROL, 0x05);
    CHECK(wired_level(chip, "pc7"));
    put(SIM_PPI_PORT_A, 0xC7);
    CHECK(!wired_level(chip, "pc7"));
    CHECK(wired_level(other, "pc1")); /* it has it */
    CHECK_INT(wired_read(other, SIM_PPI_PORT_B), 0xC7);
    CHECK(wired_level(chip, "pc7")); /* input full fell, which acknowledged */
    CHECK(!wired_level(other, "pc1"));
    put(SIM_PPI_PORT_A, 0x11);
    CHECK(!interrupts()); /* of the one that sends */
    CHECK_INT(wired_read(other, SIM_PPI_PORT_C) & 2, 2);
}

TEST(ppi_both_ways)
{
    set_up("ppi-8255", NULL);
    sim_device *d = &wired.devices[chip];
    put(SIM_PPI_CONTROL, 0xC0);
    put(SIM_PPI_PORT_A, 0x5A);
    CHECK_INT(get(SIM_PPI_PORT_C) & 0xA0, 0x00); /* output full is low, input full low */
    d->kind->edge(d, 0, SIM_PPI_PIN_PC + 6, false);
    CHECK_INT(get(SIM_PPI_PORT_C) & 0x80, 0x80);
    d->kind->edge(d, 0, SIM_PPI_PIN_PC + 4, false);
    CHECK_INT(get(SIM_PPI_PORT_C) & 0x20, 0x20);
    put(SIM_PPI_CONTROL, 0x09); /* interrupt of inputs */
    CHECK(!interrupts());
    d->kind->edge(d, 0, SIM_PPI_PIN_PC + 4, true);
    sim_board_refresh(&wired);
    CHECK(interrupts());
    CHECK_INT(get(SIM_PPI_PORT_A), 0xFF); /* nothing drove the pins */
    CHECK(!interrupts());
}

/* ---- the Z80 family's timer ---- */

TEST(ctc_times_and_counts)
{
    wired_begin();
    chip = wired_add("z80-ctc");
    wired_join("0.zc0 0.trg1");
    wired_power();
    put(0, 0x08);             /* the vector */
    put(1, 0xD5), put(1, 3);  /* counter, rising edges, interrupts */
    put(0, 0x05), put(0, 10); /* timer by 16 */
    wired_pass(50 * CYCLE);
    CHECK_INT(get(0), 7);
    wired_pass(430 * CYCLE); /* the third time at 480 */
    CHECK(interrupts());
    CHECK_INT(sim_board_acknowledge(&wired), 0x0A);
    CHECK(!interrupts());
    sim_board_returned(&wired);
    wired_pass(470 * CYCLE);
    CHECK(!interrupts());
    wired_pass(20 * CYCLE);
    CHECK(interrupts());
}

/* Two with vectors of their own: the first in the chain is served first, the second waits. */
TEST(the_daisy_chain)
{
    set_up("z80-ctc", "z80-ctc");
    put(0, 0x10);
    wired_write(other, 0, 0x20);
    put(0, 0x85), put(0, 20);
    wired_write(other, 0, 0x85), wired_write(other, 0, 10);
    wired_pass(200 * CYCLE);
    CHECK(interrupts());
    CHECK_INT(sim_board_acknowledge(&wired), 0x20);
    CHECK(!interrupts());
    wired_pass(200 * CYCLE);
    CHECK(interrupts()); /* the first interrupts the second */
    CHECK_INT(sim_board_acknowledge(&wired), 0x10);
    CHECK(!interrupts());
    sim_board_returned(&wired);
    CHECK(!interrupts()); /* the second is still being served */
    sim_board_returned(&wired);
    CHECK(interrupts()); /* its next */
    CHECK_INT(sim_board_acknowledge(&wired), 0x20);
}

/* ---- 6532 ---- */

TEST(riot_timer)
{
    static const struct {
        unsigned reg, each;
    } scales[] = {{SIM_RIOT_TIMER_1, 1},
                  {SIM_RIOT_TIMER_8, 8},
                  {SIM_RIOT_TIMER_64, 64},
                  {SIM_RIOT_TIMER_1024, 1024}};
    for (unsigned i = 0; i < 4; i++) {
        set_up("riot-6532", NULL);
        put(scales[i].reg + 8, 5); /* with its interrupt */
        wired_pass(CYCLE);
        CHECK_INT(get(SIM_RIOT_TIMER_IRQ), 4);
        wired_pass((5 * scales[i].each - 1) * CYCLE);
        CHECK_INT(get(SIM_RIOT_TIMER_IRQ), 0);
        CHECK(!interrupts());
        wired_pass(CYCLE);
        CHECK(interrupts());
        CHECK_INT(get(SIM_RIOT_FLAGS) & SIM_RIOT_OVER, SIM_RIOT_OVER);
        wired_pass(3 * CYCLE);
        CHECK_INT(get(SIM_RIOT_TIMER_IRQ), 0xFC); /* at every cycle now */
        CHECK(!interrupts());
    }
}

TEST(riot_edge)
{
    wired_begin();
    chip = wired_add("riot-6532"), other = wired_add("latch");
    wired_join("0.pa7 1.q0");
    wired_power();
    put(7, 0); /* rising, with its interrupt */
    wired_write(other, 0, 1);
    CHECK(interrupts());
    CHECK_INT(get(SIM_RIOT_FLAGS), SIM_RIOT_EDGE);
    CHECK(!interrupts());
    put(4, 0); /* falling, without */
    wired_write(other, 0, 0);
    CHECK(!interrupts());
    CHECK_INT(get(SIM_RIOT_FLAGS), SIM_RIOT_EDGE);
}

/* A constant that is given while a channel runs counts from the end of its round on. */
TEST(ctc_changes_its_constant_at_the_end_of_a_round)
{
    wired_begin();
    chip = wired_add("z80-ctc");
    wired_power();
    put(0, 0x85), put(0, 10); /* timer by 16, interrupts: 160 cycles */
    wired_pass(50 * CYCLE);
    put(0, 0x85), put(0, 20);
    wired_pass(100 * CYCLE);
    CHECK(!interrupts());
    wired_pass(20 * CYCLE);
    CHECK(interrupts());
    sim_board_acknowledge(&wired);
    sim_board_returned(&wired);
    wired_pass(300 * CYCLE); /* 320 from 160 on */
    CHECK(!interrupts());
    wired_pass(20 * CYCLE);
    CHECK(interrupts());
}

/* It counts an oscillator, and makes a clock of it. */
TEST(ctc_divides_a_clock)
{
    wired_begin();
    chip = wired_add("z80-ctc");
    unsigned osc = wired_add("oscillator"), uart = wired_add("acia-6850");
    wired.devices[osc].clock = 500000;
    wired_join("0.trg0 1.out");
    wired_join("0.zc0 2.clock");
    wired_power();
    CHECK_INT(wired.devices[uart].clock, 0);
    put(0, 0xC5), put(0, 25); /* counter, interrupts: 25 of 500 kHz are 50 cycles */
    CHECK_INT(wired.devices[uart].clock, 20000);
    wired_pass(45 * CYCLE);
    CHECK(!interrupts());
    wired_pass(6 * CYCLE);
    CHECK(interrupts());
    put(0, 0x03); /* reset */
    CHECK_INT(wired.devices[uart].clock, 0);
}

/* Through the board's own bus: what reading does to pins reaches who is wired to them. */
TEST(reading_a_port_is_told_by_its_handshake)
{
    wired_begin();
    chip = wired_add("via-6522"), other = wired_add("via-6522");
    unsigned ppi = wired_add("ppi-8255"), listener = wired_add("via-6522");
    wired_join("0.ca2 1.ca1");
    wired_join("2.pc5 3.ca1"); /* input buffer full of port A */
    wired_power();
    wired_write(other, SIM_VIA_PERIPHERAL, 0x00);    /* CA1 falls */
    wired_write(listener, SIM_VIA_PERIPHERAL, 0x00); /* too */
    for (unsigned turn = 0; turn < 2; turn++) {
        put(SIM_VIA_PERIPHERAL, turn == 0 ? 0x0C : 0x0A); /* CA2 low; a pulse for each reading */
        wired_pass(10 * CYCLE);
        wired_write(other, SIM_VIA_FLAGS, 0x7F);
        wired.bus.read(wired.bus.context, (uint16_t)(0x1000 + SIM_VIA_PORT_A));
        CHECK_INT(wired_read(other, SIM_VIA_FLAGS) & SIM_VIA_CA1, turn == 0 ? 0 : SIM_VIA_CA1);
    }
    wired_write(ppi, SIM_PPI_CONTROL, 0xB0); /* mode 1, input */
    sim_device *d = &wired.devices[ppi];
    d->kind->edge(d, wired_now, SIM_PPI_PIN_PC + 4, false);
    d->kind->edge(d, wired_now, SIM_PPI_PIN_PC + 4, true);
    wired_pass(10 * CYCLE);
    wired_read(ppi, SIM_PPI_PORT_C); /* the buffer is full, and the other side has seen it */
    wired_write(listener, SIM_VIA_FLAGS, 0x7F);
    wired.bus.read(wired.bus.context, (uint16_t)(0x1200 + SIM_PPI_PORT_A));
    CHECK_INT(wired_read(listener, SIM_VIA_FLAGS) & SIM_VIA_CA1, SIM_VIA_CA1);
}

/* Bits without a chip, at a pin that tells edges: the start bit does, though nobody reads. */
TEST(a_start_bit_is_told_as_an_edge)
{
    static sim_wire in, out;
    wired_begin();
    chip = wired_add("via-6522");
    sim_wire_begin(&in, 9600, NULL);
    sim_wire_begin(&out, 9600, NULL);
    sim_place place = {
        .kind = sim_device_kind_named("serial-bits"), .wired = true, .in = &in, .out = &out};
    CHECK(sim_board_add(&wired, &place));
    wired_join("1.rx 0.ca1");
    wired_power();
    put(SIM_VIA_PERIPHERAL, 0x00); /* CA1 falls */
    put(SIM_VIA_ENABLE, 0x82);
    wired_pass(1000 * CYCLE);
    CHECK(!interrupts());
    CHECK(sim_wire_put(&in, wired_now, 'a'));
    wired_pass(50 * CYCLE); /* half a bit */
    CHECK(interrupts());
}

/* Where the clock of a serial interface comes from: the whole path with each source, and without.
 */
#include <stdio.h>

#include "cli_support.h"

/* A Z80 board with these devices. */
static void board(const char *clock, const char *devices, unsigned baud)
{
    static char text[2000];
    snprintf(text, sizeof text,
             "bench: Mast\n"
             "cpu: z80\n"
             "clock: %s\n"
             "areas:\n"
             "  - {name: eyelet, range: $0000..$08FF, kind: rom}\n"
             "  - {name: eyelet_vars, range: $8000..$801F, kind: ram}\n"
             "  - {name: eyelet_page, range: $8100..$81FF, kind: ram}\n"
             "  - {name: program, range: $8200..$EFFF, kind: ram}\n"
             "  - {name: stack, range: $FC00..$FFFF, kind: ram}\n"
             "devices:\n"
             "%s"
             "chips:\n"
             "  - {name: U1, part: 28C64, maps: [{cpu: $0000..$1FFF}]}\n"
             "link: {device: serial, baud: %u, monitor: eyelet}\n"
             "build:\n"
             "  - {firmware: eyelet, for: chips}\n"
             "  - {source: mast.asm, for: ram}\n",
             clock, devices, baud);
    test_folder();
    expect_code(0, "rm -rf *");
    test_write_file("bench.yaml", text);
    test_write_file("mast.asm", "        .place program\n        .entry mast\nmast: ret\n"
                                "        .fill 300, $5A\n");
}

static const char counted[] =
    "  - {name: y1, kind: oscillator, clock: 1.8432 MHz}\n"
    "  - {name: ctc, kind: z80-ctc, port: $20, wires: {trg1: y1.out}}\n"
    "  - {name: serial, kind: acia-6850, port: $10, clock: 614.4 kHz, wires: {clock: ctc.zc1}}\n";

TEST(a_serial_clock_from_anywhere)
{
    static const struct {
        const char *clock, *devices;
        unsigned baud;
    } rows[] = {
        {"4 MHz",
         "  - {name: y1, kind: oscillator, clock: 1.8432 MHz}\n"
         "  - {name: serial, kind: z80-sio, port: $10, wires: {clock: y1.out}}\n",
         57600},
        {"3.6864 MHz",
         "  - {name: serial, kind: uart-16550, port: $10, wires: {clock: cpu.clock}}\n", 57600},
        {"2.4576 MHz",
         "  - {name: ctc, kind: z80-ctc, port: $20}\n"
         "  - {name: serial, kind: z80-sio, port: $10, clock: 153.6 kHz, wires: {clock: "
         "ctc.zc0}}\n",
         9600},
        {"4 MHz", counted, 9600},
        {"4 MHz",
         "  - {name: via, kind: via-6522, port: $20}\n"
         "  - {name: serial, kind: usart-8251, port: $10, clock: 76.8 kHz, wires: {clock: "
         "via.pb7}}\n",
         1200},
    };
    for (size_t i = 0; i < sizeof rows / sizeof rows[0]; i++) {
        board(rows[i].clock, rows[i].devices, rows[i].baud);
        expect_code(0, "bootlace build -q && bootlace chip write -p sim -q");
        test_run r = expect_code(0, "bootlace send -p sim && bootlace check -p sim");
        CHECK_CONTAINS(r.out, "verified: Eyelet Z80");
        CHECK_CONTAINS(r.out, "same");
    }
}

TEST(a_serial_clock_that_is_not_there)
{
    static const char *const faults[] = {"open=serial.clock", "missing=y1",    "missing=ctc",
                                         "open=ctc.trg1",     "dead-clock=y1", "dead-clock=serial"};
    board("4 MHz", counted, 9600);
    expect_code(0, "bootlace build -q && bootlace chip write -p sim -q");
    for (size_t i = 0; i < sizeof faults / sizeof faults[0]; i++) {
        expect_code(0, "rm -rf state && bootlace chip write -p sim -q");
        test_run r = expect_code(1, "bootlace send -p sim --fault %s", faults[i]);
        CHECK_CONTAINS(r.err, "nothing answers on sim at 9600 baud");
    }
}

static void refused(const char *devices, const char *message)
{
    board("4 MHz", devices, 9600);
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, message);
}

TEST(clocks_that_cannot_be)
{
    refused("  - {name: key, kind: button}\n"
            "  - {name: serial, kind: usart-8251, port: $10, wires: {clock: key.out}}\n",
            "what the clock pin of device 'serial' is wired to makes no clock");
    refused("  - {name: ctc, kind: z80-ctc, port: $20}\n"
            "  - {name: serial, kind: usart-8251, port: $10, wires: {clock: ctc.zc0}}\n",
            "device 'serial' has its clock from ctc.zc0, which a program sets");
    refused(
        "  - {name: y1, kind: oscillator, clock: 1.8432 MHz}\n"
        "  - {name: serial, kind: usart-8251, port: $10, clock: 1 MHz, wires: {clock: y1.out}}\n",
        "device 'serial' gets 1843200 Hz by its wire, not 1000000");
    refused(
        "  - {name: ctc, kind: z80-ctc, port: $20}\n"
        "  - {name: serial, kind: z80-sio, port: $10, clock: 153.6 kHz, wires: {clock: ctc.zc0}}\n",
        "the timer makes no clock within 2 % of that of 'serial'");
    refused("  - {name: y1, kind: oscillator}\n"
            "  - {name: serial, kind: z80-sio, port: $10, wires: {clock: y1.out}}\n",
            "device 'y1' needs a clock");
}

/* A board with one of every kind of device: whatever is written to them they go on, are saved and
 * opened again as they were, and hold out a damaged state file. */
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "host_support.h"

static bench *b;
static simulation *s;

static unsigned index_of(const char *name)
{
    unsigned i = 0;
    while (strcmp(simulation_hardware.device(i)->name, name) != 0)
        i++;
    return i;
}

/* Registers from $8000 on; what has none is wired to the outputs of a latch, clocks to a
 * timer. */
static void write_bench(void)
{
    GString *text =
        g_string_new("bench: All\ncpu: 6809\nclock: 1 MHz\nareas:\n"
                     "  - {name: ram, range: $0000..$7FFF, kind: ram}\n"
                     "  - {name: io, range: $8000..$9FFF, kind: io}\n"
                     "link: {device: serial, baud: 9600}\ndevices:\n"
                     "  - {name: serial, kind: acia-6850, at: $9F00, clock: 153.6 kHz}\n"
                     "  - {name: outputs, kind: latch, at: $9F10}\n");
    const bl_device_kind *kind;
    for (unsigned i = 0; (kind = simulation_hardware.device(i)) != NULL; i++) {
        g_string_append_printf(text, "  - {name: d%u, kind: %s", i, kind->name);
        if (bl_device_register_count(kind) > 0)
            g_string_append_printf(text, ", at: 0x%X", 0x8000 + i * 0x40);
        if (kind->clocked && kind->usual_clock == 0) g_string_append(text, ", clock: 153.6 kHz");
        g_string_append(text, ", wires: {");
        for (unsigned pin = 0; kind->pins != NULL && kind->pins[pin] != NULL && pin < 8; pin++) {
            bool clock = kind->clocked && strcmp(kind->pins[pin], "clock") == 0;
            g_string_append_printf(text, "%s%s: ", pin > 0 ? ", " : "", kind->pins[pin]);
            if (clock)
                g_string_append_printf(text, "d%u.zc0", index_of("z80-ctc"));
            else
                g_string_append_printf(text, "outputs.q%u", pin);
        }
        g_string_append(text, "}}\n");
    }
    test_write_file("bench.yaml", text->str);
    g_string_free(text, TRUE);
}

static bl_status open_it(void)
{
    test_messages_clear();
    s = NULL;
    return simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s);
}

static void set_up(void)
{
    test_command("rm -rf state *");
    write_bench();
    test_messages_clear();
    b = NULL;
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    if (open_it() != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    memset(s->sim.board.ram, 0x12, sizeof s->sim.board.ram); /* NOP */
    simulation_power_on(s);
    memset(s->sim.board.ram, 0x12, 0x8000);
    s->sim.board.cpu.pc = 0;
}

/* Any registers, any values, and time in between. */
static void exercise(unsigned turns)
{
    bl_serial port = sim_line_port(&s->sim.board_line);
    for (unsigned i = 0; i < turns; i++) {
        sim_device *d = &s->sim.board.devices[test_below((unsigned)s->sim.board.device_count)];
        uint16_t at = (uint16_t)(d->at + test_below(d->size > 0 ? d->size : 1u));
        if (d->size == 0) at = 0x9F10;
        uint8_t byte = (uint8_t)test_random();
        size_t taken;
        if (test_below(3) == 0)
            s->sim.board.bus.read(s->sim.board.bus.context, at);
        else
            s->sim.board.bus.write(s->sim.board.bus.context, at, byte);
        if (d->kind->operate != NULL) d->kind->operate(d, s->sim.now, "", test_below(2) == 0);
        if (test_below(8) == 0) port.send(port.context, &byte, 1, &taken);
        sim_bench_run(&s->sim, s->sim.now + test_below(200000));
    }
}

TEST(every_device_takes_anything)
{
    set_up();
    exercise(20000);
    CHECK(s->sim.now > 1000000);
    simulation_power_off(s);
    simulation_power_on(s);
    exercise(2000);
    simulation_close(s);
    bench_close(b);
}

/* Saved, opened and saved again it is the same, number for number. */
TEST(every_device_is_saved_as_it_is)
{
    set_up();
    for (unsigned turn = 0; turn < 20; turn++) {
        exercise(300);
        CHECK_INT(simulation_save(s, &test_sink), BL_OK);
        char *first = g_strdup(test_read_file("state/board.ini", NULL));
        simulation_close(s);
        if (open_it() != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
        CHECK_INT(simulation_save(s, &test_sink), BL_OK);
        CHECK_TEXT(test_read_file("state/board.ini", NULL), first);
        g_free(first);
    }
    simulation_close(s);
    bench_close(b);
}

TEST(every_device_holds_out_a_damaged_state)
{
    unsigned taken = 0;
    set_up();
    exercise(500);
    CHECK_INT(simulation_save(s, &test_sink), BL_OK);
    char *text = g_strdup(test_read_file("state/board.ini", NULL));
    size_t length = strlen(text);
    simulation_close(s);
    for (unsigned turn = 0; turn < 300; turn++) {
        char *damaged = g_strdup(text);
        for (unsigned k = 0; k < 3; k++) {
            size_t at = test_below((uint32_t)length);
            if (g_ascii_isdigit(damaged[at])) damaged[at] = "0123456789"[test_below(10)];
        }
        test_write_file("state/board.ini", damaged);
        g_free(damaged);
        if (open_it() != BL_OK) continue;
        sim_bench_run(&s->sim, s->sim.now + 20000000);
        simulation_close(s);
        taken++;
    }
    CHECK(taken > 20);
    g_free(text);
    bench_close(b);
}

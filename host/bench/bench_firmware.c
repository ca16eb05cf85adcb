/* bench_firmware.c - which of the firmware that comes with Bootlace suits a machine. */
#include <glib.h>
#include <string.h>

#include "bench.h"
#include "files/embedded.h"

static const char *shipped(const char *wanted)
{
    for (size_t i = 0; i < host_firmware_count; i++)
        if (strcmp(host_firmware[i].name, wanted) == 0) return host_firmware[i].name;
    return NULL;
}

static const char *firmware_for(bl_text cpu, const char *name)
{
    char *wanted = g_strdup_printf("%.*s/%s", (int)cpu.length, cpu.at, name);
    const char *found = shipped(wanted);
    g_free(wanted);
    return found;
}

const char *bench_firmware(const bl_sheet *sheet, const char *name)
{
    bl_text cpu = bl_sheet_name(sheet);
    const char *found = firmware_for(cpu, name);
    for (size_t i = 0; found == NULL && (cpu = bl_sheet_taken(sheet, i)).at != NULL; i++)
        found = firmware_for(cpu, name);
    return found;
}

static const bench_device *named(const bench *b, const char *name)
{
    for (size_t i = 0; i < b->device_count; i++)
        if (strcmp(b->devices[i].name, name) == 0) return &b->devices[i];
    return NULL;
}

/* The kinds that have one, for a message. */
static char *drivers(void)
{
    GString *list = g_string_new(NULL);
    for (size_t i = 0; i < host_firmware_count; i++) {
        const char *name = host_firmware[i].name;
        if (!g_str_has_prefix(name, "serial/") || strchr(name, '-') == NULL) continue;
        if (strchr(name + 7, '-') == strstr(name, "-family")) continue; /* what several share */
        g_string_append_printf(list, "%s%s", list->len > 0 ? ", " : "", name + 7);
    }
    return g_string_free(list, FALSE);
}

/* The sources of the driver, that of the chip and that of the CPU; NULL: there is none. */
static bool find_driver(const bench *b, const bench_device *d, const char **chip, const char **cpu)
{
    if (d == NULL || d->kind == NULL) return false;
    bool timed = strcmp(d->kind->name, "serial-bits") == 0;
    char *wanted = g_strdup_printf("serial/%s", d->kind->name);
    *chip = shipped(wanted);
    *cpu = bench_firmware(b->sheet, timed ? "bits" : "serial");
    g_free(wanted);
    return *chip != NULL && *cpu != NULL;
}

bool bench_has_driver(const bench *b)
{
    const char *chip, *cpu;
    return find_driver(b, named(b, "serial"), &chip, &cpu);
}

/* The macro serial_clock: what has to be done so that the interface has a clock. Free with g_free.
 */
static char *clock_of_serial(const bench *b, const bench_device *d)
{
    bench_timer t;
    if (!bench_clock_timer(b, d, &t))
        return g_strdup("        .macro serial_clock\n        .end\n");
    if (t.output[0] != 'z')
        return g_strdup_printf("CLOCK_AT_PORT = board.%s.at_port\n"
                               "CLOCK_LOW = board.%s.t1_low\nCLOCK_HIGH = board.%s.t1_high\n"
                               "CLOCK_AUXILIARY = board.%s.auxiliary\n"
                               "        .include \"<serial/via>\"\n",
                               t.device->name, t.device->name, t.device->name, t.device->name);
    return g_strdup_printf("CLOCK_AT_PORT = board.%s.at_port\nCLOCK_REGISTER = board.%s.channel%c\n"
                           "CLOCK_COUNTED = %u\n        .include \"<serial/ctc>\"\n",
                           t.device->name, t.device->name, t.output[2], t.counted);
}

/* The least cycles between two bytes of a pour that Eyelet takes without losing one, measured
 * (tests/host/test_drivers.c); of an acia-6551, whose driver waits for its transmitter, more. */
static uint32_t cycles_of_byte(const bench *b, const bench_device *d)
{
    static const struct {
        const char *cpu;
        uint16_t usual, acia;
    } table[] = {{"65c02", 150, 205}, {"6502", 150, 205}, {"6800", 180, 220}, {"6809", 160, 160},
                 {"8080", 395, 470},  {"8085", 395, 445}, {"z80", 385, 430}};
    bl_text cpu = bl_sheet_name(b->sheet);
    bool acia = strcmp(d->kind->name, "acia-6551") == 0;
    for (size_t i = 0; i < G_N_ELEMENTS(table); i++)
        if (strlen(table[i].cpu) == cpu.length && strncmp(table[i].cpu, cpu.at, cpu.length) == 0)
            return acia ? table[i].acia : table[i].usual;
    return 0;
}

/* A rate that Eyelet cannot keep up with is an error where Eyelet is built, not a riddle at the
 * line. Free with g_free. */
static char *refuse_fast_line(const bench *b, const bench_device *d)
{
    static const uint32_t rates[] = {230400, 115200, 76800, 57600, 38400, 19200, 9600,
                                     4800,   2400,   1200,  600,   300,   110,   50};
    uint64_t cycles = cycles_of_byte(b, d);
    if (!b->has_link || cycles == 0 || (uint64_t)b->clock * 10 >= cycles * b->link_baud)
        return g_strdup("");
    size_t i = 0;
    while (i + 1 < G_N_ELEMENTS(rates) &&
           (rates[i] >= b->link_baud || (uint64_t)b->clock * 10 < cycles * rates[i]))
        i++;
    bl_text cpu = bl_sheet_name(b->sheet);
    return g_strdup_printf(
        "        .if defined(EYELET)\n"
        "        .fail \"link: %u baud is too fast for Eyelet on a %.*s at %g MHz; "
        "the fastest usual rate that works is %u baud\"\n        .end\n",
        b->link_baud, (int)cpu.length, cpu.at, b->clock / 1e6, rates[i]);
}

/* The timing of bits uses what its chip says; how a CPU reaches a chip is what that uses. */
char *bench_serial(const bench *b)
{
    const bench_device *d = named(b, "serial");
    const char *chip, *cpu;
    if (d == NULL)
        return g_strdup("        .fail \"the bench file describes no device 'serial': what is at "
                        "the line\"\n");
    if (bench_firmware(b->sheet, "serial") == NULL)
        return g_strdup("        .fail \"no firmware for this CPU reaches a serial interface\"\n");
    if (find_driver(b, d, &chip, &cpu)) {
        bool timed = strcmp(d->kind->name, "serial-bits") == 0;
        char *clock = clock_of_serial(b, d), *fast = timed ? g_strdup("") : refuse_fast_line(b, d);
        char *text = g_strdup_printf("%s        .include \"<%s>\"\n%s        .include \"<%s>\"\n",
                                     fast, timed ? chip : cpu, clock, timed ? cpu : chip);
        g_free(clock);
        g_free(fast);
        return text;
    }
    char *known = drivers(),
         *text = g_strdup_printf(
             "        .fail \"no driver for device 'serial', a %s; there is one for %s\"\n",
             d->kind != NULL ? d->kind->name : "other", known);
    g_free(known);
    return text;
}

/* thrift.c - single letters; the place moves on by itself.
 *
 *   Phhhh  the place
 *   Dhh    deposit, and on
 *   E      examine, and on
 *   R      run from the place
 *   Thhhh  take so many bare bytes from the place on
 *   Ghhhh  give so many
 *
 * Each is done as soon as its last digit is there. Every character is echoed; "- " is the prompt.
 */
#include <stdlib.h>
#include <string.h>

#include "monitor.h"

static void prompt(sim_monitor *m)
{
    m->count = 0;
    sim_monitor_say(m, "\r\n- ");
}

static void give(sim_monitor *m, uint32_t count)
{
    sim_monitor_say(m, "\r\n");
    for (uint32_t i = 0; i < count; i++)
        sim_monitor_put(m, m->ram[m->place++ & 0xFFFF]);
}

static void obey_thrift(sim_monitor *m)
{
    uint32_t value = (uint32_t)strtoul(m->line + 1, NULL, 16);
    switch (m->line[0]) {
    case 'P': m->place = value; break;
    case 'D': m->ram[m->place++ & 0xFFFF] = (uint8_t)value; break;
    case 'E': sim_monitor_say(m, "\r\n%02X", m->ram[m->place++ & 0xFFFF]); break;
    case 'R': sim_monitor_start(m, m->place); return;
    case 'T':
        m->left = value;
        m->count = 0;
        sim_monitor_say(m, "\r\n");
        if (m->left > 0) return;
        break;
    default: give(m, value); break;
    }
    prompt(m);
}

/* There are no line ends: a command is complete with its last digit. */
static void take_thrift_byte(sim_monitor *m, uint8_t byte)
{
    static const struct {
        char letter;
        size_t digits;
    } all[] = {{'P', 4}, {'D', 2}, {'E', 0}, {'R', 0}, {'T', 4}, {'G', 4}};
    size_t digits = 0;
    if (m->left > 0) {
        m->ram[m->place++ & 0xFFFF] = byte;
        if (--m->left == 0) prompt(m);
        return;
    }
    sim_monitor_put(m, byte);
    m->line[m->count++] = (char)byte;
    m->line[m->count] = '\0';
    bool known = m->count == 1 ? false : strchr("0123456789ABCDEF", (char)byte) != NULL;
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        if (all[i].letter != m->line[0]) continue;
        known |= m->count == 1;
        digits = all[i].digits;
    }
    if (!known) {
        sim_monitor_say(m, "\r\n?");
        prompt(m);
    } else if (m->count == digits + 1) {
        obey_thrift(m);
    }
}

/* Its port is made in software: between two characters it needs a while. */
const sim_monitor_kind sim_thrift = {"thrift", "\r\nThrift\r\n- ", 1500, take_thrift_byte};

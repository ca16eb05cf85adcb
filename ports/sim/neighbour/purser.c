/* purser.c - a menu, and questions.
 *
 *   1  look: asks from and to, shows lines "0300 A9 01 ..." of up to eight bytes
 *   2  change: asks from, then bytes, separated by blanks
 *   3  start: asks where
 *   4  records: takes Intel HEX, says + or - to each, and leaves after the end record or a dot
 * It does not echo.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "monitor.h"

enum { MENU, LOOK_FROM, LOOK_TO, CHANGE_FROM, CHANGE_BYTES, START_AT, RECORDS };

static void menu(sim_monitor *m)
{
    m->step = MENU;
    sim_monitor_say(m, "\r\n1 look  2 change  3 start  4 records\r\nchoice? ");
}

static void ask_purser(sim_monitor *m, unsigned step, const char *question)
{
    m->step = step;
    sim_monitor_say(m, "\r\n%s? ", question);
}

static bool read_address(const char *text, uint32_t *address)
{
    char *end;
    *address = (uint32_t)strtoul(text, &end, 16);
    return end > text && *end == '\0' && *address <= 0xFFFF;
}

static void refuse_purser(sim_monitor *m, const char *why)
{
    sim_monitor_say(m, "\r\nsorry, %s\r\n", why);
    menu(m);
}

static void look_at_memory(sim_monitor *m)
{
    for (uint32_t at = m->place; at <= m->last; at++) {
        if ((at - m->place) % 8 == 0) sim_monitor_say(m, "\r\n%04X", at);
        sim_monitor_say(m, " %02X", m->ram[at]);
    }
    sim_monitor_say(m, "\r\n");
    menu(m);
}

static void change_memory(sim_monitor *m)
{
    const char *text = m->line;
    char *end;
    for (;; text = end) {
        unsigned long value = strtoul(text, &end, 16);
        if (end == text) break;
        if (value > 0xFF || m->place > 0xFFFF) {
            refuse_purser(m, "that is no byte, or there is no place for it");
            return;
        }
        m->ram[m->place++] = (uint8_t)value;
    }
    sim_monitor_say(m, "\r\ndone\r\n");
    menu(m);
}

/* ":LLAAAATT data CC". False: its sum is wrong, or it is none. */
static bool record(sim_monitor *m, bool *last)
{
    unsigned bytes[64], count = 0, sum = 0;
    const char *p = m->line + 1;
    *last = false;
    if (m->line[0] != ':') return false;
    for (; count < 64 && sscanf(p, "%2x", &bytes[count]) == 1 && p[1] != '\0'; p += 2)
        sum += bytes[count++];
    if (*p != '\0' || count < 5 || count != bytes[0] + 5 || (sum & 0xFF) != 0) return false;
    unsigned at = bytes[1] << 8 | bytes[2];
    for (unsigned i = 0; bytes[3] == 0 && i < bytes[0]; i++)
        m->ram[(at + i) & 0xFFFF] = (uint8_t)bytes[4 + i];
    *last = bytes[3] == 1;
    return true;
}

static void take_record(sim_monitor *m)
{
    bool last;
    if (strcmp(m->line, ".") == 0) {
        menu(m);
    } else if (!record(m, &last)) {
        sim_monitor_say(m, "-");
    } else {
        sim_monitor_say(m, "+");
        if (last) menu(m);
    }
}

static void choose(sim_monitor *m)
{
    switch (m->line[0]) {
    case '1': ask_purser(m, LOOK_FROM, "from"); break;
    case '2': ask_purser(m, CHANGE_FROM, "from"); break;
    case '3': ask_purser(m, START_AT, "where"); break;
    case '4':
        m->step = RECORDS;
        sim_monitor_say(m, "\r\nrecords, or a dot:\r\n");
        break;
    default: menu(m); break;
    }
}

/* The menu's step says what the number that was typed is for. */
static void obey_purser(sim_monitor *m)
{
    bool from = m->step == LOOK_FROM || m->step == CHANGE_FROM || m->step == START_AT;
    if (from && !read_address(m->line, &m->place)) {
        refuse_purser(m, "that is no address");
        return;
    }
    switch (m->step) {
    case MENU: choose(m); break;
    case LOOK_FROM: ask_purser(m, LOOK_TO, "to"); break;
    case LOOK_TO:
        if (!read_address(m->line, &m->last) || m->last < m->place || m->last - m->place > 255)
            refuse_purser(m, "that is no end");
        else
            look_at_memory(m);
        break;
    case CHANGE_FROM: ask_purser(m, CHANGE_BYTES, "bytes"); break;
    case CHANGE_BYTES: change_memory(m); break;
    case START_AT: sim_monitor_start(m, m->place); break;
    default: take_record(m); break;
    }
}

static void take_purser_byte(sim_monitor *m, uint8_t byte)
{
    if (byte == '\n') return;
    if (byte != '\r') {
        if (m->count + 1 < sizeof m->line) m->line[m->count++] = (char)byte;
        return;
    }
    m->line[m->count] = '\0';
    m->count = 0;
    obey_purser(m);
}

const sim_monitor_kind sim_purser = {
    "purser", "\r\nPurser at your service\r\n\r\n1 look  2 change  3 start  4 records\r\nchoice? ",
    0, take_purser_byte};

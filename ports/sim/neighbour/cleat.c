/* cleat.c - octal lines, words of 12 bits, two bytes of RAM each, the low one first.
 *
 *   200=7300 1205      words from 0200 on
 *   200,4              shows four: "0200=7300 1205 ..."
 *   200,277=0000       the same word in all of them, first to last
 *   200 go             starts there
 * It echoes, says "no: " and why, and "cleat: " when it is ready.
 */
#include <stdlib.h>
#include <string.h>

#include "monitor.h"

enum { WORDS = 4096, MAX_SHOWN = 64, IN_LINE = 8 };

static unsigned cleat_word(const sim_monitor *m, unsigned long at)
{
    return (unsigned)(m->ram[at * 2] | m->ram[at * 2 + 1] << 8) & 07777;
}

static void store_cleat_word(sim_monitor *m, unsigned long at, unsigned long value)
{
    m->ram[at * 2] = (uint8_t)value;
    m->ram[at * 2 + 1] = (uint8_t)(value >> 8);
}

static bool is_octal(const char *text)
{
    return strspn(text, "01234567 ") == strlen(text) && *text != '\0';
}

static const char *set_words(sim_monitor *m, unsigned long at, const char *text)
{
    char *end;
    if (!is_octal(text)) return "octal words behind =";
    for (;; text = end) {
        unsigned long value = strtoul(text, &end, 8);
        if (end == text) return NULL;
        if (value > 07777 || at >= WORDS) return "too large";
        store_cleat_word(m, at++, value);
    }
}

static const char *fill_words(sim_monitor *m, unsigned long first, const char *text)
{
    char *end;
    unsigned long last = strtoul(text, &end, 8), value;
    if (*end != '=' || !is_octal(end + 1)) return "one octal word behind =";
    value = strtoul(end + 1, NULL, 8);
    if (last >= WORDS || value > 07777) return "too large";
    for (; first <= last; first++)
        store_cleat_word(m, first, value);
    return NULL;
}

static const char *show_cleat_words(sim_monitor *m, unsigned long at, const char *text)
{
    unsigned long count = strtoul(text, NULL, 8);
    if (count > MAX_SHOWN || at + count > WORDS) return "too many";
    for (unsigned long i = 0; i < count; i++) {
        if (i % IN_LINE == 0) sim_monitor_say(m, "%s%04lo=", i > 0 ? "\r\n" : "", at + i);
        sim_monitor_say(m, "%s%04o", i % IN_LINE > 0 ? " " : "", cleat_word(m, at + i));
    }
    sim_monitor_say(m, "\r\n");
    return NULL;
}

static const char *obey_cleat(sim_monitor *m)
{
    char *end;
    unsigned long at = strtoul(m->line, &end, 8);
    if (m->line[0] == '\0') return NULL;
    if (end == m->line || at >= WORDS) return "an octal address comes first";
    if (strcmp(end, " go") == 0) {
        sim_monitor_start(m, (uint32_t)at * 2);
        return NULL;
    }
    if (*end == '=') return set_words(m, at, end + 1);
    if (*end != ',') return "= or , behind the address";
    return strchr(end, '=') != NULL ? fill_words(m, at, end + 1) : show_cleat_words(m, at, end + 1);
}

static void take_cleat_byte(sim_monitor *m, uint8_t byte)
{
    if (byte != '\r') {
        if (m->count + 1 == sizeof m->line) return;
        m->line[m->count++] = (char)byte;
        sim_monitor_put(m, byte);
        return;
    }
    m->line[m->count] = '\0';
    m->count = 0;
    sim_monitor_say(m, "\r\n");
    const char *fault = obey_cleat(m);
    if (fault != NULL) sim_monitor_say(m, "no: %s\r\n", fault);
    sim_monitor_say(m, "cleat: ");
}

const sim_monitor_kind sim_cleat = {"cleat", "\r\ncleat: ", 0, take_cleat_byte};

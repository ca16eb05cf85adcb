/* monitor.c - what the neighbours' monitors have in common: hearing, and speaking. */
#include "monitor.h"

#include <stdarg.h>
#include <stdio.h>
#include <string.h>

static const sim_monitor_kind *const kinds[] = {&sim_thrift, &sim_cleat, &sim_purser, &sim_petrel};
enum { KINDS = sizeof kinds / sizeof kinds[0] };

const sim_monitor_kind *sim_monitor_named(const char *name)
{
    for (size_t i = 0; i < KINDS; i++)
        if (strcmp(kinds[i]->name, name) == 0) return kinds[i];
    return NULL;
}

const char *sim_monitor_name(size_t index)
{
    return index < KINDS ? kinds[index]->name : NULL;
}

void sim_monitor_put(sim_monitor *m, uint8_t byte)
{
    if (m->text_count == SIM_MONITOR_OUT) return;
    m->text[(m->text_first + m->text_count++) % SIM_MONITOR_OUT] = byte;
}

void sim_monitor_say(sim_monitor *m, const char *text, ...)
{
    char all[400];
    va_list list;
    va_start(list, text);
    vsnprintf(all, sizeof all, text, list);
    va_end(list);
    for (const char *p = all; *p != '\0'; p++)
        sim_monitor_put(m, (uint8_t)*p);
}

void sim_monitor_start(sim_monitor *m, uint32_t address)
{
    m->started = true;
    m->start = (uint16_t)address;
}

void sim_monitor_begin(sim_monitor *m, const sim_monitor_kind *kind, uint8_t *ram, sim_wire *in,
                       sim_wire *out, uint64_t now)
{
    memset(m, 0, sizeof *m);
    m->kind = kind;
    m->ram = ram;
    m->in = in;
    m->out = out;
    bl_packets_listen(&m->radio, in->baud, 0, ram, 0xFFFF, m->seen, sizeof m->seen,
                      BL_PACKET_USUAL);
    m->radio.transport.next_at = now / 1000;
}

static void speak(sim_monitor *m, uint64_t at)
{
    uint8_t byte;
    while (m->text_count > 0 && sim_wire_put(m->out, at, m->text[m->text_first])) {
        m->text_first = (m->text_first + 1) % SIM_MONITOR_OUT;
        m->text_count--;
    }
    while (bl_transport_output(&m->radio.transport, &byte, 1, at / 1000) == 1)
        sim_wire_put(m->out, at, byte);
}

void sim_monitor_run(sim_monitor *m, uint64_t until)
{
    uint8_t byte;
    speak(m, until);
    while (!m->started && sim_wire_next(m->in) <= until) {
        uint64_t at = sim_wire_next(m->in);
        if (!sim_wire_take(m->in, at, &byte)) continue; /* the end of a break */
        bool soon = m->heard_at != 0 && at < m->heard_at + (uint64_t)m->kind->soonest_us * 1000;
        m->heard_at = at;
        if (soon)
            m->lost++;
        else
            m->kind->take(m, byte);
        speak(m, at);
    }
}

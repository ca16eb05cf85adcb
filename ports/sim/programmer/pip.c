/* pip.c - its command line, and a way of writing bytes that waits and does not look. */
#include "pip.h"

#include <stdio.h>
#include <string.h>

enum { SOONEST_NS = 300000, LONGEST_MS = 12, MAX_READ = 64 };

void sim_pip_begin(sim_pip *p, const bl_chip_bus *bus)
{
    memset(p, 0, sizeof *p);
    p->bus = bus;
}

static void say_pip(sim_pip *p, const char *text)
{
    for (; *text != '\0' && p->out_count < SIM_PIP_OUT; text++)
        p->out[(p->out_first + p->out_count++) % SIM_PIP_OUT] = (uint8_t)*text;
}

bool sim_pip_output(sim_pip *p, uint8_t *byte)
{
    if (p->out_count == 0) return false;
    *byte = p->out[p->out_first];
    p->out_first = (p->out_first + 1) % SIM_PIP_OUT;
    p->out_count--;
    return true;
}

/* ---- the chip ---- */

static uint8_t read_byte(const bl_chip_bus *b, uint32_t address)
{
    b->address(b->context, address);
    b->release(b->context);
    b->enables(b->context, true, true, false);
    b->pause(b->context, 500);
    uint8_t byte = b->sense(b->context);
    b->enables(b->context, false, false, false);
    return byte;
}

static void write_byte(const bl_chip_bus *b, uint32_t address, uint8_t byte)
{
    b->address(b->context, address);
    b->enables(b->context, true, false, false);
    b->drive(b->context, byte);
    b->enables(b->context, true, false, true);
    b->pause(b->context, 1000);
    b->enables(b->context, true, false, false);
    b->pause(b->context, 1000);
    b->enables(b->context, false, false, false);
    b->release(b->context);
    for (unsigned ms = 0; ms < LONGEST_MS && read_byte(b, address) != byte; ms++)
        b->pause(b->context, 1000000);
}

/* ---- commands ---- */

static void write_pip(sim_pip *p, const char *text)
{
    unsigned address, byte;
    int used;
    if (sscanf(text, "%4x%n", &address, &used) != 1) {
        say_pip(p, "? address\r\n");
        return;
    }
    for (text += used; sscanf(text, "%2x%n", &byte, &used) == 1; text += used)
        write_byte(p->bus, address++, (uint8_t)byte);
    say_pip(p, "ok\r\n");
}

static void read_command(sim_pip *p, const char *text)
{
    unsigned address, count;
    char piece[24];
    if (sscanf(text, "%4x %2x", &address, &count) != 2 || count > MAX_READ) {
        say_pip(p, "? address and count\r\n");
        return;
    }
    for (unsigned i = 0; i < count; i++) {
        if (i % 8 == 0) {
            snprintf(piece, sizeof piece, "%s%04X:", i > 0 ? "\r\n" : "", address + i);
            say_pip(p, piece);
        }
        snprintf(piece, sizeof piece, " %02X", read_byte(p->bus, address + i));
        say_pip(p, piece);
    }
    say_pip(p, "\r\n");
}

static void obey_pip(sim_pip *p)
{
    p->line[p->count] = '\0';
    p->count = 0;
    say_pip(p, "\r\n");
    if (p->line[0] == 'W')
        write_pip(p, p->line + 1);
    else if (p->line[0] == 'R')
        read_command(p, p->line + 1);
    else if (p->line[0] != '\0')
        say_pip(p, "? W or R\r\n");
    say_pip(p, "pip> ");
}

void sim_pip_input(sim_pip *p, uint8_t byte, uint64_t at, uint64_t now)
{
    bool soon = p->heard_at != 0 && at<p->heard_at + SOONEST_NS, deaf = now> at + SOONEST_NS;
    p->heard_at = at;
    if (soon || deaf) {
        p->lost++;
        return;
    }
    if (byte == '\r') {
        obey_pip(p);
        return;
    }
    if (p->count + 1 == SIM_PIP_LINE) return;
    char echo[2] = {(char)byte, '\0'};
    p->line[p->count++] = (char)byte;
    say_pip(p, echo);
}

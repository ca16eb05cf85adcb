/* petrel.c - a radio module that brings packets into RAM. It cannot start anything. */
#include "monitor.h"

static void take_petrel_byte(sim_monitor *m, uint8_t byte)
{
    uint64_t now = m->heard_at / 1000;
    bl_transport_tick(&m->radio.transport, now);
    bl_transport_input(&m->radio.transport, &byte, 1, now);
}

const sim_monitor_kind sim_petrel = {"petrel", "", 0, take_petrel_byte};

/* riot6532.h - the RAM, I/O, timer kind 6532: two ports, a timer with four prescalers, an edge
 * detector at PA7. Its 128 bytes of RAM are an area of the bench file.
 *
 * Source: the common data sheet. 32 addresses: the places that are not named repeat others. After
 * it has run out the timer goes on at every cycle.
 */
#ifndef BOOTLACE_SIM_RIOT6532_H
#define BOOTLACE_SIM_RIOT6532_H

#include "sim/device/device.h"

enum {
    SIM_RIOT_PORT_A,
    SIM_RIOT_DIRECTION_A,
    SIM_RIOT_PORT_B,
    SIM_RIOT_DIRECTION_B,
    SIM_RIOT_TIMER,
    SIM_RIOT_FLAGS,
    SIM_RIOT_TIMER_IRQ = 12,
    SIM_RIOT_TIMER_1 = 20,
    SIM_RIOT_TIMER_8,
    SIM_RIOT_TIMER_64,
    SIM_RIOT_TIMER_1024,
    SIM_RIOT_TIMER_1_IRQ = 28
};

/* Bits of the flags. */
enum { SIM_RIOT_EDGE = 0x40, SIM_RIOT_OVER = 0x80 };

extern const sim_device_kind sim_riot_kind;

#endif

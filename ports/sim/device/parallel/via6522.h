/* via6522.h - the versatile interface adapter: two ports with handshake, two timers, a shift
 * register.
 *
 * Source: the common data sheet of the 6522. Modelled: both ports with their directions, input
 * latching, all modes of CA1, CA2, CB1, CB2, both timers (PB7 as the first one's output, PB6 as
 * what the second one counts), the shift register in its eight modes, flags and interrupts. A timer
 * that is loaded with N sets its flag N + 2 cycles later; running freely it does so every N + 2.
 */
#ifndef BOOTLACE_SIM_VIA6522_H
#define BOOTLACE_SIM_VIA6522_H

#include "sim/device/device.h"

enum {
    SIM_VIA_PORT_B,
    SIM_VIA_PORT_A,
    SIM_VIA_DIRECTION_B,
    SIM_VIA_DIRECTION_A,
    SIM_VIA_T1_LOW,
    SIM_VIA_T1_HIGH,
    SIM_VIA_T1_LATCH_LOW,
    SIM_VIA_T1_LATCH_HIGH,
    SIM_VIA_T2_LOW,
    SIM_VIA_T2_HIGH,
    SIM_VIA_SHIFT,
    SIM_VIA_AUXILIARY,
    SIM_VIA_PERIPHERAL,
    SIM_VIA_FLAGS,
    SIM_VIA_ENABLE,
    SIM_VIA_PORT_A_PLAIN, /* without handshake */
};

/* Bits of the flags. */
enum {
    SIM_VIA_CA2 = 0x01,
    SIM_VIA_CA1 = 0x02,
    SIM_VIA_SHIFTED = 0x04,
    SIM_VIA_CB2 = 0x08,
    SIM_VIA_CB1 = 0x10,
    SIM_VIA_T2 = 0x20,
    SIM_VIA_T1 = 0x40,
    SIM_VIA_IRQ = 0x80,
};

/* Pins: PA0 to PA7, PB0 to PB7, then these. */
enum {
    SIM_VIA_PIN_PA = 0,
    SIM_VIA_PIN_PB = 8,
    SIM_VIA_PIN_CA1 = 16,
    SIM_VIA_PIN_CA2,
    SIM_VIA_PIN_CB1,
    SIM_VIA_PIN_CB2
};

extern const sim_device_kind sim_via_kind;

#endif

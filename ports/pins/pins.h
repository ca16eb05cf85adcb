/* pins.h - a programmer's socket, pin by pin: what a microcontroller has to supply.
 *
 * The socket is a 32-pin one; smaller parts stand at its lower end, ground in socket pin 16: pin 1
 * of a 28-pin part is in socket pin 3, of a 24-pin part in socket pin 5. Pins are numbered as the
 * socket's, 1 to 32. docs/programmer.md has the wiring table.
 */
#ifndef BOOTLACE_PINS_H
#define BOOTLACE_PINS_H

#include "bootlace/programmer.h"

enum { BL_SOCKET_PINS = 32 };

/* What each socket pin can be made to do. */
typedef enum bl_pin_state {
    BL_PIN_FREE, /* input: the part drives it, or nobody does */
    BL_PIN_LOW,
    BL_PIN_HIGH,   /* as high as the supply of the logic */
    BL_PIN_SUPPLY, /* Vcc of the part */
    BL_PIN_GROUND,
    BL_PIN_VPP, /* programming voltage */
} bl_pin_state;

typedef struct bl_pins {
    void *context;
    /* Switches one pin of the socket. Only pins that the table calls so are ever asked for SUPPLY,
     * GROUND or VPP. */
    void (*set)(void *context, unsigned pin, bl_pin_state state);
    bool (*get)(void *context, unsigned pin);
    void (*delay)(void *context, uint32_t nanoseconds); /* at least so long */
    /* Sets the two supplies, in tenths of a volt; returns when they stand. False: cannot. */
    bool (*volts)(void *context, uint8_t vcc, uint8_t vpp);
} bl_pins;

/* A chip bus over pins. The part is known once it has been selected: size and method decide which
 * pin is which. */
typedef struct bl_pin_bus {
    const bl_pins *pins;
    const bl_part *part; /* of the programmer; its size is 0 until one is selected */
    uint32_t wired_size; /* what the pins stand for now */
    uint8_t wired_method;
    uint8_t vpp;
    bool chip, output, write;
    uint8_t state[BL_SOCKET_PINS + 1]; /* of each pin */
} bl_pin_bus;

/* Begins with all pins free and the supplies off. */
bl_chip_bus bl_pin_bus_begin(bl_pin_bus *b, const bl_pins *pins, const bl_part *part);

#endif

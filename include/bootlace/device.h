/* device.h - what is known of a kind of device without having one: its name in bench files, its
 * registers and its pins. Whoever simulates or drives devices supplies such descriptions
 * (ports/sim/device). Source of the registers: the data sheet that each description names.
 */
#ifndef BOOTLACE_DEVICE_H
#define BOOTLACE_DEVICE_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_DEVICE_REGISTERS = 32, BL_DEVICE_PINS = 40 };

/* Eight or fewer pins in a row that are the bits of a register, from bit 0 on. */
typedef struct bl_device_port {
    uint8_t pin, width;      /* the first of the pins, how many; width 0 ends the list */
    uint8_t data, direction; /* places of registers; in the direction register 1 is an output */
    bool has_direction;
} bl_device_port;

/* Constant, with static lifetime. */
typedef struct bl_device_kind {
    const char *name; /* in bench files: "acia-6551" */
    const char *what; /* a few words for people */
    /* One address each, from the first; then NULL. A place that is one register when it is read
     * and another when it is written has both names: "status/control". NULL at the begin: it is
     * reached by its pins alone. */
    const char *registers[BL_DEVICE_REGISTERS];
    /* Those that can be wired, NULL behind the last; NULL: none. */
    const char *const *pins;
    const bl_device_port *ports; /* which of them a program reaches as bits; NULL: none */
    bool clocked;         /* its rate comes from a clock of its own, 'clock' in bench files */
    uint32_t usual_clock; /* Hz, where nobody says otherwise; 0: it must be said */
    const char *needs;    /* pins without which it cannot work, "rs e"; NULL: none */
    bool at_pins;         /* it can do without an address: what it has then is wired */
} bl_device_kind;

/* How many addresses it has. */
unsigned bl_device_register_count(const bl_device_kind *kind);
/* A name of the register at a place, from index 0 on; length 0: it has no more. */
bl_text bl_device_register_name(const bl_device_kind *kind, unsigned place, unsigned index);
/* The index of a pin by its name; -1: it has none of that name. */
int bl_device_pin(const bl_device_kind *kind, bl_text name);

#ifdef __cplusplus
}
#endif
#endif

/* device.h - what is known of a kind of device without having one: its name in bench files and its
 * registers. Whoever simulates or drives devices supplies such descriptions (ports/sim/device).
 * Source of the registers: the data sheet that each description names.
 */
#ifndef BOOTLACE_DEVICE_H
#define BOOTLACE_DEVICE_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

enum { BL_DEVICE_REGISTERS = 8 };

/* Constant, with static lifetime. */
typedef struct bl_device_kind {
    const char *name;                           /* in bench files: "acia-6551" */
    const char *what;                           /* a few words for people */
    const char *registers[BL_DEVICE_REGISTERS]; /* one address each, from the first; then NULL */
} bl_device_kind;

static inline unsigned bl_device_register_count(const bl_device_kind *kind)
{
    unsigned n = 0;
    while (n < BL_DEVICE_REGISTERS && kind->registers[n] != NULL)
        n++;
    return n;
}

#ifdef __cplusplus
}
#endif
#endif

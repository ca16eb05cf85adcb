/* quantity.h - times, frequencies and voltages as people write them: "20 ms", "1.8432 MHz",
 * "12.5 V". Alike in bench files, dialogues and options. Decimal, exact, and without rounding of
 * what can be said: no floating point.
 */
#ifndef BOOTLACE_QUANTITY_H
#define BOOTLACE_QUANTITY_H

#include "base.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What is measured, and the unit that values come in. */
typedef enum bl_measure {
    BL_NANOSECONDS, /* ns us ms s */
    BL_HERTZ,       /* Hz kHz MHz */
    BL_MILLIVOLTS,  /* mV V */
} bl_measure;

/* The whole text, blanks around it aside, is a number, with a decimal point perhaps, and a unit in
 * either case. usual: the unit that is meant when none stands there; NULL: one is needed. Parts of
 * the unit of *value are rounded, halves up.
 * BL_E_SYNTAX: no number stands there, or something else behind it; BL_E_NOT_FOUND: it has no unit,
 * or one that is none of this measure; BL_E_RANGE: more than 2^53. *value is then unchanged. */
bl_status bl_quantity_parse(bl_text text, bl_measure measure, const char *usual, uint64_t *value);

/* The units of a measure, for hints: "ns, us, ms or s". Static. */
const char *bl_measure_units(bl_measure measure);

#ifdef __cplusplus
}
#endif
#endif

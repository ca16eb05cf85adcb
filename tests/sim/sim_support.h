/* What the tests of several CPUs share. */
#ifndef BOOTLACE_TEST_SIM_SUPPORT_H
#define BOOTLACE_TEST_SIM_SUPPORT_H

#include "harness.h"

/* The bytes of a form, with small operands; turn chooses among its names. */
void place_form(const bl_sheet *sheet, const bl_form *f, unsigned turn, uint8_t *bytes);
/* The cycles that its extras may add in all. */
unsigned extra_cycles(const bl_sheet *sheet, const bl_form *f);
/* Assembles a source into 64 KiB of memory, which is zero elsewhere. */
void load_program(const char *sheet, const char *source, uint8_t *memory);

#endif

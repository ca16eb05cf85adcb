/* oscillator.h - a crystal oscillator: a clock for whatever is wired to it. */
#ifndef BOOTLACE_SIM_OSCILLATOR_H
#define BOOTLACE_SIM_OSCILLATOR_H

#include "device.h"

extern const sim_device_kind sim_oscillator_kind;

#endif

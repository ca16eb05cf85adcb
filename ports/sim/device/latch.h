/* latch.h - eight lamps: one register, written only. It keeps its value over a reset. */
#ifndef BOOTLACE_SIM_LATCH_H
#define BOOTLACE_SIM_LATCH_H

#include "device.h"

extern const sim_device_kind sim_latch_kind;

#endif

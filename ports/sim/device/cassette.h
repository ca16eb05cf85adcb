/* cassette.h - an input bit and an output bit at a cassette recorder. */
#ifndef BOOTLACE_SIM_CASSETTE_H
#define BOOTLACE_SIM_CASSETTE_H

#include "device.h"

extern const sim_device_kind sim_cassette_kind;

#endif

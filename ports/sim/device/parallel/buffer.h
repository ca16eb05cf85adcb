/* buffer.h - eight inputs that are read at an address: the kind of buffer that has no memory. */
#ifndef BOOTLACE_SIM_BUFFER_H
#define BOOTLACE_SIM_BUFFER_H

#include "sim/device/device.h"

extern const sim_device_kind sim_buffer_kind;

#endif

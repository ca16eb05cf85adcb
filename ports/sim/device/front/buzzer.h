/* buzzer.h - a buzzer that a program gives its tone: what is heard of the last 50 ms. */
#ifndef BOOTLACE_SIM_BUZZER_H
#define BOOTLACE_SIM_BUZZER_H

#include "sim/device/device.h"

extern const sim_device_kind sim_buzzer_kind;

#endif

/* pip.h - Pip, a small programmer of Skerry's workshop that speaks lines of text at 9600 baud. Not
 * ours: the description that Bootlace needs of it is examples/skerry-65/pip.dialogue.
 *
 *   W AAAA BB BB ...   writes bytes one after the other, and says ok whatever became of them
 *   R AAAA NN          shows NN bytes, eight a line, behind their address
 * It echoes, says "pip> " when it is ready and "? " before what it does not like. While it works it
 * does not listen, and a character that comes too soon after another is lost.
 */
#ifndef BOOTLACE_SIM_PIP_H
#define BOOTLACE_SIM_PIP_H

#include "bootlace/port.h"

enum { SIM_PIP_LINE = 120, SIM_PIP_OUT = 1024 };

typedef struct sim_pip {
    const bl_chip_bus *bus;
    char line[SIM_PIP_LINE];
    size_t count;
    uint8_t out[SIM_PIP_OUT];
    size_t out_first, out_count;
    uint64_t heard_at; /* nanoseconds */
    uint32_t lost;     /* characters */
} sim_pip;

void sim_pip_begin(sim_pip *p, const bl_chip_bus *bus);
/* A character that arrived at a moment, in nanoseconds; now it has time for it. */
void sim_pip_input(sim_pip *p, uint8_t byte, uint64_t at, uint64_t now);
bool sim_pip_output(sim_pip *p, uint8_t *byte);

#endif

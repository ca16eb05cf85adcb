/* sim_panel.h - the front panel of a simulated board. While the CPU stands, its keys reach memory
 * by themselves; while it runs, only stop does anything. */
#ifndef BOOTLACE_SIM_PANEL_H
#define BOOTLACE_SIM_PANEL_H

#include "board.h"
#include "bootlace/port.h"

typedef struct sim_panel {
    sim_board *board;
    uint32_t switches;
    uint16_t address;
    bool running;
} sim_panel;

/* The board must be switched on. It is stopped, and address 0 is shown. */
void sim_panel_begin(sim_panel *p, sim_board *board);
bl_front_panel sim_panel_port(sim_panel *p);
/* Lets time pass until a moment, in nanoseconds: a machine that stands does nothing. */
void sim_panel_pass(sim_panel *p, uint64_t until);

#endif

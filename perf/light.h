/* light.h - the shipped board with the harbour light in its chip, switched on, for benchmarks. */
#ifndef BOOTLACE_PERF_LIGHT_H
#define BOOTLACE_PERF_LIGHT_H

#include <stdio.h>

#include "project/project.h"
#include "simulation/simulation.h"

/* False, told: this is not the project's folder. Both are to be closed. */
static inline bool light_begin(sim_bench *sim, bench **b, project **p)
{
    static uint8_t cells[32768];
    static uint8_t *all[] = {cells};
    uint32_t used;
    if (bench_open("examples/skerry-65/bench.yaml", &simulation_hardware, NULL, b) != BL_OK ||
        project_build(*b, PROJECT_CHIPS, NULL, NULL, p) != BL_OK) {
        fprintf(stderr, "run this in the project's folder\n");
        return false;
    }
    bl_chip_contents(&(*b)->chips[0], (*p)->chips, cells, &used);
    sim_bench_begin(sim, &sim_65c02_kind, (*b)->clock, (*b)->areas, (*b)->area_count, (*b)->chips,
                    all, 1, (*b)->link_baud, (*b)->programmer_baud, 1);
    simulation_add_devices(sim, *b);
    sim_bench_power_on(sim);
    return true;
}

#endif

/* perf_simulate.c - how much faster than the original the simulated board runs the shipped light.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "project/project.h"
#include "simulation/simulation.h"
#include "wall.h"

int main(int argc, char **argv)
{
    static sim_bench sim;
    static uint8_t cells[32768];
    static uint8_t *all[] = {cells};
    uint32_t used;
    bench *b;
    project *p;
    double virtual_time = argc > 1 ? strtod(argv[1], NULL) : 60;
    if (bench_open("examples/skerry-65/bench.yaml", &simulation_hardware, NULL, &b) != BL_OK ||
        project_build(b, PROJECT_CHIPS, NULL, NULL, &p) != BL_OK) {
        fprintf(stderr, "run this in the project's folder\n");
        return 1;
    }
    bl_chip_contents(&b->chips[0], p->chips, cells, &used);
    sim_bench_begin(&sim, &sim_65c02_kind, b->clock, b->areas, b->area_count, b->chips, all, 1,
                    b->link_baud, b->programmer_baud, 1);
    simulation_add_devices(&sim, b);
    sim_bench_power_on(&sim);
    double began = seconds();
    sim_bench_run(&sim, (uint64_t)(virtual_time * 1e9));
    double took = seconds() - began;
    printf("%.0f s of a %.1f MHz board in %.3f s: %.0f times real time, %.0f million cycles a "
           "second\n",
           virtual_time, b->clock / 1e6, took, virtual_time / took,
           (double)sim.board.cpu.cycles / took / 1e6);
    project_close(p);
    bench_close(b);
    return 0;
}

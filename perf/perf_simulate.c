/* perf_simulate.c - how much faster than the original the simulated board runs the shipped light.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "light.h"
#include "wall.h"

int main(int argc, char **argv)
{
    static sim_bench sim;
    bench *b;
    project *p;
    double virtual_time = argc > 1 ? strtod(argv[1], NULL) : 60;
    if (!light_begin(&sim, &b, &p)) return 1;
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

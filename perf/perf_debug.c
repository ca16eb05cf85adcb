/* perf_debug.c - what looking costs: a run with breakpoints against one without, one that is
 * remembered, and the way back by a million instructions. Process time. */
#include <stdio.h>
#include <stdlib.h>

#include "light.h"
#include "sim/sim_past.h"
#include "sim/sim_target.h"
#include "wall.h"

static sim_bench sim;

static double run_for(uint64_t ns)
{
    double began = seconds();
    sim_bench_run(&sim, sim.now + ns);
    return seconds() - began;
}

int main(void)
{
    static const uint64_t minute = 60000000000u;
    bench *b;
    project *p;
    sim_past *past;
    if (!light_begin(&sim, &b, &p)) return 1;
    run_for(minute);
    double plain = run_for(minute);
    sim_board_break(&sim.board, 0x0400, true);
    double broken = run_for(minute);
    sim_board_break(&sim.board, 0x0400, false);
    printf("a minute of a %.1f MHz board: %.3f s; with a breakpoint %.2f of its speed\n",
           b->clock / 1e6, plain, plain / broken);
    if (sim_past_open(&sim, &host_memory, &past) != BL_OK) return 1;
    double remembered = 0;
    for (int i = 0; i < 6000; i++)
        remembered += run_for(minute / 6000);
    printf("remembered: %.2f of its speed\n", plain / remembered);
    bl_target target = sim_target(&sim);
    double began = seconds();
    if (target.back(&sim, BL_BACK_STEPS, 1000000) != BL_OK) return 1;
    printf("a million instructions back: %.0f ms\n", (seconds() - began) * 1000);
    sim_past_close(past);
    project_close(p);
    bench_close(b);
    return 0;
}

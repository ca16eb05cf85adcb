/* wall.h - the wall clock of the benchmarks. */
#ifndef BOOTLACE_PERF_WALL_H
#define BOOTLACE_PERF_WALL_H

#include <time.h>

static inline double seconds(void)
{
    struct timespec t;
    timespec_get(&t, TIME_UTC);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

#endif

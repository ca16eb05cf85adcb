/* eyelet.h - what is known of Eyelet before it is asked, by the CPU that it runs on. */
#ifndef BOOTLACE_EYELET_H
#define BOOTLACE_EYELET_H

#include "bench/bench.h"

/* Nanoseconds that it takes to add one byte to a checksum, at most, at the bench's clock
 * (docs/eyelet.md). Where no Eyelet of ours runs on the CPU: as the slowest of them. */
uint32_t eyelet_sum_ns(const bench *b);

#endif

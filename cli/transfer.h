/* transfer.h - what send, check and fetch share. */
#ifndef BOOTLACE_CLI_TRANSFER_H
#define BOOTLACE_CLI_TRANSFER_H

#include "bench.h"

enum { TRANSFER_BLOCK = 128, TRANSFER_REGION = 2048 };

/* Nanoseconds that Eyelet takes to add a byte to a check-sum, at most. */
uint32_t transfer_sum_time(const bench *b);

/* --method, when it was given, instead of the bench file's. Returns an exit code, after telling. */
int transfer_method(bench *b, const char *name);

#endif

/* Assembling small sources in tests. */
#ifndef BOOTLACE_TEST_ASM_SUPPORT_H
#define BOOTLACE_TEST_ASM_SUPPORT_H

#include "harness.h"

/* 65c02, the areas zero ram (32 bytes at $0300) rom, board.lamps.data and board.clock. */
bl_asm_options options(void);

/* Assembles with options(); ends the case when it does not. */
bl_program *assemble(const char *source);
/* The same, and the image from at on must be these bytes, no more. */
void expect(const char *source, uint32_t at, const char *bytes, size_t count);
/* Must fail; each message must occur. NULL-terminated. */
void refuse(const char *source, ...);

#endif

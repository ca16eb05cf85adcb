/* where.h - addresses and ranges on the command line: numbers, symbols, areas. */
#ifndef BOOTLACE_CLI_WHERE_H
#define BOOTLACE_CLI_WHERE_H

#include "cli.h"
#include "project/places.h"

/* Reads an address, or a range, that option (or NULL for an operand) was given. p may be NULL:
 * only numbers. Where it holds names and p->w knows nothing, the bench's pieces are assembled for
 * them. Return exit codes, faults told. */
int where_address(const places *p, const char *option, const char *text, uint32_t *address);
int where_range(const places *p, const char *option, const char *text, bl_range *range);
/* A plain number up to a limit. */
int where_number(const char *option, const char *text, uint32_t limit, uint32_t *value);

#endif

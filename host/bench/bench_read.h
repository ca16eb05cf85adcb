/* bench_read.h - between the files that read a bench file. */
#ifndef BOOTLACE_HOST_BENCH_READ_H
#define BOOTLACE_HOST_BENCH_READ_H

#include <glib.h>
#include <string.h>

#include "bench.h"
#include "bench_file.h"
#include "bootlace/quantity.h"
#include "yaml_lines.h"

typedef struct reader {
    bench *b;
    const bench_hardware *hardware;
    yaml_file yaml;
    file_bench *file;
    const bl_sink *sink;
    GArray *definitions;
} reader;

static inline bl_text bench_text(const char *s)
{
    return (bl_text){s, strlen(s)};
}

/* Each reads one value; false after reporting at the node. */
bool bench_number(reader *r, yaml_node_t *node, const char *text, uint32_t max, uint32_t *value);
bool bench_range(reader *r, yaml_node_t *node, const char *text, bl_range *value);
bool bench_clock(const char *text, uint32_t *hertz); /* 1 Hz to 100 MHz; reports nothing */
bool bench_identifier(reader *r, yaml_node_t *node, const char *name);

/* A number with a unit, "12.5 V" (quantity.h). usual: what is meant when none stands there. False
 * when it is none, or not from least to most. */
typedef struct bench_measure {
    bl_measure measure;
    const char *usual;
} bench_measure;
extern const bench_measure bench_cycles; /* nanoseconds; microseconds are usual */
extern const bench_measure bench_delays; /* nanoseconds */
extern const bench_measure bench_volts;  /* millivolts; volts are usual */
bool bench_quantity(reader *r, yaml_node_t *node, const char *text, const bench_measure *measure,
                    uint64_t min, uint64_t max, uint64_t *value);

/* Millivolts as tenths of a volt. */
static inline uint8_t bench_tenths(uint64_t millivolts)
{
    return (uint8_t)((millivolts + 50) / 100);
}

/* The same for ranges that the CPU itself must be able to see. */
bool bench_seen_range(reader *r, yaml_node_t *node, const char *text, bl_range *value);
/* A symbol for sources; the name is taken over. */
void bench_define(reader *r, char *name, int64_t value);
/* Reads a dialogue file beside the bench file; faults told at the node. To be freed with g_free. */
bl_dialogue *bench_take_dialogue(reader *r, yaml_node_t *node, const char *file);

/* The CPU's interrupt line of a name; BENCH_NO_REQUEST. "irq, nmi, ", for g_free. */
uint8_t bench_request(reader *r, const char *name);
char *bench_request_list(reader *r);

/* ---- sections ---- */
void bench_take_defines(reader *r);
void bench_take_banks(reader *r); /* before the areas: they may lie beyond the CPU's addresses */
void bench_take_rules(reader *r); /* after them */
void bench_take_devices(reader *r);
void bench_take_wires(reader *r);
/* After the wires: where each device with a clock of its own has it from. */
void bench_take_clocks(reader *r);
void bench_take_link(reader *r);
void bench_take_parts(reader *r);
void bench_take_chips(reader *r);
void bench_check_rom(reader *r);
void bench_take_tape(reader *r);
void bench_take_disk(reader *r);

#endif

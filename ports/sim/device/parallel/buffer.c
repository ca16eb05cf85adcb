/* buffer.c - inputs as they are now. */
#include "buffer.h"

#include "lines.h"

static const char *const pins[] = {"d0", "d1", "d2", "d3", "d4", "d5", "d6", "d7", NULL};
static const bl_device_port ports[] = {{.pin = 0, .width = 8, .data = 0}, {0}};

static void begin_buffer(sim_device *d, bool power)
{
    (void)d, (void)power;
}

static uint8_t read_buffer(sim_device *d, uint64_t now, unsigned reg)
{
    (void)now, (void)reg;
    return sim_lines_read(d, 0);
}

static const sim_device_field fields[] = {{0}};

const sim_device_kind sim_buffer_kind = {
    .about = {.name = "buffer",
              .what = "eight inputs, read only",
              .registers = {"data"},
              .pins = pins,
              .ports = ports},
    .group = "buffer",
    .begin = begin_buffer,
    .read = read_buffer,
    .fields = fields,
};

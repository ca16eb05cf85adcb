/* line_trace.h - every byte of a line both ways, with times, written to a file; what frames and
 * XMODEM blocks mean stands beside them. docs/trace.md has the format. */
#ifndef BOOTLACE_HOST_LINE_TRACE_H
#define BOOTLACE_HOST_LINE_TRACE_H

#include "bootlace/diag.h"

typedef enum trace_protocol {
    TRACE_RAW,    /* nothing is known, or it is text */
    TRACE_FRAMES, /* docs/link.md */
    TRACE_XMODEM,
} trace_protocol;

typedef struct line_trace line_trace;

/* path "-" is standard output. line and baud are for the heading. BL_E_IO, told: it cannot be
 * written. */
bl_status line_trace_open(const char *path, const char *line, uint32_t baud,
                          trace_protocol protocol, const bl_sink *sink, line_trace **trace);
/* Bytes that passed at a moment, in microseconds: sent by the PC, or come from the remote. */
void line_trace_passed(line_trace *trace, bool sent, const uint8_t *bytes, size_t count,
                       uint64_t now);
/* BL_E_IO, told: not all of it could be written. NULL is fine. */
bl_status line_trace_close(line_trace *trace, const bl_sink *sink);

#endif

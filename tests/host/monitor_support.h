/* A monitor that is asked line by line. */
#ifndef BOOTLACE_TEST_MONITOR_SUPPORT_H
#define BOOTLACE_TEST_MONITOR_SUPPORT_H

#include "harness.h"
#include "monitor/monitor.h"

extern monitor *m;
extern GString *out, *said; /* what the last line was answered with, and told */

void begin_asking(const bench *b, const bl_target *target);
void end_asking(void);
/* Obeys a line, which must be good; its answer. */
const char *ask(const char *line);
#define ask(...) TEST_VALUE(ask(__VA_ARGS__))
/* A line that must fail; what is said of it. */
const char *refused(const char *line);
#define refused(...) TEST_VALUE(refused(__VA_ARGS__))

#endif

/* A project in the case's folder: the shipped example, or a tiny one. */
#ifndef BOOTLACE_TEST_CLI_SUPPORT_H
#define BOOTLACE_TEST_CLI_SUPPORT_H

#include "harness.h"

/* Copies examples/skerry-65 into the case's folder. */
void copy_example(void); /* skerry-65 */
void copy_example_named(const char *name);
/* Replaces text in a file of the folder; ends the case when it does not occur. */
void edit(const char *name, const char *old, const char *fresh);
/* Runs a line, and its exit code must be this; both outputs are shown when not. */
test_run expect_code(int code, const char *line, ...) __attribute__((format(printf, 2, 3)));
/* How many regular files the folder holds. */
unsigned count_files(void);

#endif

/* A bench with Eyelet in its ROM, made in the case's folder. */
#ifndef BOOTLACE_TEST_HOST_SUPPORT_H
#define BOOTLACE_TEST_HOST_SUPPORT_H

#include "harness.h"
#include "project/project.h"
#include "simulation/simulation.h"

/* Copies the example's files into the folder and opens its bench file. */
bench *example_bench_named(const char *folder);
bench *example_bench(void); /* skerry-65 */
/* The same with a text in the bench file for another, pairs of them up to a NULL. */
bench *example_bench_changed(const char *folder, const char *const *changes);
/* The board of a bench, its chips as they are built, switched on and greeted. *p is built for the
 * chips; both are to be closed. */
simulation *example_board(const bench *b, project **p);

#endif

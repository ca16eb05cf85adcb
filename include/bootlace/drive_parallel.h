/* drive_parallel.h - drives rows over a parallel port (parallel.h, docs/parallel.md). */
#ifndef BOOTLACE_DRIVE_PARALLEL_H
#define BOOTLACE_DRIVE_PARALLEL_H

#include "parallel.h"
#include "port.h"
#include "transfer.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Rows over a parallel port, until their status is settled. */
bl_status bl_drive_rows(const bl_parallel *port, bl_rows *rows);
/* A whole transfer so: everything is written, and proved by Grommet's sums. BL_E_UNSUPPORTED: it
 * cannot be read, nor compared. */
bl_status bl_drive_parallel(const bl_parallel *port, bl_transfer *job);

#ifdef __cplusplus
}
#endif
#endif

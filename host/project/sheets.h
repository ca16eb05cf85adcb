/* sheets.h - instruction sheets by CPU name, or from a file of the user's. */
#ifndef BOOTLACE_HOST_SHEETS_H
#define BOOTLACE_HOST_SHEETS_H

#include "bootlace/sheet.h"

/* cpu: a name that bl_sheet_open knows, or the path of a file that ends with ".sheet", relative to
 * folder (may be NULL). Such a sheet may take shipped ones, and files beside it. Faults are
 * reported. BL_E_NOT_FOUND, BL_E_IO, BL_E_SYNTAX, BL_E_MEMORY. */
bl_status host_sheet_open(const char *cpu, const char *folder, const bl_sink *sink,
                          bl_sheet **sheet);

#endif

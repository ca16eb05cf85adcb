/* simulation_files.h - between simulation.c and the files of its state folder. docs/board.md. */
#ifndef BOOTLACE_SIMULATION_FILES_H
#define BOOTLACE_SIMULATION_FILES_H

#include "simulation.h"

/* The path of a file of the state folder; free with g_free. */
char *simulation_path(const simulation *s, const char *name, const char *ending);
/* What the file of the copy in the programmer is called; free with g_free. */
char *simulation_copy_name(const simulation *s);
/* *cells: what the chip of this name holds, for g_free; blank when there is no file. BL_E_IO,
 * BL_E_SYNTAX, BL_E_MEMORY; reported. */
bl_status simulation_load_chip(simulation *s, const bl_chip *chip, const char *name,
                               uint8_t **cells, const bl_sink *sink);
/* The board as it was left, if it was left switched on. BL_E_IO, BL_E_SYNTAX; reported. */
bl_status simulation_load_board(simulation *s, const bl_sink *sink);

/* ---- the disk (simulation_disk.c) ---- */

/* Opens disk.img, if the board has a drive and there is one, and puts it in; with the faults that
 * the drive has. Reported. */
bl_status simulation_load_disk(simulation *s, const bl_sink *sink);

#endif

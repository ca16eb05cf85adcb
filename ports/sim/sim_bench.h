/* sim_bench.h - the whole simulated bench: a board and a programmer, each behind a serial line,
 * sharing their chips. Virtual time passes only in wait and sim_bench_run.
 */
#ifndef BOOTLACE_SIM_BENCH_H
#define BOOTLACE_SIM_BENCH_H

#include "board.h"
#include "bootlace/port.h"
#include "sim/neighbour/monitor.h"
#include "sim/programmer/socket.h"

typedef struct sim_line {
    struct sim_bench *bench;
    sim_wire to_pc, from_pc;
    sim_line_faults faults;
} sim_line;

typedef struct sim_bench {
    uint64_t now; /* nanoseconds */
    bool powered;
    sim_socket socket;
    sim_line board_line, socket_line;
    const sim_monitor_kind *neighbour; /* whose monitor is in the board's ROM; NULL: nobody's */
    sim_monitor monitor;
    bl_stop stop;          /* BL_STOP_NOT, or why the CPU stands while time passes (sim_target.h) */
    bool stands;           /* the CPU is none that is simulated: programs do not run */
    struct sim_past *past; /* what is remembered of it (sim_past.h); or NULL */
    sim_part parts[SIM_CHIPS];
    sim_chance chance;
    sim_board board; /* the last member, as its memory is of it */
} sim_bench;

/* The board must then be completed with sim_board_add. cells[i] holds the contents of chips[i]. */
void sim_bench_begin(sim_bench *s, const sim_cpu_kind *kind, uint32_t clock, const bl_area *areas,
                     size_t area_count, const bl_chip *chips, uint8_t **cells, size_t chip_count,
                     uint32_t board_baud, uint32_t socket_baud, uint64_t seed);
/* Puts a chip into the programmer's socket. */
void sim_bench_insert(sim_bench *s, size_t chip);
void sim_bench_power_on(sim_bench *s);
/* Pulls the reset line of a board that is on: RAM and latches stay. */
void sim_bench_reset(sim_bench *s);
/* The neighbour's monitor comes up, on a board that is on. */
void sim_bench_neighbour(sim_bench *s);
/* Lets time pass until a moment, or until the CPU stops. How it is then. */
bl_stop sim_bench_run(sim_bench *s, uint64_t until);
/* One instruction of a board that is on; the CPU stands before and after it. */
void sim_bench_step(sim_bench *s);

/* The other end of the board's 8-bit port. */
bl_parallel sim_parallel_port(sim_bench *s);
/* The PC's end of a line, as a port. */
bl_serial sim_line_port(sim_line *line);
/* The PC holds the line low for some nanoseconds, a character's time at least. BL_E_RANGE: too much
 * is under way. */
bl_status sim_line_break(sim_line *line, uint64_t length);

#endif

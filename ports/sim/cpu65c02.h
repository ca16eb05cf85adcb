/* cpu65c02.h - the CMOS 65C02 with bit instructions, WAI and STP.
 *
 * Source: the makers' data sheets for the instructions and cycle counts; opcodes that the data
 * sheet lists as reserved are no-operations of the documented length and time. Accesses of an
 * instruction happen at its start; the reads that the real part makes and throws away are not made.
 */
#ifndef BOOTLACE_SIM_CPU65C02_H
#define BOOTLACE_SIM_CPU65C02_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* What the CPU sees of the board. A page with memory behind it has a pointer; all else is asked
 * for. */
typedef struct sim_bus {
    const uint8_t *read_page[256];
    uint8_t *write_page[256];
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    void (*write)(void *context, uint16_t address, uint8_t value);
} sim_bus;

enum {
    SIM_FLAG_C = 0x01,
    SIM_FLAG_Z = 0x02,
    SIM_FLAG_I = 0x04,
    SIM_FLAG_D = 0x08,
    SIM_FLAG_B = 0x10,
    SIM_FLAG_ONE = 0x20,
    SIM_FLAG_V = 0x40,
    SIM_FLAG_N = 0x80,
};

typedef struct sim_65c02 {
    sim_bus *bus;
    uint64_t cycles; /* since power-on */
    uint16_t pc;
    uint8_t a, x, y, s, p;
    bool irq;      /* level, true: requested */
    bool nmi;      /* set by an edge, cleared when taken */
    bool waiting;  /* after WAI */
    bool stopped;  /* after STP: only reset helps */
    uint8_t extra; /* cycles that the current instruction takes more */
} sim_65c02;

/* What the reset line does: seven cycles, then on from the reset vector. */
void sim_65c02_reset(sim_65c02 *c);
/* One instruction, or one interrupt, or one idle cycle. */
void sim_65c02_step(sim_65c02 *c);
/* Runs until at least so many cycles have passed since power-on. */
void sim_65c02_run(sim_65c02 *c, uint64_t cycles);

#endif

/* ez80_state.h - between cpuez80.c, ez80_bus.c and ez80_extended.c: an instruction that is
 * executed. */
#ifndef BOOTLACE_SIM_EZ80_STATE_H
#define BOOTLACE_SIM_EZ80_STATE_H

#include "cpuez80.h"

enum { EZ_C = 0x01, EZ_N = 0x02, EZ_P = 0x04, EZ_H = 0x10, EZ_Z = 0x40, EZ_S = 0x80 };

typedef struct ez80_run {
    sim_ez80 *c;
    bool wide;      /* registers and addresses of data have 24 bits */
    bool wide_code; /* and values in the code */
    bool suffix;    /* that was said by a suffix */
    uint8_t index;  /* 1: IX, 2: IY in the place of HL */
    uint32_t start; /* where it begins, for blocks that repeat */
    bool has_distance;
    uint8_t distance;
} ez80_run;

/* A distance in the code, to be added. */
static inline uint32_t ez80_distance(uint8_t v)
{
    return (v ^ 0x80u) - 0x80u;
}

static inline uint8_t ez80_low(uint32_t v)
{
    return (uint8_t)v;
}

static inline uint8_t ez80_high(uint32_t v)
{
    return (uint8_t)(v >> 8);
}

static inline void ez80_set_low(uint32_t *v, uint8_t b)
{
    *v = (*v & 0xFFFF00) | b;
}

static inline void ez80_set_high(uint32_t *v, uint8_t b)
{
    *v = (*v & 0xFF00FF) | (uint32_t)b << 8;
}

uint8_t ez80_read(sim_ez80 *c, uint32_t address);
void ez80_write(sim_ez80 *c, uint32_t address, uint8_t value);
uint8_t ez80_in(ez80_run *x, uint32_t port);
void ez80_out(ez80_run *x, uint32_t port, uint8_t v);
uint32_t ez80_immediate(ez80_run *x);
uint32_t ez80_place(const ez80_run *x, uint32_t address);
uint32_t ez80_narrow(const ez80_run *x, uint32_t v);
uint8_t ez80_load(ez80_run *x, uint32_t address);
void ez80_store(ez80_run *x, uint32_t address, uint8_t v);
uint32_t ez80_load_word(ez80_run *x, uint32_t address);
void ez80_store_word(ez80_run *x, uint32_t address, uint32_t v);
void ez80_push(ez80_run *x, uint32_t v);
uint32_t ez80_pop(ez80_run *x);
void ez80_return(ez80_run *x);
void ez80_call(ez80_run *x, uint32_t address);
void ez80_far_call(sim_ez80 *c, uint32_t address, bool to);
void ez80_near_call(sim_ez80 *c, uint32_t address);
void ez80_jump(sim_ez80 *c, uint32_t address);
uint8_t ez80_next_byte(ez80_run *x);
void ez80_restart(ez80_run *x, uint32_t address);
uint32_t *ez80_hl(ez80_run *x);
uint32_t ez80_pointer(ez80_run *x);
uint8_t ez80_get(ez80_run *x, unsigned r, bool plain);
void ez80_set(ez80_run *x, unsigned r, uint8_t v, bool plain);
uint32_t ez80_pair(ez80_run *x, unsigned p);
void ez80_set_pair(ez80_run *x, unsigned p, uint32_t v);
uint8_t ez80_sz(uint8_t v);
uint8_t ez80_szp(uint8_t v);
uint8_t ez80_subtract(sim_ez80 *c, unsigned a, unsigned v, unsigned borrow);

/* The page of $ED. */
void ez80_extended(ez80_run *x);

#endif

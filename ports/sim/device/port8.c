/* port8.c - latching at the strobe. */
#include "port8.h"

void sim_port8_strobe(sim_port8 *p, bool up)
{
    if (up && !p->strobe && !p->full) {
        p->latch = p->lines & (uint8_t)~p->stuck;
        p->full = true;
    }
    p->strobe = up;
}

uint8_t sim_port8_read(sim_port8 *p, unsigned reg)
{
    if (reg == SIM_PORT8_CONTROL) return (uint8_t)(p->full << 7 | p->wake);
    p->full = false;
    return p->latch;
}

void sim_port8_write(sim_port8 *p, unsigned reg, uint8_t value)
{
    if (reg == SIM_PORT8_CONTROL) p->wake = value & 1;
}

bool sim_port8_irq(const sim_port8 *p)
{
    return p->full && p->wake;
}

/* eprom.c - pulses, margin, and what light does. */
#include "sim_part.h"

/* How many pulses a cell needs: most one, some two or three. Parts that get one long pulse need
 * one.
 */
static uint32_t pulses_needed(const sim_part *e, uint32_t address)
{
    if (e->part->pulses == 1) return 1 + e->faults.tired;
    return 1 + (address * 2654435761u >> 28) / 6 + e->faults.tired;
}

static size_t find_thin(const sim_part *e, uint32_t address)
{
    size_t i = 0;
    while (i < e->thin_count && e->thin[i] != address)
        i++;
    return i;
}

static bool near_vpp(const sim_part *e)
{
    int off = (int)e->vpp - (int)e->part->vpp;
    return off >= -5 && off <= 5;
}

/* A pulse of the full length moves some charge; a fifth of one does nothing. The last, longer pulse
 * gives the cell its margin. */
void sim_eprom_strobe(sim_part *e, uint64_t nanoseconds)
{
    uint64_t pulse = (uint64_t)e->part->cycle_us * 950;
    uint32_t address = e->address & (e->part->size - 1);
    if (!near_vpp(e) || nanoseconds < pulse) return;
    if (e->pulsed != address || e->last_byte != e->data) e->pulse_ns = 0;
    e->pulsed = address;
    e->last_byte = e->data;
    e->cycles++;
    uint64_t before = e->pulse_ns, needed = pulse * pulses_needed(e, address);
    e->pulse_ns += nanoseconds;
    size_t thin = find_thin(e, address);
    if (before < needed && e->pulse_ns >= needed) {
        bool falls = (e->cells[address] & ~e->data) != 0;
        e->cells[address] &= e->data;
        if (falls && e->part->over > 0 && thin == e->thin_count && thin < SIM_THIN_MAX)
            e->thin[e->thin_count++] = address;
    } else if (thin < e->thin_count && nanoseconds >= before / 100 * 95 * e->part->over) {
        e->thin[thin] = e->thin[--e->thin_count];
    }
}

/* At a high supply a cell without margin reads as if it were not written; at the supply for
 * programming, where each pulse is verified, the part's own reference is raised too. */
uint8_t sim_eprom_cell(const sim_part *e, uint32_t address)
{
    if (e->vcc > 52 && e->vcc < 58 && e->vpp == 0 && find_thin(e, address) < e->thin_count)
        return 0xFF;
    return e->cells[address];
}

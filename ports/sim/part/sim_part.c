/* sim_part.c - pins, supplies and cells that all kinds of part have. */
#include "sim_part.h"

#include <string.h>

void sim_part_begin(sim_part *e, const bl_part *part, uint8_t *cells)
{
    memset(e, 0, sizeof *e);
    e->part = part;
    e->cells = cells;
    e->vcc = 50;
    e->pulsed = UINT32_MAX;
}

void sim_part_update(sim_part *e, uint64_t now)
{
    if (e->part->algorithm == BL_ALGORITHM_COMMAND)
        sim_flash_update(e, now);
    else if (e->part->algorithm != BL_ALGORITHM_PULSE)
        sim_eeprom_update(e, now);
}

void sim_part_pins(sim_part *e, uint64_t now, bool chip, bool output, bool write)
{
    sim_part_update(e, now);
    bool was_writing = e->chip && e->write && !e->output, writes = chip && write && !output;
    if (writes && !was_writing) e->write_from = now;
    e->chip = chip;
    e->output = output;
    e->write = write;
    if (!was_writing || writes || !e->driven || e->faults.write_blocked || e->destroyed) return;
    if (e->part->algorithm == BL_ALGORITHM_PULSE)
        sim_eprom_strobe(e, now - e->write_from);
    else if (e->part->algorithm == BL_ALGORITHM_COMMAND)
        sim_flash_strobe(e, now);
    else
        sim_eeprom_strobe(e, now);
}

void sim_part_supply(sim_part *e, uint64_t now, uint8_t vcc, uint8_t vpp)
{
    sim_part_update(e, now);
    e->vcc = vcc;
    e->vpp = vpp;
    /* A volt over the rating, or over the absolute maximum of a part without such a pin. */
    uint8_t max = e->part->algorithm == BL_ALGORITHM_PULSE ? e->part->vpp : 60;
    if (vpp > max + 10 || vcc > 70) e->destroyed = true;
}

static uint8_t read_cell(const sim_part *e, uint32_t address)
{
    uint8_t value =
        e->part->algorithm == BL_ALGORITHM_PULSE ? sim_eprom_cell(e, address) : e->cells[address];
    for (size_t i = 0; i < e->faults.stuck_count; i++) {
        const sim_stuck *s = &e->faults.stuck[i];
        if (s->address != address) continue;
        value = (uint8_t)(s->high ? value | 1u << s->bit : value & ~(1u << s->bit));
    }
    return value;
}

uint8_t sim_part_sense(sim_part *e, uint64_t now)
{
    sim_part_update(e, now);
    if (!e->chip || !e->output || e->write || e->destroyed) return 0xFF;
    if (!e->loading && !e->programming) return read_cell(e, e->address & (e->part->size - 1));
    if (e->part->algorithm == BL_ALGORITHM_BYTE) /* these have no toggle bit */
        return (uint8_t)((~e->last_byte & 0x80) | (e->last_byte & 0x7F));
    e->toggle ^= 0x40;
    return (uint8_t)((~e->last_byte & 0x80) | e->toggle | (e->last_byte & 0x3F));
}

bool sim_step_is(const sim_part *e, const sim_step *s)
{
    uint32_t mask = (e->part->size - 1) & 0x7FFF;
    return (e->address & mask) == (s->address & mask) && e->data == s->data;
}

/* What a write cycle was doing stays half done: each cell of the page is by chance old, new, or
 * something between. */
void sim_part_power_cut(sim_part *e, uint64_t now, sim_chance *chance)
{
    sim_part_update(e, now);
    bool busy = e->programming || e->loading;
    uint32_t first = e->page_address, count = e->erasing ? e->part->sector : e->part->page;
    if (busy && first < e->part->size)
        for (uint32_t i = 0; i < count && first + i < e->part->size; i++) {
            uint8_t *at = &e->cells[first + i], noise = (uint8_t)sim_chance_next(chance);
            if (e->erasing)
                *at |= noise; /* some bits have risen already */
            else if (e->loaded[i])
                *at = (uint8_t)((*at & noise) | (e->page[i] & ~noise));
        }
    e->loading = e->programming = e->erasing = e->armed = false;
    e->chip = e->output = e->write = e->driven = false;
    e->unlock = 0;
    e->pulsed = UINT32_MAX;
    e->vcc = 50;
    e->vpp = 0;
    memset(e->loaded, 0, sizeof e->loaded);
}

bool sim_part_ultraviolet(sim_part *e)
{
    if (e->part->algorithm != BL_ALGORITHM_PULSE) return false;
    memset(e->cells, 0xFF, e->part->size);
    e->thin_count = 0;
    return true;
}

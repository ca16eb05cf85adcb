/* eeprom.c - page load window, write cycle, polling, protection. */
#include "eeprom.h"

#include <string.h>

enum { USUAL_CYCLE_US = 6000 };

void sim_eeprom_begin(sim_eeprom *e, const bl_part *part, uint8_t *cells)
{
    memset(e, 0, sizeof *e);
    e->part = part;
    e->cells = cells;
}

static void commit(sim_eeprom *e)
{
    for (uint32_t i = 0; i < e->part->page; i++)
        if (e->loaded[i]) e->cells[e->page_address + i] = e->page[i];
    memset(e->loaded, 0, sizeof e->loaded);
}

void sim_eeprom_update(sim_eeprom *e, uint64_t now)
{
    uint64_t window = (uint64_t)e->part->window_us * 1000;
    if (e->loading && now > e->last_load + window) {
        uint32_t cycle = e->faults.cycle_us != 0 ? e->faults.cycle_us : USUAL_CYCLE_US;
        e->loading = false;
        e->programming = true;
        e->busy_until = e->last_load + window + (uint64_t)cycle * 1000;
        /* Without the key a protected part goes through its cycle and stores nothing. */
        if (e->protect && !e->armed) memset(e->loaded, 0, sizeof e->loaded);
        e->armed = false;
        e->unlock = 0;
    }
    if (e->programming && now >= e->busy_until) {
        e->programming = false;
        e->cycles++;
        commit(e);
    }
}

typedef struct step {
    uint16_t address;
    uint8_t data;
} step;

/* Follows the command sequences. True when the byte completed one: the bytes of it are not stored.
 */
static bool command(sim_eeprom *e, uint32_t address, uint8_t data)
{
    static const step steps[] = {{0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x80},
                                 {0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x20}};
    uint32_t mask = e->part->size - 1;
    if (e->unlock == 2 && address == (0x5555 & mask) && data == 0xA0) {
        e->unlock = 0;
        e->armed = e->protect = true;
        return true;
    }
    const step *s = &steps[e->unlock];
    if (address != (s->address & mask) || data != s->data) {
        e->unlock = address == (0x5555 & mask) && data == 0xAA ? 1 : 0;
        return false;
    }
    if (++e->unlock < 6) return false;
    e->unlock = 0;
    e->protect = false;
    return true;
}

static void load(sim_eeprom *e, uint64_t now)
{
    if (e->faults.write_blocked || e->programming) return;
    uint32_t address = e->address & (e->part->size - 1), page = e->part->page;
    if (!e->loading) e->page_address = address & ~(page - 1);
    e->loading = true;
    e->last_load = now;
    e->last_byte = e->data;
    if (command(e, address, e->data)) {
        memset(e->loaded, 0, sizeof e->loaded);
        e->page_address = UINT32_MAX; /* the page follows */
        return;
    }
    if (e->page_address == UINT32_MAX) e->page_address = address & ~(page - 1);
    e->page[address & (page - 1)] = e->data;
    e->loaded[address & (page - 1)] = true;
}

void sim_eeprom_pins(sim_eeprom *e, uint64_t now, bool chip, bool output, bool write)
{
    sim_eeprom_update(e, now);
    bool was_writing = e->chip && e->write && !e->output;
    e->chip = chip;
    e->output = output;
    e->write = write;
    if (was_writing && !(chip && write) && e->driven) load(e, now);
}

static uint8_t cell(const sim_eeprom *e, uint32_t address)
{
    uint8_t value = e->cells[address];
    for (size_t i = 0; i < e->faults.stuck_count; i++) {
        const sim_stuck *s = &e->faults.stuck[i];
        if (s->address != address) continue;
        value = (uint8_t)(s->high ? value | 1u << s->bit : value & ~(1u << s->bit));
    }
    return value;
}

uint8_t sim_eeprom_sense(sim_eeprom *e, uint64_t now)
{
    sim_eeprom_update(e, now);
    if (!e->chip || !e->output || e->write) return 0xFF; /* the socket's pull-ups */
    if (!e->loading && !e->programming) return cell(e, e->address & (e->part->size - 1));
    e->toggle ^= 0x40;
    return (uint8_t)((~e->last_byte & 0x80) | e->toggle | (e->last_byte & 0x3F));
}

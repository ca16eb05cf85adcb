/* eeprom.c - page load window, write cycle, protection. */
#include <string.h>

#include "sim_part.h"

enum { USUAL_SHARE = 60 /* percent of the longest write cycle that one usually takes */ };

static void commit(sim_part *e)
{
    for (uint32_t i = 0; i < e->part->page; i++)
        if (e->loaded[i]) e->cells[e->page_address + i] = e->page[i];
    memset(e->loaded, 0, sizeof e->loaded);
}

/* The write cycle counts from the last byte loaded, and begins in earnest when the window closes.
 */
void sim_eeprom_update(sim_part *e, uint64_t now)
{
    uint64_t window = (uint64_t)e->part->window_us * 1000;
    if (e->loading && now > e->last_load + window) {
        uint32_t cycle =
            e->faults.cycle_us != 0 ? e->faults.cycle_us : e->part->cycle_us / 100 * USUAL_SHARE;
        e->loading = false;
        e->programming = true;
        e->busy_until = e->last_load + (uint64_t)cycle * 1000;
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

/* Follows the command sequences. True when the byte completed one: the bytes of it are not stored.
 */
static bool command(sim_part *e)
{
    static const sim_step steps[] = {{0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x80},
                                     {0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x20}};
    static const sim_step arm = {0x5555, 0xA0};
    if (!e->part->locks) return false;
    if (e->unlock == 2 && sim_step_is(e, &arm)) {
        e->unlock = 0;
        e->armed = e->protect = true;
        return true;
    }
    if (!sim_step_is(e, &steps[e->unlock])) {
        e->unlock = sim_step_is(e, &steps[0]) ? 1 : 0;
        return false;
    }
    if (++e->unlock < 6) return false;
    e->unlock = 0;
    e->protect = false;
    return true;
}

void sim_eeprom_strobe(sim_part *e, uint64_t now)
{
    if (e->programming) return;
    uint32_t page = e->part->algorithm == BL_ALGORITHM_BYTE ? 1 : e->part->page;
    uint32_t address = e->address & (e->part->size - 1);
    if (!e->loading) e->page_address = address & ~(page - 1);
    e->loading = true;
    e->last_load = now;
    e->last_byte = e->data;
    if (command(e)) {
        memset(e->loaded, 0, sizeof e->loaded);
        e->page_address = UINT32_MAX; /* the page follows */
        return;
    }
    if (e->page_address == UINT32_MAX) e->page_address = address & ~(page - 1);
    e->page[address & (page - 1)] = e->data;
    e->loaded[address & (page - 1)] = true;
}

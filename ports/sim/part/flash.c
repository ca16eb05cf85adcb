/* flash.c - command sequences, byte program, sector erase. */
#include <string.h>

#include "sim_part.h"

enum { USUAL_SHARE = 70 };

static uint64_t usual(const sim_part *e, uint32_t longest_us)
{
    return (uint64_t)(e->faults.cycle_us != 0 ? e->faults.cycle_us * 1000u
                                              : longest_us * 10 * USUAL_SHARE);
}

static void busy(sim_part *e, uint64_t now, uint32_t longest_us, uint8_t shown)
{
    e->programming = true;
    e->busy_until = now + usual(e, longest_us);
    e->last_byte = shown;
}

void sim_flash_update(sim_part *e, uint64_t now)
{
    if (!e->programming || now < e->busy_until) return;
    if (e->erasing)
        memset(e->cells + e->page_address, 0xFF, e->part->sector);
    else
        e->cells[e->page_address] &= e->page[0];
    e->programming = e->erasing = e->loaded[0] = false;
    e->cycles++;
}

/* Two key bytes, then A0 and a byte to program, or 80, two key bytes and 30 in a sector. */
void sim_flash_strobe(sim_part *e, uint64_t now)
{
    static const sim_step keys[] = {
        {0x5555, 0xAA}, {0x2AAA, 0x55}, {0x5555, 0x80}, {0x5555, 0xAA}, {0x2AAA, 0x55}};
    static const sim_step program = {0x5555, 0xA0};
    uint32_t address = e->address & (e->part->size - 1);
    if (e->programming) return;
    if (e->armed) {
        e->armed = false;
        e->page_address = address;
        e->page[0] = e->data;
        e->loaded[0] = true;
        busy(e, now, e->part->cycle_us, e->data);
    } else if (e->unlock == 5 && e->data == 0x30) {
        e->unlock = 0;
        e->erasing = true;
        e->page_address = address & ~(e->part->sector - 1);
        busy(e, now, e->part->erase_us, 0xFF);
    } else if (e->unlock == 2 && sim_step_is(e, &program)) {
        e->unlock = 0;
        e->armed = true;
    } else if (e->unlock < 5 && sim_step_is(e, &keys[e->unlock])) {
        e->unlock++;
    } else {
        e->unlock = sim_step_is(e, &keys[0]) ? 1 : 0;
    }
}

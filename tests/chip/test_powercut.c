/* The current fails anywhere in a run: the next run makes it good, and what was reported is right.
 */
#include "chip_support.h"

#include <string.h>

/* Small parts, so that every step can be tried. */
static bl_part small(const char *like)
{
    bl_part p = *bl_part_named((bl_text){like, strlen(like)});
    p.size = 1024;
    if (p.sector > 0) p.sector = 256;
    if (p.page > 64) p.page = 64;
    if (p.algorithm == BL_ALGORITHM_PULSE || p.algorithm == BL_ALGORITHM_BYTE)
        p.cycle_us = 100; /* quick */
    return p;
}

/* Contents as a run may find and want them; what a part can be made to hold. */
static void prepare(const bl_part *p)
{
    for (uint32_t i = 0; i < p->size; i++) {
        cells[i] =
            (uint8_t)(i % 3 == 0 || p->algorithm == BL_ALGORITHM_PULSE ? 0xFF : test_random());
        wanted[i] = (uint8_t)(i < 700 ? test_random() : 0xFF);
    }
}

static void cut_everywhere(const char *like, uint64_t first_step)
{
    bl_part p = small(like);
    uint64_t at = first_step, cuts = 0;
    for (;; at += 97) {
        test_seed(7);
        prepare(&p);
        bed_power_on(&p, at);
        bench.socket.cut_after = at;
        bl_status status = bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE);
        CHECK(status == BL_OK || status == BL_E_TIMEOUT || status == BL_E_DIFFERS);
        if (status == BL_OK) CHECK_BYTES(cells, p.size, wanted, p.size);
        if (!bench.socket.dead) break; /* this run needed no more steps than that */
        cuts++;
        bed_power_on(&p, at);
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
        CHECK_BYTES(cells, p.size, wanted, p.size);
    }
    CHECK(cuts > 100);
}

TEST(power_cut_while_pages_are_written)
{
    cut_everywhere("28C64", 1);
}

TEST(power_cut_while_bytes_are_written)
{
    cut_everywhere("28C16", 2);
}

TEST(power_cut_while_pulses_are_given)
{
    cut_everywhere("27256", 3);
}

TEST(power_cut_while_sectors_are_erased_and_written)
{
    cut_everywhere("39F010", 4);
}

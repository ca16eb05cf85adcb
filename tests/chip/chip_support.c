#include "chip_support.h"

#include <string.h>

sim_bench bench;
uint8_t cells[BED_MAX], wanted[BED_MAX];
bl_chip chip;
bl_transfer job;
bl_exchange exchange;
static uint64_t took;

void bed_power_on(const bl_part *part, uint64_t seed)
{
    static uint8_t *all[] = {cells};
    chip = (bl_chip){.name = "U5", .part = part, .fill = 0xFF};
    sim_bench_begin(&bench, &sim_65c02_kind, 2000000, NULL, 0, &chip, all, 1, 19200, 115200, seed);
    sim_bench_insert(&bench, 0);
}

void bed_blank(const bl_part *part)
{
    memset(cells, 0xFF, part->size);
    memset(wanted, 0xFF, part->size);
    bed_power_on(part, 1);
}

bl_status bed_run(bl_transfer_options o)
{
    bl_piece piece = {0, chip.part->size, wanted};
    bl_serial port = sim_line_port(&bench.socket_line);
    o.pieces = &piece;
    o.piece_count = 1;
    o.block = chip.part->page;
    o.region = chip.part->size < 4096 ? chip.part->size : 4096;
    o.part = chip.part;
    o.who = BL_WHO_PROGRAMMER;
    o.sum_ns = 5000;
    took = bench.now;
    bl_exchange_begin(&exchange, 115200);
    CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
    bl_status status = bl_drive_transfer(&port, &exchange, &job, NULL);
    bl_transfer_end(&job);
    took = bench.now - took;
    return status;
}

bl_status bed_burn(bl_goal goal, bl_protect protect)
{
    return bed_run((bl_transfer_options){.goal = goal, .protect = protect});
}

double bed_seconds(void)
{
    return (double)took / 1e9;
}

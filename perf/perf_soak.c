/* Thousands of burns with faults of line, chip, socket and current mixed by chance. Whatever is
 * reported as verified must be in the chip. Usage: perf-soak [CASES [FIRST SEED]] */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bootlace/drive_frames.h"
#include "sim/sim_bench.h"

enum { SIZE = 2048 };

static sim_bench bench;
static uint8_t cells[SIZE], wanted[SIZE], *all_cells[] = {cells};
static sim_chance chance;

static uint32_t below(uint32_t n)
{
    return (uint32_t)(sim_chance_next(&chance) % n);
}

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

/* A small part of one of the four kinds, so that many cases fit into a minute. */
static bl_part choose_part(void)
{
    static const char *const like[] = {"28C64", "28C16", "27256", "39F010"};
    const char *name = like[below(4)];
    bl_part p = *bl_part_named((bl_text){name, strlen(name)});
    p.size = SIZE;
    if (p.page > 64) p.page = 64;
    if (p.sector > 0) p.sector = 512;
    if (p.algorithm == BL_ALGORITHM_BYTE || p.algorithm == BL_ALGORITHM_PULSE) p.cycle_us = 200;
    return p;
}

static void fill(const bl_part *p)
{
    uint32_t from = below(SIZE), count = below(SIZE - from) + 1;
    for (uint32_t i = 0; i < SIZE; i++) {
        bool old = below(4) == 0 && p->algorithm != BL_ALGORITHM_PULSE;
        cells[i] = (uint8_t)(old ? below(256) : 0xFF);
        wanted[i] = (uint8_t)(i >= from && i < from + count ? below(256) : 0xFF);
    }
}

static void break_line(sim_line_faults *f)
{
    if (below(3) == 0) f->flip_one_in = 200 + below(4000);
    if (below(3) == 0) f->lose_one_in = 100 + below(2000);
    if (below(8) == 0) f->vanish_after = 1 + below(4000);
}

static void break_chip(sim_part *e)
{
    sim_part_faults *f = &e->faults;
    for (uint32_t n = below(6) == 0 ? 1 + below(3) : 0; n > 0; n--)
        f->stuck[f->stuck_count++] = (sim_stuck){below(SIZE), (uint8_t)below(8), below(2) != 0};
    if (below(8) == 0) f->cycle_us = 1 + below(30000);
    if (below(20) == 0) f->write_blocked = true;
    if (below(10) == 0) e->protect = e->part->locks;
    if (below(6) == 0) f->tired = below(30);
}

static void break_socket(sim_socket *s)
{
    sim_wiring *w = &s->wiring;
    uint32_t line = below(8), other = below(8), level = below(2);
    switch (below(16)) {
    case 0:
        w->data_stuck = (uint8_t)(1u << line);
        w->data_levels = (uint8_t)(level << line);
        break;
    case 1:
        w->address_stuck = 1u << line;
        w->address_levels = level << line;
        break;
    case 2:
        w->data_bridge[0] = (uint8_t)line;
        w->data_bridge[1] = (uint8_t)other;
        break;
    case 3: w->empty = true; break;
    case 4: s->fixed_supply = true; break;
    case 5:
    case 6: s->cut_after = 1 + below(60000); break;
    default: break;
    }
}

static bl_status burn(const bl_part *part)
{
    static const bl_memory memory = {NULL, resize};
    static bl_exchange exchange;
    bl_piece piece = {0, SIZE, wanted};
    bl_transfer job;
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = part->page,
                             .region = below(2) == 0 ? SIZE : 0,
                             .who = BL_WHO_PROGRAMMER,
                             .part = part,
                             .every_block = below(8) == 0,
                             .corners = part->algorithm == BL_ALGORITHM_PULSE,
                             .twice = below(4) == 0,
                             .sum_ns = 5000};
    bl_serial port = sim_line_port(&bench.socket_line);
    bl_exchange_begin(&exchange, 115200);
    bl_status status = bl_transfer_begin(&job, &memory, &o);
    if (status == BL_OK) status = bl_drive_transfer(&port, &exchange, &job, NULL);
    bl_transfer_end(&job);
    return status;
}

/* Is what the part would give on a board what was wanted? */
static bool chip_is_right(void)
{
    sim_part *e = &bench.parts[0];
    uint64_t later = bench.now + 1000000000u;
    e->driven = false;
    sim_part_pins(e, later, true, true, false);
    for (uint32_t i = 0; i < SIZE; i++) {
        e->address = i;
        if (sim_part_sense(e, later) != wanted[i]) return false;
    }
    return true;
}

int main(int argc, char **argv)
{
    unsigned long cases = argc > 1 ? strtoul(argv[1], NULL, 10) : 10000;
    unsigned long first = argc > 2 ? strtoul(argv[2], NULL, 10) : 1;
    unsigned long good = 0, failed = 0, wrong = 0;
    for (unsigned long seed = first; seed < first + cases; seed++) {
        chance.state = seed;
        bl_part part = choose_part();
        bl_chip chip = {.name = "U5", .part = &part, .fill = 0xFF};
        fill(&part);
        sim_bench_begin(&bench, &sim_65c02_kind, 2000000, NULL, 0, &chip, all_cells, 1, 19200,
                        115200, seed);
        sim_bench_insert(&bench, 0);
        break_line(&bench.socket_line.faults);
        break_chip(&bench.parts[0]);
        break_socket(&bench.socket);
        if (burn(&part) != BL_OK) {
            failed++;
            continue;
        }
        good++;
        if (chip_is_right()) continue;
        wrong++;
        printf("seed %lu, a part like %s: reported as verified, and is not right\n", seed,
               part.name);
    }
    printf("%lu burns with faults: %lu verified, %lu reported as failed, %lu false successes\n",
           cases, good, failed, wrong);
    return wrong == 0 && good > 0 && failed > 0 ? 0 : 1;
}

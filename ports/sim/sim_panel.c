/* sim_panel.c - switches, keys and lamps. */
#include "sim_panel.h"

static void deposit_switches(sim_panel *p)
{
    p->board->bus.write(p->board, p->address, (uint8_t)p->switches);
}

static void set_switches(void *context, uint32_t switches)
{
    sim_panel *p = context;
    p->switches = switches;
}

/* The CPU has run on: its counter is what the lamps show. */
static void show_counter(sim_panel *p)
{
    p->address = p->board->cpu.pc;
}

static void start_at(sim_panel *p)
{
    p->board->cpu.pc = p->address;
    p->board->cpu.rest = false;
}

/* Keys do nothing while the CPU runs, but stop. */
static void press_sim_key(void *context, bl_panel_key key)
{
    sim_panel *p = context;
    if (p->running && key != BL_KEY_STOP) return;
    switch (key) {
    case BL_KEY_EXAMINE: p->address = (uint16_t)p->switches; break;
    case BL_KEY_EXAMINE_NEXT: p->address++; break;
    case BL_KEY_DEPOSIT_NEXT: p->address++; /* fall through */
    case BL_KEY_DEPOSIT: deposit_switches(p); break;
    case BL_KEY_RUN:
        start_at(p);
        p->running = true;
        break;
    case BL_KEY_STOP:
        if (p->running) show_counter(p);
        p->running = false;
        break;
    case BL_KEY_STEP:
        start_at(p);
        sim_board_step(p->board);
        show_counter(p);
        break;
    }
}

static bl_panel_lamps lamps(void *context)
{
    const sim_panel *p = context;
    return (bl_panel_lamps){p->address, sim_board_peek(p->board, p->address), p->running};
}

void sim_panel_begin(sim_panel *p, sim_board *board)
{
    *p = (sim_panel){.board = board};
}

bl_front_panel sim_panel_port(sim_panel *p)
{
    return (bl_front_panel){
        .context = p, .set = set_switches, .press = press_sim_key, .lamps = lamps};
}

void sim_panel_pass(sim_panel *p, uint64_t until)
{
    if (p->running)
        sim_board_run(p->board, until);
    else
        sim_board_stand(p->board, until);
}

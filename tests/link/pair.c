#include "pair.h"

void pair_begin(pair *p, uint32_t baud, uint64_t seed, uint32_t flip_one_in, uint32_t lose_one_in)
{
    *p = (pair){.now = 1000};
    p->faults =
        (sim_line_faults){.flip_one_in = flip_one_in, .lose_one_in = lose_one_in, .chance = {seed}};
    for (int i = 0; i < 2; i++)
        sim_wire_begin(&p->to[i], baud, &p->faults);
}

/* What one end has to say, and what it hears. */
static void serve(pair *p, int i)
{
    uint8_t byte;
    while (bl_transport_output(p->end[i], &byte, 1, p->now) == 1)
        CHECK(sim_wire_put(&p->to[1 - i], p->now * 1000, byte));
    while (sim_wire_take(&p->to[i], p->now * 1000, &byte))
        bl_transport_input(p->end[i], &byte, 1, p->now);
    bl_transport_tick(p->end[i], p->now);
    while (bl_transport_output(p->end[i], &byte, 1, p->now) == 1)
        CHECK(sim_wire_put(&p->to[1 - i], p->now * 1000, byte));
}

static uint64_t sooner(uint64_t a, uint64_t b)
{
    return a < b ? a : b;
}

static uint64_t next_of(const pair *p, int i)
{
    uint64_t next = sim_wire_next(&p->to[i]);
    if (next != UINT64_MAX) next = next / 1000 + 1;
    bool over =
        bl_transport_status(p->end[i]) != BL_E_BUSY && p->end[i]->out_sent == p->end[i]->out_count;
    return over ? next : sooner(next, bl_transport_deadline(p->end[i]));
}

bl_status pair_run(pair *p)
{
    for (;;) {
        serve(p, 0);
        serve(p, 1);
        const bl_transport *transport = p->end[0];
        if (bl_transport_status(transport) != BL_E_BUSY &&
            transport->out_sent == transport->out_count) {
            p->now += 5000; /* the last byte is still on the line */
            serve(p, 1);
            return bl_transport_status(transport);
        }
        uint64_t next = sooner(next_of(p, 0), next_of(p, 1));
        CHECK(next != UINT64_MAX);
        p->now = next > p->now ? next : p->now + 1;
    }
}

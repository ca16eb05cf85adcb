/* simulation_devices.c - the devices of a bench file on the simulated board, and their wires. */
#include <glib.h>
#include <string.h>

#include "simulation.h"

/* NULL: it is not simulated. */
static const sim_device_kind *simulated_kind(const bench_device *d)
{
    return d->kind != NULL ? sim_device_kind_named(d->kind->name) : NULL;
}

bool simulation_has_device(const bench *b, const bench_device *d)
{
    (void)b;
    return simulated_kind(d) != NULL;
}

uint8_t simulation_place(const bench *b, size_t index)
{
    uint8_t place = 0;
    if (simulated_kind(&b->devices[index]) == NULL) return SIMULATION_NO_PLACE;
    for (size_t i = 0; i < index; i++)
        place = (uint8_t)(place + (simulated_kind(&b->devices[i]) != NULL));
    return place;
}

const bench_device *simulation_described(const bench *b, size_t place)
{
    for (size_t i = 0; i < b->device_count; i++)
        if (simulated_kind(&b->devices[i]) != NULL && place-- == 0) return &b->devices[i];
    return NULL;
}

static sim_pin pin_of(const bench *b, const bench_end *end)
{
    switch (end->what) {
    case BENCH_END_DEVICE: {
        uint8_t place = simulation_place(b, end->device);
        g_assert(place != SIMULATION_NO_PLACE); /* a kind with pins is simulated */
        return (sim_pin){place, end->pin};
    }
    case BENCH_END_REQUEST: return (sim_pin){SIM_NET_CPU, end->pin};
    case BENCH_END_CLOCK: return (sim_pin){SIM_NET_CLOCK, 0};
    case BENCH_END_RESET: return (sim_pin){SIM_NET_CPU, SIM_NET_RESET};
    case BENCH_END_RULE: return (sim_pin){SIM_NET_MEMORY, end->pin};
    case BENCH_END_LOW: return (sim_pin){SIM_NET_TIED, SIM_LOW};
    default: return (sim_pin){SIM_NET_TIED, SIM_HIGH};
    }
}

bool simulation_has_room(const bench *b)
{
    size_t devices = 0, pins = 0;
    for (size_t i = 0; i < b->area_count; i++) {
        const bl_area *a = &b->areas[i];
        if (a->kind == BL_AREA_RAM && a->range.first + a->range.count > SIM_RAM) return false;
    }
    for (size_t i = 0; i < b->device_count; i++)
        devices += simulated_kind(&b->devices[i]) != NULL;
    for (size_t i = 0; i < b->net_count; i++)
        pins += b->nets[i].count;
    return b->chip_count <= SIM_CHIPS && devices <= SIM_DEVICES && b->net_count <= SIM_NETS &&
           pins <= SIM_NET_PINS;
}

static void add_device(sim_bench *s, const bench *b, const bench_device *d)
{
    sim_line *line = &s->board_line;
    sim_place place = {.kind = simulated_kind(d),
                       .at = (uint16_t)d->at,
                       .reach = d->reach,
                       .in_ports = d->in_ports,
                       .wired = d->size == 0,
                       .clock = d->clock,
                       .request = d->request};
    if (place.request >= s->board.kind->request_count) place.request = SIM_NO_REQUEST;
    if (place.kind->on_link && d == b->link_device) {
        place.in = &line->from_pc;
        place.out = &line->to_pc;
    }
    bool added = sim_board_add(&s->board, &place);
    g_assert(added); /* simulation_has_room has counted them */
}

/* The board's and the bench file's rules have the same kinds, limits and numbers. */
_Static_assert((int)BENCH_RULE_UNDER == (int)SIM_RULE_UNDER && (int)BENCH_RULES == (int)SIM_RULES &&
                   (int)BENCH_RULE_BITS == (int)SIM_RULE_BITS,
               "rules are copied as they are");

static void add_rules(sim_board *board, const bench *b)
{
    for (size_t i = 0; i < b->rule_count; i++) {
        const bench_rule *r = &b->rules[i];
        bool added = sim_board_rule(board, &(sim_rule){.what = (sim_rule_what)r->what,
                                                       .range = r->range,
                                                       .size = r->size,
                                                       .stored = r->stored,
                                                       .on = r->always});
        g_assert(added);
    }
    board->undriven = strcmp(b->undriven, "low") == 0    ? SIM_UNDRIVEN_LOW
                      : strcmp(b->undriven, "last") == 0 ? SIM_UNDRIVEN_LAST
                                                         : SIM_UNDRIVEN_HIGH;
}

void simulation_add_devices(sim_bench *s, const bench *b)
{
    add_rules(&s->board, b);
    for (size_t i = 0; i < b->device_count; i++)
        if (simulated_kind(&b->devices[i]) != NULL) add_device(s, b, &b->devices[i]);
    for (size_t i = 0; i < b->net_count; i++) {
        const bench_net *net = &b->nets[i];
        sim_pin *pins = g_new(sim_pin, net->count);
        for (size_t k = 0; k < net->count; k++)
            pins[k] = pin_of(b, &net->ends[k]);
        bool joined = sim_nets_join(&s->board, pins, net->count);
        g_assert(joined);
        g_free(pins);
    }
}

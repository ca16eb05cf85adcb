/* net.c - levels of wires, and edges. */
#include "net.h"

#include <string.h>

#include "board.h"
#include "bootlace/assert.h"

/* A pin leaves its net. */
void sim_nets_open(sim_board *b, size_t device, unsigned pin)
{
    sim_nets *n = &b->nets;
    for (size_t i = 0; i < n->pin_count; i++)
        if (n->pins[i].device == device && n->pins[i].pin == pin)
            n->pins[i] = (sim_pin){SIM_NET_TIED, SIM_FLOATS};
    b->devices[device].nets[pin] = 0;
}

/* Each goes where the other went. */
void sim_nets_swap(sim_board *b, size_t device, unsigned first, unsigned second)
{
    sim_nets *n = &b->nets;
    uint8_t *nets = b->devices[device].nets, net = nets[first];
    for (size_t i = 0; i < n->pin_count; i++) {
        if (n->pins[i].device != device) continue;
        if (n->pins[i].pin == first)
            n->pins[i].pin = (uint8_t)second;
        else if (n->pins[i].pin == second)
            n->pins[i].pin = (uint8_t)first;
    }
    nets[first] = nets[second];
    nets[second] = net;
}

bool sim_nets_join(sim_board *b, const sim_pin *pins, size_t count)
{
    sim_nets *n = &b->nets;
    if (n->net_count == SIM_NETS || n->pin_count + count > SIM_NET_PINS) return false;
    sim_net *net = &n->nets[n->net_count++];
    *net = (sim_net){.first = (uint8_t)n->pin_count, .count = (uint8_t)count, .high = true};
    b->wired = true;
    for (size_t i = 0; i < count; i++) {
        n->pins[n->pin_count++] = pins[i];
        if (pins[i].device >= SIM_NET_CLOCK) continue;
        BL_ASSERT(pins[i].device < b->device_count && pins[i].pin < BL_DEVICE_PINS);
        BL_ASSERT(b->devices[pins[i].device].nets[pins[i].pin] == 0);
        sim_device *d = &b->devices[pins[i].device];
        d->nets[pins[i].pin] = (uint8_t)n->net_count;
        d->timed |= sim_clock_pin(d->kind) == pins[i].pin;
    }
    return true;
}

/* What a pin does to its wire. */
static sim_level drive_of(const sim_board *b, sim_pin p)
{
    if (p.device == SIM_NET_CPU || p.device == SIM_NET_MEMORY || p.device == SIM_NET_CLOCK)
        return SIM_FLOATS;
    if (p.device == SIM_NET_TIED) return (sim_level)p.pin;
    const sim_device *d = &b->devices[p.device];
    return d->kind->drives != NULL && !d->missing ? d->kind->drives(d, p.pin) : SIM_FLOATS;
}

sim_level sim_net_level(const sim_board *b, size_t net, const void *but)
{
    const sim_net *n = &b->nets.nets[net];
    sim_level level = SIM_FLOATS;
    for (unsigned i = 0; i < n->count; i++) {
        sim_pin p = b->nets.pins[n->first + i];
        if (p.device < SIM_DEVICES && &b->devices[p.device] == but) continue;
        sim_level its = drive_of(b, p);
        if (its > level) level = its;
    }
    return level;
}

static bool is_high(sim_level level, bool floating)
{
    return level == SIM_FLOATS ? floating : level == SIM_HIGH || level == SIM_PULLED_UP;
}

uint64_t sim_device_now(const sim_device *d)
{
    return sim_board_now(d->board);
}

bool sim_device_sees(const sim_device *d, unsigned pin, bool floating)
{
    if (d->board == NULL || d->nets[pin] == 0) return floating;
    return is_high(sim_net_level(d->board, d->nets[pin] - 1u, NULL), floating);
}

sim_level sim_device_level_without(const sim_device *d, unsigned pin)
{
    return d->nets[pin] == 0 ? SIM_FLOATS : sim_net_level(d->board, d->nets[pin] - 1u, d);
}

/* Two outputs, one high and one low. */
static void look_for_fight(const sim_board *b, uint64_t now, sim_net *n)
{
    bool high = false, low = false;
    if (n->fights) return;
    for (unsigned i = n->first; i < n->first + n->count; i++) {
        sim_level its = drive_of(b, b->nets.pins[i]);
        if (its == SIM_HIGH) high = true, n->fights_high = (uint8_t)i;
        if (its == SIM_LOW) low = true, n->fights_low = (uint8_t)i;
    }
    n->fights = high && low;
    n->fights_since = now;
}

/* Tells those at a net that its level has changed. */
static void tell_edge(sim_board *b, uint64_t now, const sim_net *n)
{
    for (unsigned i = 0; i < n->count; i++) {
        sim_pin p = b->nets.pins[n->first + i];
        if (p.device == SIM_NET_CPU) {
            sim_board_pin(b, p.pin, n->high);
            continue;
        }
        if (p.device == SIM_NET_MEMORY) sim_board_switch(b, p.pin, n->high);
        if (p.device >= SIM_NET_CLOCK) continue;
        sim_device *d = &b->devices[p.device];
        if (d->kind->edge == NULL || d->missing) continue;
        d->kind->edge(d, now, p.pin, n->high);
        b->nets.stirred |= (uint64_t)1 << p.device;
    }
}

static void look_at_net(sim_board *b, uint64_t now, size_t index)
{
    sim_net *n = &b->nets.nets[index];
    bool high = is_high(sim_net_level(b, index, NULL), true);
    look_for_fight(b, now, n);
    if (high == n->high) return;
    n->high = high;
    tell_edge(b, now, n);
}

/* Each device that was stirred may stir others; what never comes to rest (a ring of inverters) is
 * left as it is after so many rounds. */
static void settle(sim_board *b, uint64_t now)
{
    enum { ROUNDS = 200 };
    sim_nets *n = &b->nets;
    if (n->settling) return; /* from within an edge: the loop below goes on */
    n->settling = true;
    for (unsigned round = 0; n->stirred != 0 && round < ROUNDS; round++) {
        unsigned i = 0;
        while ((n->stirred >> i & 1) == 0)
            i++;
        n->stirred &= ~((uint64_t)1 << i);
        const sim_device *d = &b->devices[i];
        for (unsigned pin = 0; d->kind->about.pins[pin] != NULL; pin++)
            if (d->nets[pin] != 0) look_at_net(b, now, d->nets[pin] - 1u);
        sim_board_note(b, i);
    }
    n->stirred = 0;
    n->settling = false;
}

void sim_nets_stir(sim_board *b, uint64_t now, size_t device)
{
    BL_ASSERT(device < b->device_count && b->device_count <= 64);
    b->nets.stirred |= (uint64_t)1 << device;
    settle(b, now);
}

void sim_nets_settle(sim_board *b, uint64_t now)
{
    for (size_t i = 0; i < b->device_count; i++)
        if (b->devices[i].kind->about.pins != NULL) b->nets.stirred |= (uint64_t)1 << i;
    settle(b, now);
}

/* ---- clocks: nobody counts their edges, only how many there are ---- */

int sim_clock_pin(const sim_device_kind *kind)
{
    return kind->about.clocked ? bl_device_pin(&kind->about, (bl_text){"clock", 5}) : -1;
}

/* silent: only of sources that make no edges, however often they go up and down. */
static uint32_t frequency_at(const sim_device *d, unsigned pin, bool silent)
{
    const sim_board *b = d->board;
    if (b == NULL || d->nets[pin] == 0) return 0;
    const sim_net *n = &b->nets.nets[d->nets[pin] - 1u];
    for (unsigned i = 0; i < n->count; i++) {
        sim_pin p = b->nets.pins[n->first + i];
        if (p.device == SIM_NET_CLOCK) return b->clock;
        if (p.device >= SIM_NET_CLOCK || &b->devices[p.device] == d) continue;
        const sim_device *source = &b->devices[p.device];
        if (source->kind->frequency == NULL || source->missing) continue;
        if (silent && source->kind->drives != NULL) continue;
        uint32_t hertz = source->kind->frequency(source, p.pin);
        if (hertz != 0) return hertz;
    }
    return 0;
}

uint32_t sim_device_frequency(const sim_device *d, unsigned pin)
{
    return frequency_at(d, pin, false);
}

uint32_t sim_device_counts(const sim_device *d, unsigned pin)
{
    return frequency_at(d, pin, true);
}

bool sim_device_is_clock(const sim_device *d, unsigned pin)
{
    const sim_board *b = d->board;
    if (b == NULL || d->nets[pin] == 0) return false;
    const sim_net *n = &b->nets.nets[d->nets[pin] - 1u];
    bool clock = true;
    for (unsigned i = 0; i < n->count; i++) {
        sim_pin p = b->nets.pins[n->first + i];
        if (p.device >= SIM_NET_CLOCK || (&b->devices[p.device] == d && p.pin == pin)) continue;
        clock &= sim_clock_pin(b->devices[p.device].kind) == p.pin;
    }
    return clock;
}

void sim_nets_retime(sim_board *b, uint64_t now)
{
    for (size_t i = 0; i < b->device_count; i++) {
        sim_device *d = &b->devices[i];
        if (!d->timed) continue;
        uint32_t hertz = sim_device_frequency(d, (unsigned)sim_clock_pin(d->kind));
        if (hertz == d->clock) continue;
        d->clock = hertz;
        if (d->kind->retime != NULL) d->kind->retime(d, now);
    }
}

void sim_nets_begin(sim_board *b)
{
    sim_nets_retime(b, sim_board_now(b));
    for (size_t i = 0; i < b->nets.net_count; i++) {
        sim_net *n = &b->nets.nets[i];
        n->high = is_high(sim_net_level(b, i, NULL), true);
        look_for_fight(b, sim_board_now(b), n);
        for (unsigned k = 0; k < n->count; k++) {
            sim_pin p = b->nets.pins[n->first + k];
            if (p.device == SIM_NET_CPU && !n->high) sim_board_pin(b, p.pin, false);
            if (p.device == SIM_NET_MEMORY) sim_board_switch(b, p.pin, n->high);
        }
    }
}

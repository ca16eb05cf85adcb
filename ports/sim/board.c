/* board.c - address decoding and the run loop. */
#include "board.h"

#include <string.h>

#include "bootlace/assert.h"

/* Cycles to nanoseconds and back without overflow. */
static uint64_t scale(uint64_t value, uint64_t by, uint64_t per)
{
    return value / per * by + value % per * by / per;
}

uint64_t sim_board_now(const sim_board *b)
{
    return scale(SIM_CYCLES(&b->cpu), 1000000000u, b->clock);
}

static size_t index_of_device(const sim_board *b, uint16_t address, bool in_ports)
{
    size_t i = 0;
    for (; i < b->device_count; i++) {
        const sim_device *d = &b->devices[i];
        if (d->in_ports == in_ports && address >= d->at && (uint32_t)(address - d->at) < d->reach)
            break;
    }
    return i;
}

static sim_device *device_at(sim_board *b, uint16_t address, bool in_ports)
{
    size_t i = index_of_device(b, address, in_ports);
    return i < b->device_count ? &b->devices[i] : NULL;
}

bool sim_board_has_device(const sim_board *b, uint16_t address)
{
    return index_of_device(b, address, false) < b->device_count;
}

/* What may follow from an access: an interrupt, and what wires carry to others. */
static void follow(sim_board *b, sim_device *d, bool read)
{
    size_t index = (size_t)(d - b->devices);
    if (d->kind->interrupt != NULL) sim_board_note(b, index);
    if (read && d->kind->read_stirs != NULL && !d->kind->read_stirs(d)) return;
    if (!read && b->wired && d->kind->frequency != NULL) sim_nets_retime(b, sim_board_now(b));
    if (b->wired && d->kind->about.pins != NULL) sim_nets_stir(b, sim_board_now(b), index);
}

static uint8_t device_read(sim_board *b, sim_device *d, uint16_t address)
{
    if (d->kind->read == NULL || d->missing) return 0xFF;
    uint8_t value = d->kind->read(d, sim_board_now(b), (unsigned)(address - d->at) % d->size);
    follow(b, d, true);
    return value;
}

static void device_write(sim_board *b, sim_device *d, uint16_t address, uint8_t value)
{
    const sim_device_kind *kind = d->kind;
    if (kind->write == NULL || d->missing) return;
    uint8_t before = kind->lamps != NULL ? kind->lamps(d) : 0;
    kind->write(d, sim_board_now(b), (unsigned)(address - d->at) % d->size, value);
    follow(b, d, false);
    if (kind->lamps != NULL && kind->lamps(d) != before && b->watch.lamps != NULL)
        b->watch.lamps(b->watch.context, (unsigned)(d - b->devices), sim_board_now(b),
                       kind->lamps(d));
}

/* Accesses that meet a watchpoint: all pages of one come here. */
static void note_access(sim_board *b, bl_access access)
{
    for (size_t i = 0; i < b->watchpoint_count; i++) {
        const sim_watchpoint *w = &b->watchpoints[i];
        if (!(access.write ? w->writes : w->reads) || access.address < w->range.first ||
            access.address - w->range.first >= w->range.count)
            continue;
        if (b->access_count < BL_PAST_ACCESSES) b->accesses[b->access_count] = access;
        b->access_count++;
        return;
    }
}

/* A device that a faulty decoder selects here, too. */
static sim_device *shadow_at(sim_board *b, uint16_t address)
{
    for (size_t i = 0; b->shadowed && i < b->device_count; i++) {
        sim_device *d = &b->devices[i];
        if (d->shadow != 0 && address >= d->shadow && address - d->shadow < d->size) return d;
    }
    return NULL;
}

/* Code from a page that is not all memory: as a read, but no access that a watchpoint sees. */
static uint8_t slow_fetch(void *context, uint16_t address)
{
    sim_board *b = context;
    sim_device *d = device_at(b, address, false), *second = shadow_at(b, address);
    uint8_t value = d != NULL ? device_read(b, d, address) : sim_board_peek(b, address);
    /* Two that drive the bus: low wins. */
    if (second != NULL)
        value &= device_read(b, second, (uint16_t)(second->at + (address - second->shadow)));
    return value;
}

static uint8_t slow_read(void *context, uint16_t address)
{
    sim_board *b = context;
    uint8_t value = slow_fetch(b, address);
    if (b->watchpoint_count > 0) note_access(b, (bl_access){address, false, value, 0});
    return value;
}

static void slow_write(void *context, uint16_t address, uint8_t value)
{
    sim_board *b = context;
    sim_device *d = device_at(b, address, false), *second = shadow_at(b, address);
    if (second != NULL)
        device_write(b, second, (uint16_t)(second->at + (address - second->shadow)), value);
    if (b->watchpoint_count > 0)
        note_access(b,
                    (bl_access){address, true, value, d != NULL ? 0 : sim_board_peek(b, address)});
    if (d != NULL)
        device_write(b, d, address, value);
    else
        sim_board_store(b, address, value);
}

/* The next bytes of code are mostly in the same page. */
static uint8_t far_fetch(void *context, uint32_t address)
{
    sim_board *b = context;
    const uint8_t *page = sim_board_far_page(b, address);
    if (page == NULL) return sim_board_peek_far(b, address);
    b->bus.far_bytes = page;
    b->bus.far_page = address >> 8;
    return page[address & 0xFF];
}

static uint8_t far_read(void *context, uint32_t address)
{
    sim_board *b = context;
    uint8_t value = sim_board_peek_far(b, address);
    if (b->watchpoint_count > 0) note_access(b, (bl_access){address, false, value, 0});
    return value;
}

static void far_write(void *context, uint32_t address, uint8_t value)
{
    sim_board *b = context;
    if (b->watchpoint_count > 0)
        note_access(b, (bl_access){address, true, value, sim_board_peek_far(b, address)});
    sim_board_store_far(b, address, value);
}

bool sim_board_poke(sim_board *b, uint16_t address, uint8_t value)
{
    slow_write(b, address, value);
    return device_at(b, address, false) != NULL || sim_board_peek(b, address) == value;
}

/* Only the low half of the address bus is decoded for ports. */
static uint8_t port_in(void *context, uint16_t port)
{
    sim_board *b = context;
    sim_device *d = device_at(b, port & 0xFF, true);
    return d != NULL ? device_read(b, d, port & 0xFF) : 0xFF;
}

static void port_out(void *context, uint16_t port, uint8_t value)
{
    sim_board *b = context;
    sim_device *d = device_at(b, port & 0xFF, true);
    if (d != NULL) device_write(b, d, port & 0xFF, value);
}

bool sim_board_watch(sim_board *b, bl_range range, bool reads, bool writes)
{
    size_t i = 0;
    while (i < b->watchpoint_count && (b->watchpoints[i].range.first != range.first ||
                                       b->watchpoints[i].range.count != range.count))
        i++;
    if (i == SIM_WATCHPOINTS) return false;
    if (!reads && !writes) {
        if (i < b->watchpoint_count) b->watchpoints[i] = b->watchpoints[--b->watchpoint_count];
    } else {
        b->watchpoints[i] = (sim_watchpoint){range, reads, writes};
        if (i == b->watchpoint_count) b->watchpoint_count++;
    }
    sim_board_map(b);
    return true;
}

/* Pages that are one memory throughout are reached by pointers; everything else goes through the
 * functions. */
void sim_board_begin(sim_board *b, const sim_cpu_kind *kind, uint32_t clock, const bl_area *areas,
                     size_t area_count, const bl_chip *chips, sim_part *parts, size_t chip_count)
{
    BL_ASSERT(clock > 0);
    memset(b, 0, sizeof *b);
    b->kind = kind;
    b->clock = clock;
    b->areas = areas;
    b->area_count = area_count;
    b->chips = chips;
    b->parts = parts;
    b->chip_count = chip_count;
    b->cpu.bus = &b->bus;
    b->bus.context = b;
    b->bus.read = slow_read;
    b->bus.fetch = slow_fetch;
    b->bus.write = slow_write;
    b->bus.read_far = far_read;
    b->bus.fetch_far = far_fetch;
    b->bus.write_far = far_write;
    b->bus.in = port_in;
    b->bus.out = port_out;
    b->bus.vector = 0xFF; /* nobody drives the bus: RST $38 */
    b->bus.acknowledge = sim_board_acknowledge;
    b->bus.returned = sim_board_returned;
    sim_board_map(b);
}

bool sim_board_add(sim_board *b, const sim_place *place)
{
    const sim_device_kind *kind = place->kind;
    BL_ASSERT(kind->begin != NULL && kind->fields != NULL);
    BL_ASSERT(place->wired ? kind->about.pins != NULL : bl_device_register_count(&kind->about) > 0);
    BL_ASSERT(place->request == SIM_NO_REQUEST || place->request < b->kind->request_count);
    if (b->device_count == SIM_DEVICES) return false;
    unsigned size = place->wired ? 0 : bl_device_register_count(&kind->about);
    sim_device *d = &b->devices[b->device_count++];
    *d = (sim_device){.kind = kind,
                      .at = place->at,
                      .in_ports = place->in_ports,
                      .size = (uint16_t)size,
                      .reach = place->reach > size ? place->reach : size,
                      .clock = place->clock != 0 ? place->clock : b->clock,
                      .request = place->request,
                      .in = place->in,
                      .out = place->out,
                      .board = b};
    b->timed |= kind->next_event != NULL;
    b->chained |= kind->acknowledge != NULL;
    kind->begin(d, true);
    return true;
}

sim_device *sim_board_device(sim_board *b, const sim_device_kind *kind)
{
    for (size_t i = 0; i < b->device_count; i++)
        if (b->devices[i].kind == kind) return &b->devices[i];
    return NULL;
}

static void begin_devices(sim_board *b, bool power)
{
    memset(b->pulling, 0, sizeof b->pulling);
    for (size_t i = 0; i < b->device_count; i++) {
        b->devices[i].pulls = false;
        b->devices[i].kind->begin(&b->devices[i], power);
    }
}

void sim_board_power_on(sim_board *b, sim_chance *chance, uint64_t now)
{
    for (uint32_t i = 0; i < sim_board_ram(b); i++) {
        uint8_t left = (uint8_t)sim_chance_next(chance);
        if (!b->ram_kept || !sim_board_keeps(b, i)) b->ram[i] = left;
    }
    b->ram_kept = true;
    b->cpu.cycles = scale(now, b->clock, 1000000000u); /* devices ask for the time */
    b->cpu.left = 0;
    begin_devices(b, true);
    /* Registers hold what chance left in them, too. */
    memset(&b->cpu, 0, b->kind->size);
    for (size_t i = 0; i < b->kind->register_count; i++)
        if (b->kind->registers[i].shown)
            sim_register_set(&b->cpu, &b->kind->registers[i], sim_chance_next(chance));
    b->cpu.bus = &b->bus;
    b->held = b->begins = false;
    b->cpu.cycles = scale(now, b->clock, 1000000000u);
    b->kind->reset(&b->cpu);
    sim_nets_begin(b);
}

void sim_board_reset(sim_board *b)
{
    begin_devices(b, false);
    b->begins = false;
    b->kind->reset(&b->cpu);
    sim_nets_begin(b);
    sim_board_refresh(b);
}

void sim_board_stand(sim_board *b, uint64_t until)
{
    uint64_t cycles = scale(until, b->clock, 1000000000u);
    if (cycles > b->cpu.cycles) b->cpu.cycles = cycles;
}

/* When the next thing happens by itself in any device, in cycles; UINT64_MAX: nothing will. */
static uint64_t next_event(const sim_board *b)
{
    uint64_t first = UINT64_MAX;
    for (size_t i = 0; i < b->device_count; i++) {
        const sim_device *d = &b->devices[i];
        uint64_t at = d->kind->next_event != NULL ? d->kind->next_event(d) : UINT64_MAX;
        if (at < first) first = at;
    }
    if (first == UINT64_MAX) return first;
    uint64_t cycles = scale(first, b->clock, 1000000000u);
    return scale(cycles, 1000000000u, b->clock) < first ? cycles + 1 : cycles;
}

static void update_devices(sim_board *b)
{
    uint64_t now = sim_board_now(b);
    for (size_t i = 0; i < b->device_count; i++)
        if (b->devices[i].kind->update != NULL) b->devices[i].kind->update(&b->devices[i], now);
    sim_board_refresh(b);
    if (b->wired) sim_nets_settle(b, now);
}

uint32_t sim_board_pc(const sim_board *b)
{
    return b->kind == &sim_ez80_kind ? b->ez80.far_pc : b->cpu.pc;
}

void sim_board_begin_at(sim_board *b, uint32_t address)
{
    b->cpu.pc = (uint16_t)address;
    if (b->kind != &sim_ez80_kind) return;
    b->ez80.far_pc = address;
    b->ez80.adl = address > 0xFFFF;
}

uint32_t sim_board_space(const sim_board *b)
{
    return b->kind == &sim_ez80_kind ? 0x1000000 : 0x10000;
}

/* In the list, for those beyond 64 KiB; far_count when it is not there. */
static size_t find_far(const sim_breakpoints *x, uint32_t address)
{
    size_t i = 0;
    while (i < x->far_count && x->far[i] != address)
        i++;
    return i;
}

static bool has_breakpoint(const sim_board *b, uint32_t address)
{
    const sim_breakpoints *x = &b->breakpoints;
    if (address > 0xFFFF) return find_far(x, address) < x->far_count;
    return sim_stops(x->near, (uint16_t)address);
}

bool sim_board_break(sim_board *b, uint32_t address, bool on)
{
    sim_breakpoints *x = &b->breakpoints;
    if (has_breakpoint(b, address) == on) return true;
    if (address <= 0xFFFF) {
        x->near[address / 8] ^= (uint8_t)(1u << address % 8);
        x->near_count = on ? x->near_count + 1 : x->near_count - 1;
    } else if (on && x->far_count == SIM_FAR_BREAKPOINTS) {
        return false;
    } else if (on) {
        x->far[x->far_count++] = address;
    } else {
        x->far[find_far(x, address)] = x->far[x->far_count - 1];
        x->far_count--;
    }
    return true;
}

/* Breakpoints only: the CPU looks at them itself. One behind an instruction that waits is met when
 * the CPU goes on. */
static bl_stop run_to_breakpoint(sim_board *b, uint64_t cycles)
{
    const sim_breakpoints *x = &b->breakpoints;
    b->bus.stops = x->near_count > 0 ? x->near : NULL;
    b->bus.far_stops = x->far;
    b->bus.far_stop_count = x->far_count;
    bool met = false;
    while (b->cpu.cycles < cycles && !met && !b->held) {
        b->kind->run(&b->cpu, cycles);
        met = has_breakpoint(b, sim_board_pc(b)) && !sim_cpu_waits(b->kind, &b->cpu);
    }
    b->bus.stops = NULL;
    b->bus.far_stop_count = 0;
    return met ? BL_STOP_BREAKPOINT : BL_STOP_NOT;
}

/* What stops the CPU costs nothing while there is nothing of it. */
static bl_stop run_cpu(sim_board *b, uint64_t cycles)
{
    const sim_tracer *t = &b->tracer;
    if (b->watchpoint_count == 0 && t->before == NULL) return run_to_breakpoint(b, cycles);
    while (b->cpu.cycles < cycles) {
        if (t->before != NULL && !t->before(t->context)) return BL_STOP_ASKED;
        b->access_count = 0;
        b->kind->step(&b->cpu);
        if (b->access_count > 0 && t->before == NULL) return BL_STOP_WATCHPOINT;
        if (!sim_cpu_waits(b->kind, &b->cpu) && has_breakpoint(b, sim_board_pc(b)))
            return BL_STOP_BREAKPOINT;
    }
    return BL_STOP_NOT;
}

/* While the reset line is pulled the CPU stands; what happens by itself goes on. */
static void stand_in_reset(sim_board *b, uint64_t end)
{
    uint64_t event = next_event(b);
    b->cpu.cycles = event < end ? (event > b->cpu.cycles ? event : b->cpu.cycles + 1) : end;
    update_devices(b);
}

bl_stop sim_board_run(sim_board *b, uint64_t until)
{
    uint64_t end = scale(until, b->clock, 1000000000u);
    while (b->cpu.cycles < end) {
        if (b->held) {
            stand_in_reset(b, end);
            continue;
        }
        if (b->begins) sim_board_reset(b);
        uint64_t event = b->timed ? next_event(b) : UINT64_MAX, stop = event < end ? event : end;
        if (stop <= b->cpu.cycles) stop = b->cpu.cycles + 1;
        bl_stop why = run_cpu(b, stop);
        if (b->timed) update_devices(b);
        if (why != BL_STOP_NOT) return why;
    }
    return sim_cpu_waits(b->kind, &b->cpu) ? BL_STOP_WAITS : BL_STOP_NOT;
}

void sim_board_step(sim_board *b)
{
    b->access_count = 0;
    b->kind->step(&b->cpu);
    if (b->timed) update_devices(b);
}

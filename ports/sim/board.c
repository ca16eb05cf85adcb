/* board.c - address decoding and the run loop. */
#include "board.h"

#include <string.h>

/* Cycles to nanoseconds and back without overflow. */
static uint64_t scale(uint64_t value, uint64_t by, uint64_t per)
{
    return value / per * by + value % per * by / per;
}

uint64_t sim_board_now(const sim_board *b)
{
    return scale(SIM_CYCLES(&b->cpu), 1000000000u, b->clock);
}

static const bl_area *area_at(const sim_board *b, uint16_t address)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (bl_area_holds(&b->areas[i], (bl_range){address, 1})) return &b->areas[i];
    return NULL;
}

static sim_device *device_at(sim_board *b, uint16_t address, bool in_ports)
{
    for (size_t i = 0; i < b->device_count; i++) {
        unsigned size = b->devices[i].kind == SIM_DEVICE_ACIA    ? SIM_ACIA_REGISTERS
                        : b->devices[i].kind == SIM_DEVICE_PORT8 ? SIM_PORT8_REGISTERS
                                                                 : 1;
        if (b->devices[i].in_ports == in_ports && address >= b->devices[i].at &&
            address < b->devices[i].at + size)
            return &b->devices[i];
    }
    return NULL;
}

/* Chips that hold half a byte each give it together. */
static uint8_t rom_byte(const sim_board *b, uint16_t address)
{
    uint8_t value = 0xFF, bits;
    uint32_t offset;
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            if (!bl_chip_map_holds(&b->chips[i], &b->chips[i].maps[k], address, &offset, &bits))
                continue;
            uint8_t cell = b->parts[i].cells[offset];
            if (bits == 0xF0) cell = (uint8_t)(cell << 4);
            value = (uint8_t)((value & ~bits) | (cell & bits));
        }
    return value;
}

/* Where 256 bytes from an address on lie in one chip, in a row; NULL when they do not. */
static const uint8_t *rom_page(const sim_board *b, uint16_t first)
{
    uint32_t offset, last;
    uint8_t bits;
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            const bl_chip_map *m = &b->chips[i].maps[k];
            if (m->lanes > 1 || m->nibble != 0) continue;
            if (bl_chip_map_holds(&b->chips[i], m, first, &offset, &bits) &&
                bl_chip_map_holds(&b->chips[i], m, first + 255u, &last, &bits) &&
                last == offset + 255)
                return &b->parts[i].cells[offset];
        }
    return NULL;
}

uint8_t sim_board_peek(const sim_board *b, uint16_t address)
{
    const bl_area *area = area_at(b, address);
    if (area == NULL || area->kind == BL_AREA_IO) return 0xFF;
    if (area->kind == BL_AREA_RAM) return b->ram[address];
    return rom_byte(b, address);
}

void sim_board_refresh(sim_board *b)
{
    if (!b->has_acia && !b->has_port8) return;
    b->cpu.irq = (b->has_acia && sim_acia_irq(&b->acia)) || sim_port8_irq(&b->port8);
    if (b->cpu.irq) SIM_LOOK(&b->cpu);
}

static uint8_t device_read(sim_board *b, const sim_device *d, uint16_t address)
{
    if (d->kind == SIM_DEVICE_LATCH) return 0xFF; /* written only */
    unsigned reg = (unsigned)(address - d->at);
    uint8_t value = d->kind == SIM_DEVICE_PORT8 ? sim_port8_read(&b->port8, reg)
                                                : sim_acia_read(&b->acia, sim_board_now(b), reg);
    sim_board_refresh(b);
    return value;
}

static void device_write(sim_board *b, sim_device *d, uint16_t address, uint8_t value)
{
    if (d->kind == SIM_DEVICE_ACIA) {
        sim_acia_write(&b->acia, sim_board_now(b), (unsigned)(address - d->at), value);
        sim_board_refresh(b);
    } else if (d->kind == SIM_DEVICE_PORT8) {
        sim_port8_write(&b->port8, (unsigned)(address - d->at), value);
        sim_board_refresh(b);
    } else if (d->latch != value) {
        d->latch = value;
        if (b->watch.latch != NULL)
            b->watch.latch(b->watch.context, (unsigned)(d - b->devices), sim_board_now(b), value);
    }
}

static uint8_t slow_read(void *context, uint16_t address)
{
    sim_board *b = context;
    const sim_device *d = device_at(b, address, false);
    return d != NULL ? device_read(b, d, address) : sim_board_peek(b, address);
}

static uint8_t peek(void *context, uint16_t address)
{
    return sim_board_peek(context, address);
}

static void slow_write(void *context, uint16_t address, uint8_t value)
{
    sim_board *b = context;
    sim_device *d = device_at(b, address, false);
    const bl_area *area = area_at(b, address);
    if (d != NULL)
        device_write(b, d, address, value);
    else if (area != NULL && area->kind == BL_AREA_RAM)
        b->ram[address] = value;
}

/* Only the low half of the address bus is decoded for ports. */
static uint8_t port_in(void *context, uint16_t port)
{
    sim_board *b = context;
    const sim_device *d = device_at(b, port & 0xFF, true);
    return d != NULL ? device_read(b, d, port & 0xFF) : 0xFF;
}

static void port_out(void *context, uint16_t port, uint8_t value)
{
    sim_board *b = context;
    sim_device *d = device_at(b, port & 0xFF, true);
    if (d != NULL) device_write(b, d, port & 0xFF, value);
}

/* A page that is one kind of memory throughout is reached by a pointer. */
static void map_page(sim_board *b, unsigned page)
{
    uint16_t first = (uint16_t)(page << 8);
    const bl_area *area = area_at(b, first);
    b->bus.read_page[page] = NULL;
    b->bus.write_page[page] = NULL;
    if (area == NULL || !bl_area_holds(area, (bl_range){first, 256})) return;
    if (area->kind == BL_AREA_RAM) {
        b->bus.read_page[page] = b->ram + first;
        b->bus.write_page[page] = b->ram + first;
    } else if (area->kind == BL_AREA_ROM) {
        b->bus.read_page[page] = rom_page(b, first);
    }
}

void sim_board_begin(sim_board *b, const sim_cpu_kind *kind, uint32_t clock, const bl_area *areas,
                     size_t area_count, const bl_chip *chips, sim_part *parts, size_t chip_count)
{
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
    b->bus.peek = peek;
    b->bus.write = slow_write;
    b->bus.in = port_in;
    b->bus.out = port_out;
    b->bus.vector = 0xFF; /* nobody drives the bus: RST $38 */
    for (unsigned page = 0; page < 256; page++)
        map_page(b, page);
}

void sim_board_add(sim_board *b, sim_device_kind kind, uint16_t at, bool in_ports, sim_wire *in,
                   sim_wire *out)
{
    if (b->device_count == SIM_DEVICES) return;
    b->devices[b->device_count++] = (sim_device){kind, at, in_ports, 0};
    if (kind == SIM_DEVICE_PORT8) b->has_port8 = true;
    if (kind != SIM_DEVICE_ACIA) return;
    b->has_acia = true;
    sim_acia_begin(&b->acia, in, out);
}

void sim_board_power_on(sim_board *b, sim_chance *chance, uint64_t now)
{
    for (size_t i = 0; i < sizeof b->ram; i++)
        b->ram[i] = (uint8_t)sim_chance_next(chance);
    for (size_t i = 0; i < b->device_count; i++)
        b->devices[i].latch = 0;
    if (b->has_acia) sim_acia_begin(&b->acia, b->acia.in, b->acia.out);
    b->port8 = (sim_port8){.stuck = b->port8.stuck};
    /* Registers hold what chance left in them, too. */
    memset(&b->cpu, 0, b->kind->size);
    for (size_t i = 0; i < b->kind->register_count; i++)
        if (b->kind->registers[i].shown)
            sim_register_set(&b->cpu, &b->kind->registers[i], sim_chance_next(chance));
    b->cpu.bus = &b->bus;
    b->cpu.cycles = scale(now, b->clock, 1000000000u);
    b->kind->reset(&b->cpu);
}

void sim_board_reset(sim_board *b)
{
    if (b->has_acia) sim_acia_begin(&b->acia, b->acia.in, b->acia.out);
    b->port8 = (sim_port8){.stuck = b->port8.stuck};
    b->kind->reset(&b->cpu);
    sim_board_refresh(b);
}

void sim_board_stand(sim_board *b, uint64_t until)
{
    uint64_t cycles = scale(until, b->clock, 1000000000u);
    if (cycles > b->cpu.cycles) b->cpu.cycles = cycles;
}

void sim_board_run(sim_board *b, uint64_t until)
{
    uint64_t end = scale(until, b->clock, 1000000000u);
    while (b->cpu.cycles < end) {
        uint64_t stop = end;
        if (b->has_acia) {
            /* Stop where the serial interface has something to do. */
            uint64_t arrival = sim_wire_next(b->acia.in);
            if (b->acia.has_waiting && b->acia.shift_free < arrival) arrival = b->acia.shift_free;
            if (arrival != UINT64_MAX) {
                uint64_t cycle = scale(arrival, b->clock, 1000000000u) + 1;
                if (cycle < stop) stop = cycle;
            }
        }
        if (stop <= b->cpu.cycles) stop = b->cpu.cycles + 1;
        b->kind->run(&b->cpu, stop);
        if (b->has_acia) {
            sim_acia_update(&b->acia, sim_board_now(b));
            sim_board_refresh(b);
        }
    }
}

/* decode.c - which memory the CPU sees where: areas, chips, and what switches them. */
#include "board.h"
#include "bootlace/assert.h"

/* Where what the CPU sees at an address is stored: elsewhere, where memory repeats or banks are
 * switched. */
static uint32_t stored_at(const sim_board *b, uint16_t address)
{
    for (size_t i = 0; i < b->rule_count; i++) {
        const sim_rule *r = &b->rules[i];
        uint32_t into = address - r->range.first;
        if (address < r->range.first || into >= r->range.count) continue;
        if (r->what == SIM_RULE_REPEATS) return r->range.first + into % r->size;
        if (r->what == SIM_RULE_BANKS) return r->stored + r->on * (uint32_t)r->range.count + into;
    }
    return address;
}

static const sim_rule *rule_at(const sim_board *b, sim_rule_what what, uint16_t address)
{
    for (size_t i = 0; i < b->rule_count; i++)
        if (b->rules[i].what == what && bl_range_holds(b->rules[i].range, (bl_range){address, 1}))
            return &b->rules[i];
    return NULL;
}

static const bl_area *area_at(const sim_board *b, uint32_t stored)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (bl_area_holds(&b->areas[i], (bl_range){stored, 1})) return &b->areas[i];
    return NULL;
}

/* Chips that hold half a byte each give it together. */
static uint8_t rom_byte(const sim_board *b, uint32_t stored)
{
    uint8_t value = 0xFF, bits;
    uint32_t offset;
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            if (!bl_chip_map_holds(&b->chips[i], &b->chips[i].maps[k], stored, &offset, &bits))
                continue;
            uint8_t cell = b->parts[i].cells[offset];
            if (bits == 0xF0) cell = (uint8_t)(cell << 4);
            value = (uint8_t)((value & ~bits) | (cell & bits));
        }
    return value;
}

/* Where 256 bytes from an address on lie in one chip, in a row; NULL when they do not. */
static const uint8_t *rom_page(const sim_board *b, uint32_t stored)
{
    uint32_t offset, last;
    uint8_t bits;
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            const bl_chip_map *m = &b->chips[i].maps[k];
            if (m->lanes > 1 || m->nibble != 0) continue;
            if (bl_chip_map_holds(&b->chips[i], m, stored, &offset, &bits) &&
                bl_chip_map_holds(&b->chips[i], m, stored + 255u, &last, &bits) &&
                last == offset + 255)
                return &b->parts[i].cells[offset];
        }
    return NULL;
}

/* Is the ROM there switched out, so that the RAM behind it is seen? */
static bool is_under(const sim_board *b, uint16_t address)
{
    const sim_rule *r = b->rule_count > 0 ? rule_at(b, SIM_RULE_UNDER, address) : NULL;
    return r != NULL && r->on != 0;
}

/* Nobody drives the bus: pulled up it is all ones; else what was on it last, which is mostly the
 * high byte of the address, the end of the instruction. */
static uint8_t undriven(const sim_board *b, uint16_t address)
{
    switch (b->undriven) {
    case SIM_UNDRIVEN_LOW: return 0x00;
    case SIM_UNDRIVEN_LAST: return (uint8_t)(address >> 8);
    default: return 0xFF;
    }
}

uint8_t sim_board_peek(const sim_board *b, uint16_t address)
{
    uint32_t stored = b->rule_count > 0 ? stored_at(b, address) : address;
    const bl_area *area = area_at(b, stored);
    if (area == NULL) return undriven(b, address);
    if (area->kind == BL_AREA_IO)
        return sim_board_has_device(b, address) ? 0xFF : undriven(b, address);
    if (area->kind == BL_AREA_RAM || is_under(b, address)) return b->ram[stored % SIM_RAM];
    return rom_byte(b, stored);
}

/* What is protected keeps what it has; RAM behind ROM is written through it. */
void sim_board_store(sim_board *b, uint16_t address, uint8_t value)
{
    uint32_t stored = b->rule_count > 0 ? stored_at(b, address) : address;
    const bl_area *area = area_at(b, stored);
    if (area == NULL || area->kind == BL_AREA_IO) return;
    if (b->rule_count > 0) {
        const sim_rule *r = rule_at(b, SIM_RULE_PROTECT, address);
        if (r != NULL && r->on != 0) return;
        if (area->kind == BL_AREA_ROM && rule_at(b, SIM_RULE_UNDER, address) == NULL) return;
    } else if (area->kind == BL_AREA_ROM) {
        return;
    }
    b->ram[stored % SIM_RAM] = value;
}

uint32_t sim_board_ram(const sim_board *b)
{
    uint32_t size = 0x10000;
    for (size_t i = 0; i < b->area_count; i++) {
        bl_range r = b->areas[i].range;
        if (b->areas[i].kind != BL_AREA_RAM) continue;
        while (size < SIM_RAM && size < r.first + r.count)
            size *= 2;
    }
    return size;
}

bool sim_board_keeps(const sim_board *b, uint32_t stored)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (b->areas[i].keeps && bl_area_holds(&b->areas[i], (bl_range){stored, 1})) return true;
    return false;
}

/* ---- beyond 64 KiB: areas alone, no devices and no rules ---- */

const uint8_t *sim_board_far_page(const sim_board *b, uint32_t address)
{
    uint32_t first = address & ~0xFFu;
    const bl_area *area = area_at(b, first);
    bool whole = area != NULL && area->kind == BL_AREA_RAM && first < SIM_RAM &&
                 bl_area_holds(area, (bl_range){first, 256});
    return whole ? b->ram + first : NULL;
}

uint8_t sim_board_peek_far(const sim_board *b, uint32_t address)
{
    const bl_area *area = area_at(b, address);
    if (area == NULL || area->kind == BL_AREA_IO) return undriven(b, (uint16_t)address);
    return area->kind == BL_AREA_RAM ? b->ram[address % SIM_RAM] : rom_byte(b, address);
}

void sim_board_store_far(sim_board *b, uint32_t address, uint8_t value)
{
    const bl_area *area = area_at(b, address);
    if (area != NULL && area->kind == BL_AREA_RAM) b->ram[address % SIM_RAM] = value;
}

/* ---- pages ---- */

/* Do rules treat all of a page alike, and leave its bytes in a row? */
static bool is_even(const sim_board *b, uint16_t first)
{
    for (size_t i = 0; i < b->rule_count; i++) {
        const sim_rule *r = &b->rules[i];
        bl_range page = {first, 256};
        if (!bl_range_meet(r->range, page)) continue;
        if (!bl_range_holds(r->range, page)) return false;
        if (r->what == SIM_RULE_REPEATS && (r->size % 256 != 0 || r->range.first % 256 != 0))
            return false;
    }
    return true;
}

/* A page that is one kind of memory throughout is reached by a pointer. */
static void map_page(sim_board *b, unsigned page)
{
    uint16_t first = (uint16_t)(page << 8);
    uint32_t stored = stored_at(b, first);
    const bl_area *area = area_at(b, stored);
    b->bus.read_page[page] = NULL;
    b->bus.write_page[page] = NULL;
    if (area == NULL || !bl_area_holds(area, (bl_range){stored, 256}) || !is_even(b, first)) return;
    const sim_rule *protect = rule_at(b, SIM_RULE_PROTECT, first),
                   *under = rule_at(b, SIM_RULE_UNDER, first);
    uint8_t *ram = b->ram + stored % SIM_RAM;
    if (area->kind == BL_AREA_RAM || (area->kind == BL_AREA_ROM && under != NULL)) {
        b->bus.read_page[page] = b->bus.write_page[page] = ram;
        if (protect != NULL && protect->on != 0) b->bus.write_page[page] = NULL;
    }
    if (area->kind == BL_AREA_ROM && (under == NULL || under->on == 0))
        b->bus.read_page[page] = rom_page(b, stored);
    for (size_t i = 0; b->shadowed && i < b->device_count; i++)
        if (b->devices[i].shadow >> 8 == page && b->devices[i].shadow != 0)
            b->bus.read_page[page] = b->bus.write_page[page] = NULL;
    for (size_t i = 0; i < b->watchpoint_count; i++) {
        const sim_watchpoint *w = &b->watchpoints[i];
        if (!bl_range_meet(w->range, (bl_range){first, 256})) continue;
        if (w->reads) b->bus.read_page[page] = NULL;
        if (w->writes) b->bus.write_page[page] = NULL;
    }
}

void sim_board_map(sim_board *b)
{
    for (unsigned page = 0; page < 256; page++)
        map_page(b, page);
    b->bus.far_page = 0;
}

/* ---- rules ---- */

bool sim_board_rule(sim_board *b, const sim_rule *rule)
{
    if (b->rule_count == SIM_RULES) return false;
    BL_ASSERT(rule->what != SIM_RULE_REPEATS || rule->size > 0);
    b->rules[b->rule_count++] = *rule;
    sim_board_map(b);
    return true;
}

/* The code that is being fetched may be memory that is gone. */
static void forget_code(sim_cpu *c)
{
    sim_code *code = &c->code;
    code->end_address = (uint16_t)(code->end_address - (code->end - code->at));
    code->at = code->start = code->end = code->edge;
}

void sim_board_switch(sim_board *b, uint8_t pin, bool high)
{
    sim_rule *r = &b->rules[pin / SIM_RULE_BITS];
    uint8_t bit = (uint8_t)(1u << pin % SIM_RULE_BITS);
    BL_ASSERT(pin / SIM_RULE_BITS < b->rule_count);
    r->on = (uint8_t)(high ? r->on | bit : r->on & ~bit);
    sim_board_map(b);
    if (b->cpu.code.end != NULL) forget_code(&b->cpu);
}

/* plan.c - cutting an image onto chips. */
#include "base/core.h"
#include "bootlace/chip.h"

enum { MIRRORS_MAX = 4096 };

static uint32_t lanes_of(const bl_chip_map *m)
{
    return m->lanes > 1 ? m->lanes : 1;
}

/* The first address of the map that lies in its lane. */
static uint64_t first_of(const bl_chip_map *m)
{
    uint32_t lanes = lanes_of(m);
    return (uint64_t)m->cpu.first + (m->lane + lanes - m->cpu.first % lanes) % lanes;
}

/* Addresses of the map in its lane. */
static uint64_t count_of(const bl_chip_map *m)
{
    uint64_t first = first_of(m), end = (uint64_t)m->cpu.first + m->cpu.count;
    return first >= end ? 0 : (end - first - 1) / lanes_of(m) + 1;
}

uint64_t bl_chip_map_size(const bl_chip *chip, const bl_chip_map *map)
{
    uint64_t count = count_of(map), behind = chip->part->size - map->offset;
    return map->mirrored && count > behind ? behind : count;
}

bool bl_chip_map_holds(const bl_chip *chip, const bl_chip_map *map, uint32_t address,
                       uint32_t *offset, uint8_t *bits)
{
    uint32_t lanes = lanes_of(map);
    if (!bl_range_holds(map->cpu, (bl_range){address, 1}) || address % lanes != map->lane % lanes)
        return false;
    uint64_t index =
        (address - first_of(map)) / lanes; /* a map that fits is no larger than the chip */
    uint32_t behind = chip->part->size - map->offset;
    *offset = map->offset + (uint32_t)(map->mirrored ? index % behind : index);
    *bits = map->nibble == 0 ? 0xFF : map->nibble == 1 ? 0x0F : 0xF0;
    return true;
}

const bl_chip *bl_chip_at(const bl_chip *chips, size_t count, uint32_t address, uint32_t *offset)
{
    uint8_t bits;
    for (size_t i = 0; i < count; i++)
        for (size_t k = 0; k < chips[i].map_count; k++)
            if (bl_chip_map_holds(&chips[i], &chips[i].maps[k], address, offset, &bits))
                return &chips[i];
    return NULL;
}

uint8_t bl_chip_bits(const bl_chip *chips, size_t count, uint32_t address)
{
    uint8_t held = 0, bits;
    uint32_t offset;
    for (size_t i = 0; i < count; i++)
        for (size_t k = 0; k < chips[i].map_count; k++)
            if (bl_chip_map_holds(&chips[i], &chips[i].maps[k], address, &offset, &bits))
                held |= bits;
    return held;
}

bool bl_chip_address(const bl_chip *chip, uint32_t offset, size_t nth, uint32_t *address)
{
    for (size_t k = 0; k < chip->map_count; k++) {
        const bl_chip_map *m = &chip->maps[k];
        uint64_t size = bl_chip_map_size(chip, m);
        if (offset < m->offset || offset - m->offset >= size) continue;
        uint64_t seen = (count_of(m) - 1 - (offset - m->offset)) / size + 1; /* by mirrors */
        if (nth >= seen) {
            nth -= (size_t)seen;
            continue;
        }
        *address =
            (uint32_t)(first_of(m) + (offset - m->offset + (uint64_t)nth * size) * lanes_of(m));
        return true;
    }
    return false;
}

/* ---- bytes of the image, each at its place in the chip ---- */

typedef struct place {
    uint32_t address, offset;
    uint8_t bits, value; /* of the CPU's byte; value is as the chip holds it */
} place;

/* What visits them. */
typedef struct visitor {
    void *context;
    void (*visit)(void *context, const place *p);
} visitor;

static void visit_piece(const bl_chip *chip, const bl_chip_map *m, const bl_piece *p,
                        const visitor *v)
{
    uint64_t first = p->first > m->cpu.first ? p->first : m->cpu.first;
    uint64_t end = (uint64_t)p->first + p->count, map_end = (uint64_t)m->cpu.first + m->cpu.count;
    if (end > map_end) end = map_end;
    for (uint64_t at = first; at < end; at++) {
        place here = {.address = (uint32_t)at};
        if (!bl_chip_map_holds(chip, m, here.address, &here.offset, &here.bits)) continue;
        uint8_t byte = p->bytes[at - p->first];
        here.value = here.bits == 0xFF   ? byte
                     : here.bits == 0x0F ? (uint8_t)(byte & 15)
                                         : (uint8_t)(byte >> 4);
        v->visit(v->context, &here);
    }
}

static void visit_image(const bl_chip *chip, const bl_image *image, const visitor *v)
{
    for (size_t k = 0; k < chip->map_count; k++)
        for (size_t i = 0; i < bl_image_pieces(image); i++) {
            bl_piece p = bl_image_piece(image, i);
            visit_piece(chip, &chip->maps[k], &p, v);
        }
}

static void add_to_run(void *context, const place *p)
{
    bl_chip_run *run = context;
    if (run->count == 0 || p->offset < run->offset) run->offset = p->offset;
    if (run->count == 0 || p->offset > run->highest) run->highest = p->offset;
    run->count++;
}

bool bl_chip_map_run(const bl_chip *chip, const bl_chip_map *map, const bl_piece *piece,
                     bl_chip_run *run)
{
    uint64_t last = (uint64_t)piece->first + piece->count - 1,
             map_last = (uint64_t)map->cpu.first + map->cpu.count - 1;
    memset(run, 0, sizeof *run);
    run->first = piece->first > map->cpu.first ? piece->first : map->cpu.first;
    run->last = (uint32_t)(last < map_last ? last : map_last);
    visit_piece(chip, map, piece, &(visitor){run, add_to_run});
    return run->count > 0;
}

typedef struct filling {
    uint8_t *bytes;
    uint32_t used;
} filling;

static void fill_in(void *context, const place *p)
{
    filling *f = context;
    uint8_t *cell = &f->bytes[p->offset];
    *cell = p->bits == 0xFF ? p->value : (uint8_t)((*cell & 0xF0) | p->value);
    f->used++;
}

void bl_chip_contents(const bl_chip *chip, const bl_image *image, uint8_t *bytes, uint32_t *used)
{
    filling f = {bytes, 0};
    memset(bytes, chip->fill, (size_t)chip->part->size);
    visit_image(chip, image, &(visitor){&f, fill_in});
    *used = f.used;
}

typedef struct comparison {
    const bl_chip *chip;
    bl_image *image;
    const uint8_t *bytes;
    const bl_sink *sink;
    uint64_t conflicts;
} comparison;

/* The address that won: the last whose image byte stands in the chip. */
static uint32_t winner(const comparison *c, const place *p)
{
    uint32_t other = p->address, candidate;
    for (size_t n = 0; n < MIRRORS_MAX && bl_chip_address(c->chip, p->offset, n, &candidate); n++) {
        uint8_t byte;
        if (candidate != p->address && bl_image_copy(c->image, candidate, 1, 0, &byte) == 1)
            other = candidate;
    }
    return other;
}

static void compare_place(void *context, const place *p)
{
    comparison *c = context;
    uint8_t found = c->bytes[p->offset];
    if (p->bits != 0xFF) found &= 15;
    if (found == p->value) return;
    if (c->conflicts++ > 0) return; /* the first says it */
    bl_origin origin = bl_image_origin(c->image, p->address);
    bl_report(c->sink, BL_ERROR, bl_image_file_name(c->image, origin.file), origin.line,
              "the board shows the same byte of the chip at both addresses: give it one value",
              "two sources for offset $%04lX of %s: $%04lX wants %02X, $%04lX wants %02X",
              (unsigned long)p->offset, c->chip->name, (unsigned long)p->address, p->value,
              (unsigned long)winner(c, p), found);
}

uint64_t bl_chip_conflicts(const bl_chip *chip, bl_image *image, const uint8_t *bytes,
                           const bl_sink *sink)
{
    comparison c = {chip, image, bytes, sink, 0};
    visit_image(chip, image, &(visitor){&c, compare_place});
    return c.conflicts;
}

/* ---- strays ---- */

static void tell_stray(bl_image *image, uint32_t first, uint64_t count, const bl_sink *sink)
{
    bl_origin origin = bl_image_origin(image, first);
    bl_report(sink, BL_ERROR, bl_image_file_name(image, origin.file), origin.line,
              "place it in an area that a chip holds, or map a chip there",
              "%llu byte%s at $%04lX lie%s in no chip", (unsigned long long)count,
              count == 1 ? "" : "s", (unsigned long)first, count == 1 ? "s" : "");
}

uint64_t bl_chip_strays(const bl_chip *chips, size_t count, bl_image *image, const bl_sink *sink)
{
    uint64_t strays = 0;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        uint64_t run = 0;
        for (size_t k = 0; k <= p.count; k++) {
            bool stray = k < p.count && bl_chip_bits(chips, count, p.first + (uint32_t)k) != 0xFF;
            if (!stray && run > 0) tell_stray(image, p.first + (uint32_t)(k - run), run, sink);
            run = stray ? run + 1 : 0;
            strays += stray;
        }
    }
    return strays;
}

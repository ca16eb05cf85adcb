/* bench_chips.c - which chips there are, and where the board decodes them. */
#include "bench_read.h"

/* ---- maps ---- */

/* "even", "odd", or "1 of 4" */
static bool take_lane(reader *r, yaml_node_t *node, const char *text, bl_chip_map *m)
{
    unsigned lane = 0, lanes = 0;
    char rest;
    if (strcmp(text, "even") == 0 || strcmp(text, "odd") == 0)
        lane = *text == 'o', lanes = 2;
    else if (sscanf(text, "%u of %u%c", &lane, &lanes, &rest) != 2 || lane < 1 || lane > lanes ||
             lanes > 16) {
        yaml_fault(&r->yaml, node, "even, odd, or like: 1 of 4", "'%s' is no lane", text);
        return false;
    } else
        lane--;
    m->lane = (uint8_t)lane;
    m->lanes = (uint8_t)lanes;
    return true;
}

static bool take_kind(reader *r, yaml_node_t *node, const file_map *f, bl_chip_map *m)
{
    if (f->lane != NULL && !take_lane(r, yaml_key(&r->yaml, node, "lane"), f->lane, m))
        return false;
    if (f->nibble != NULL)
        m->nibble = strcmp(f->nibble, "low") == 0 ? 1 : strcmp(f->nibble, "high") == 0 ? 2 : 9;
    if (m->nibble == 9) {
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "nibble"), "low or high", "'%s' is no nibble",
                   f->nibble);
        return false;
    }
    m->mirrored = f->mirrored != NULL && strcmp(f->mirrored, "yes") == 0;
    if (f->mirrored != NULL && !m->mirrored && strcmp(f->mirrored, "no") != 0)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "mirrored"), "yes or no",
                   "'%s' is neither yes nor no", f->mirrored);
    return true;
}

/* Two maps meet when they share an address, its lane and a bit. Lanes of different counts may. */
static bool maps_meet(const bl_chip_map *a, const bl_chip_map *b)
{
    unsigned n = MAX(a->lanes, 1), k = MAX(b->lanes, 1);
    if (!bl_range_meet(a->cpu, b->cpu)) return false;
    if (a->nibble != 0 && b->nibble != 0 && a->nibble != b->nibble) return false;
    for (unsigned address = 0; address < n * k; address++)
        if (address % n == a->lane && address % k == b->lane) return true;
    return false;
}

static void check_meeting(reader *r, yaml_node_t *node, const bl_chip *c, const bl_chip_map *m)
{
    for (const bl_chip *o = r->b->chips; o <= c && r->yaml.faults < 100; o++)
        for (size_t k = 0; k < o->map_count; k++)
            if (maps_meet(&o->maps[k], m))
                yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "cpu"), NULL,
                           "two chips answer at $%04lX: %s and %s",
                           (unsigned long)MAX(o->maps[k].cpu.first, m->cpu.first), o->name,
                           c->name);
}

/* A map counts bytes of an image; the bench file counts the machine's addresses. */
static void take_map(reader *r, yaml_node_t *node, const file_map *f, bl_chip *c)
{
    bl_chip_map m = {.offset = 0};
    if (!bench_range(r, yaml_key(&r->yaml, node, "cpu"), f->cpu, &m.cpu)) return;
    if (f->offset != NULL && !bench_number(r, yaml_key(&r->yaml, node, "offset"), f->offset,
                                           c->part->size - 1, &m.offset))
        return;
    if (!take_kind(r, node, f, &m)) return;
    m.cpu = bench_bytes(r->b, m.cpu);
    uint64_t count = bl_chip_map_size(c, &m);
    if (count > c->part->size - m.offset) {
        yaml_fault(&r->yaml, node, "if the chip repeats within the range, say: mirrored: yes",
                   "$%lX bytes from offset $%lX on do not fit into a %s of $%lX bytes",
                   (unsigned long)count, (unsigned long)m.offset, c->part->name,
                   (unsigned long)c->part->size);
        return;
    }
    check_meeting(r, node, c, &m);
    c->maps[c->map_count++] = m;
}

/* ---- chips ---- */

static const bl_part *find_part(const bench *b, const char *name)
{
    for (size_t i = 0; i < b->part_count; i++)
        if (g_ascii_strcasecmp(b->parts[i].name, name) == 0) return &b->parts[i];
    return bl_part_named(bench_text(name));
}

static void unknown_part(reader *r, yaml_node_t *node, const char *name)
{
    GString *known = g_string_new("known:");
    for (size_t i = 0; i < r->b->part_count; i++)
        g_string_append_printf(known, " %s", r->b->parts[i].name);
    for (size_t i = 0; i < bl_parts(); i++)
        g_string_append_printf(known, " %s", bl_part_at(i)->name);
    g_string_append(known, "; others under 'parts'");
    yaml_fault(&r->yaml, node, known->str, "no part is called '%s'", name);
    g_string_free(known, TRUE);
}

static void take_details(reader *r, yaml_node_t *node, const file_chip *f, bl_chip *c)
{
    uint32_t fill = 0xFF, copies = 1;
    uint64_t access = 0;
    if (f->fill != NULL) bench_number(r, yaml_key(&r->yaml, node, "fill"), f->fill, 255, &fill);
    if (f->copies != NULL)
        bench_number(r, yaml_key(&r->yaml, node, "copies"), f->copies, 999, &copies);
    if (copies == 0)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "copies"), NULL,
                   "there is at least one copy");
    if (f->access != NULL)
        bench_quantity(r, yaml_key(&r->yaml, node, "access"), f->access, &bench_delays, 1, 5000,
                       &access);
    c->fill = (uint8_t)fill;
    c->copies = (uint16_t)copies;
    c->access_ns = (uint16_t)access;
}

/* Faults of a chip are told one by one, so that one does not hide the others. */
static void take_chip(reader *r, yaml_node_t *list, unsigned i)
{
    const file_chip *f = &r->file->chips[i];
    yaml_node_t *node = yaml_item(&r->yaml, list, i), *maps = yaml_key(&r->yaml, node, "maps");
    bl_chip *c = &r->b->chips[i];
    c->name = f->name;
    if (!bench_identifier(r, yaml_key(&r->yaml, node, "name"), f->name)) return;
    for (unsigned j = 0; j < i; j++)
        if (strcmp(r->b->chips[j].name, f->name) == 0)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                       "chip '%s' is described twice", f->name);
    c->part = find_part(r->b, f->part);
    if (c->part == NULL || c->part->size == 0) {
        if (c->part == NULL) unknown_part(r, yaml_key(&r->yaml, node, "part"), f->part);
        return;
    }
    take_details(r, node, f, c);
    if (f->maps_count == 0 || f->maps_count > BL_CHIP_MAPS)
        yaml_fault(&r->yaml, node, "maps: [{cpu: FIRST..LAST, offset: WHERE}]",
                   "a chip has 1 to %d maps", BL_CHIP_MAPS);
    for (unsigned k = 0; k < f->maps_count && k < BL_CHIP_MAPS; k++)
        take_map(r, yaml_item(&r->yaml, maps, k), &f->maps[k], c);
}

void bench_take_chips(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "chips");
    r->b->chips = g_new0(bl_chip, r->file->chips_count + 1);
    enum { MAX_BYTES = 32 << 20 };
    uint64_t bytes = 0;
    for (unsigned i = 0; i < r->file->chips_count; i++) {
        take_chip(r, list, i);
        if (r->b->chips[i].part != NULL) bytes += r->b->chips[i].part->size;
    }
    if (bytes > MAX_BYTES)
        yaml_fault(&r->yaml, list, "describe them in several bench files",
                   "the chips hold more than 32 MiB together");
    r->b->chip_count = r->file->chips_count;
}

/* ---- is all ROM held? ---- */

/* Chips answer alike all over a range between two edges of maps and holes, but for their lanes:
 * there it is enough to look at as many addresses as the lanes go round in. */
static int by_address(const void *a, const void *b)
{
    uint64_t x = *(const uint64_t *)a, y = *(const uint64_t *)b;
    return x < y ? -1 : x > y;
}

/* Where something may change within an area, in bytes, rising; the first is its beginning. */
static GArray *edges_of(const bench *b, const bl_area *a)
{
    bl_range area = bench_bytes(b, a->range);
    GArray *edges = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    uint64_t first = area.first, end = first + area.count;
    g_array_append_val(edges, first);
    for (size_t i = 0; i < a->hole_count; i++) {
        bl_range hole = bench_bytes(b, a->holes[i]);
        uint64_t behind = (uint64_t)hole.first + hole.count;
        if (behind < end) g_array_append_val(edges, behind);
    }
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            bl_range cpu = b->chips[i].maps[k].cpu;
            uint64_t begins = cpu.first, ends = begins + cpu.count;
            if (begins > first && begins < end) g_array_append_val(edges, begins);
            if (ends > first && ends < end) g_array_append_val(edges, ends);
        }
    g_array_sort(edges, by_address);
    return edges;
}

/* After so many addresses all lanes have come round; 0: they never do within reason. */
static unsigned lanes_period(const bench *b)
{
    enum { LIMIT = 5040 };
    unsigned period = 1;
    for (size_t i = 0; i < b->chip_count; i++)
        for (size_t k = 0; k < b->chips[i].map_count; k++) {
            unsigned lanes = MAX(b->chips[i].maps[k].lanes, 1u), n = period;
            while (n % lanes != 0)
                n += period;
            if (n > LIMIT) return 0;
            period = n;
        }
    return period;
}

/* The first byte of an area that is not held whole, and which bits of it are. */
static bool find_unheld(const bench *b, const bl_area *a, unsigned period, uint64_t *where,
                        uint8_t *bits)
{
    bl_range area = bench_bytes(b, a->range);
    uint64_t end = (uint64_t)area.first + area.count;
    unsigned wide = bl_sheet_unit_bytes(b->sheet);
    GArray *edges = edges_of(b, a);
    bool found = false;
    for (guint i = 0; i < edges->len && !found; i++) {
        uint64_t from = g_array_index(edges, uint64_t, i),
                 next = i + 1 < edges->len ? g_array_index(edges, uint64_t, i + 1) : end;
        for (uint64_t at = from; at < next && at < from + period && !found; at++) {
            bl_range unit = {(uint32_t)(at / wide), 1};
            *where = at;
            found = bl_area_holds(a, unit) &&
                    (*bits = bl_chip_bits(b->chips, b->chip_count, (uint32_t)at)) != 0xFF;
        }
    }
    g_array_free(edges, TRUE);
    return found;
}

/* ROM that no chip answers for reads as nothing. */
void bench_check_rom(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "areas");
    unsigned period = lanes_period(r->b);
    if (period == 0) {
        yaml_fault(&r->yaml, yaml_key(&r->yaml, yaml_root(&r->yaml), "chips"), NULL,
                   "so many different numbers of lanes cannot work together");
        return;
    }
    for (size_t i = 0; i < r->b->area_count; i++) {
        const bl_area *a = &r->b->areas[i];
        if (a->kind != BL_AREA_ROM) continue;
        uint64_t at;
        uint8_t bits;
        if (!find_unheld(r->b, a, period, &at, &bits)) continue;
        yaml_fault(&r->yaml, yaml_item(&r->yaml, list, i), "map a chip there, under 'chips'",
                   bits == 0 ? "area '%s' is ROM, and no chip holds $%04lX"
                             : "area '%s' is ROM, and only half of the byte at $%04lX is held",
                   a->name, (unsigned long)(at / bl_sheet_unit_bytes(r->b->sheet)));
    }
}

bool bench_find_chip(const bench *b, const char *name, size_t *index)
{
    size_t like = 0, found = 0;
    for (*index = 0; *index < b->chip_count; ++*index) {
        if (strcmp(name, b->chips[*index].name) == 0) return true;
        if (g_ascii_strcasecmp(name, b->chips[*index].name) != 0) continue;
        like = *index;
        found++;
    }
    *index = like; /* in the other case, when that means one of them alone */
    return found == 1;
}

/* classic_volume.c - a disk of the classic layout is opened. */
#include "classic_volume.h"

/* ---- sectors ---- */

/* The drive's sectors may be larger: then a part of one is written. */
bl_status bl_classic_read(bl_disk *d, uint32_t sector, uint8_t *bytes)
{
    const classic *c = classic_of(d);
    uint32_t mine = c->layout.sector, theirs = d->sectors.size;
    uint32_t at = sector * mine;
    if (theirs <= mine) return bl_disk_read_sectors(d, at / theirs, mine / theirs, bytes);
    bl_status status = bl_disk_read_sector(d, at / theirs, c->physical);
    if (status == BL_OK) memcpy(bytes, c->physical + at % theirs, (size_t)mine);
    return status;
}

bl_status bl_classic_write(bl_disk *d, uint32_t sector, const uint8_t *bytes)
{
    const classic *c = classic_of(d);
    uint32_t mine = c->layout.sector, theirs = d->sectors.size;
    uint32_t at = sector * mine;
    if (theirs <= mine) return bl_disk_write_sectors(d, at / theirs, mine / theirs, bytes);
    bl_status status = bl_disk_read_sector(d, at / theirs, c->physical);
    if (status != BL_OK) return status;
    memcpy(c->physical + at % theirs, bytes, (size_t)mine);
    return bl_disk_write_sector(d, at / theirs, c->physical);
}

uint32_t bl_classic_sector(const classic *c, uint32_t block, uint32_t index)
{
    uint32_t linear = block * c->block_sectors + index;
    uint32_t track = c->layout.system + linear / c->layout.track;
    return track * c->layout.track + c->physical_of[linear % c->layout.track];
}

bl_status bl_classic_save(bl_disk *d, uint32_t entry)
{
    const classic *c = classic_of(d);
    uint32_t index = entry / c->per_sector;
    return bl_classic_write(d, classic_directory_sector(c, index),
                            c->entries + (size_t)index * c->layout.sector);
}

/* ---- entries ---- */

uint32_t bl_classic_block(const classic *c, const uint8_t *e, uint32_t index)
{
    return c->per_entry == 16 ? e[16 + index] : bl_little16(e + 16 + 2 * index);
}

void bl_classic_set_block(const classic *c, uint8_t *e, uint32_t index, uint32_t block)
{
    if (c->per_entry == 16)
        e[16 + index] = (uint8_t)block;
    else
        bl_put_little16(e + 16 + 2 * index, block);
}

bool bl_classic_same(const uint8_t *a, const uint8_t *b)
{
    if (a[0] != b[0]) return false;
    for (size_t i = 1; i <= CLASSIC_NAMES; i++)
        if (((a[i] ^ b[i]) & 0x7F) != 0) return false;
    return true;
}

void bl_classic_name_text(const uint8_t *e, char text[16])
{
    size_t n = 0;
    for (size_t i = 1; i <= CLASSIC_NAMES; i++) {
        char c = (char)(e[i] & 0x7F);
        if (i == 9 && c != ' ') text[n++] = '.';
        if (c != ' ') text[n++] = c > ' ' && c < 0x7F ? c : '?';
    }
    text[n] = '\0';
}

void bl_classic_count(classic *c)
{
    memset(c->used, 0, (size_t)c->blocks);
    for (uint32_t i = 0; i < c->directory_blocks; i++)
        c->used[i] = 1;
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        for (uint32_t k = 0; classic_is_file(e) && k < c->per_entry; k++) {
            uint32_t block = bl_classic_block(c, e, k);
            if (block != 0 && block < c->blocks && c->used[block] < 255) c->used[block]++;
        }
    }
}

/* ---- opening ---- */

void bl_classic_close(bl_disk *d)
{
    classic *c = classic_of(d);
    bl_disk_free(d, c->entries);
    bl_disk_free(d, c->used);
    bl_disk_free(d, c->buffer);
    bl_disk_free(d, c->physical);
    bl_disk_free(d, c);
    d->state = NULL;
}

static void measure(classic *c, const bl_classic *l)
{
    c->layout = *l;
    c->block_sectors = (uint32_t)l->block / l->sector;
    c->blocks = (uint32_t)(l->tracks - l->system) * l->track / c->block_sectors;
    c->directory_blocks = ((uint32_t)l->entries * CLASSIC_ENTRY + l->block - 1) / l->block;
    c->per_entry = c->blocks <= 256 ? 16 : 8;
    c->extents = l->extents != 0 ? l->extents : c->per_entry * l->block / 16384;
    c->per_sector = (uint32_t)l->sector / CLASSIC_ENTRY;
    for (uint16_t i = 0; i < l->track; i++)
        c->physical_of[i] = (uint8_t)bl_classic_physical(l, i);
}

static bl_status read_directory(bl_disk *d)
{
    classic *c = classic_of(d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < c->layout.entries / c->per_sector && status == BL_OK; i++)
        status = bl_classic_read(d, classic_directory_sector(c, i),
                                 c->entries + (size_t)i * c->layout.sector);
    return status;
}

uint8_t *bl_classic_keep(bl_disk *d)
{
    const classic *c = classic_of(d);
    uint8_t *before = bl_disk_room(d, c->layout.entries, CLASSIC_ENTRY);
    if (before != NULL) memcpy(before, c->entries, c->layout.entries * (size_t)CLASSIC_ENTRY);
    return before;
}

bl_status bl_classic_settle(bl_disk *d, uint8_t *before, bl_status status)
{
    classic *c = classic_of(d);
    if (status != BL_OK) {
        bl_sink told = bl_disk_hush(d);
        memcpy(c->entries, before, c->layout.entries * (size_t)CLASSIC_ENTRY);
        read_directory(d);
        d->setup.sink = told;
    }
    bl_disk_free(d, before);
    bl_classic_count(c);
    return status;
}

bl_status bl_classic_try(bl_disk *d, const bl_classic *l, bool longer)
{
    const char *why;
    uint64_t bytes = (uint64_t)d->sectors.count * d->sectors.size;
    bool fits = longer ? bytes >= bl_classic_bytes(l) : bytes == bl_classic_bytes(l);
    if (bl_classic_check_layout(l, &why) != BL_OK || !fits) return BL_E_NOT_FOUND;
    classic *c = bl_disk_room(d, 1, sizeof *c);
    if (c == NULL) return BL_E_MEMORY;
    d->state = c;
    measure(c, l);
    c->entries = bl_disk_room(d, l->entries, CLASSIC_ENTRY);
    c->used = bl_disk_room(d, c->blocks, 1);
    c->buffer = bl_disk_room(d, l->sector, 1);
    c->physical = bl_disk_room(d, d->sectors.size, 1);
    bool room = c->entries != NULL && c->used != NULL && c->buffer != NULL && c->physical != NULL;
    bl_status status = room ? read_directory(d) : BL_E_MEMORY;
    if (status == BL_OK)
        bl_classic_count(c);
    else
        bl_classic_close(d);
    return status;
}

/* ---- what it says of itself ---- */

static void describe_classic(bl_disk *d, char *text, size_t capacity)
{
    const classic *c = classic_of(d);
    bl_format(text, capacity, "layout %s: %u tracks of %u sectors of %u bytes, %lu blocks of %u",
              c->layout.name, c->layout.tracks, c->layout.track, c->layout.sector,
              (unsigned long)c->blocks, c->layout.block);
}

static bl_status space_of_classic(bl_disk *d, bl_disk_space *s)
{
    const classic *c = classic_of(d);
    uint32_t run = 0;
    s->unit = c->layout.block, s->units = c->blocks - c->directory_blocks;
    for (uint32_t i = 0; i < c->blocks; i++) {
        run = c->used[i] == 0 ? run + 1 : 0;
        if (c->used[i] == 0) s->free++;
        if (run > s->largest) s->largest = run;
    }
    s->entries = c->layout.entries;
    for (uint32_t i = 0; i < c->layout.entries; i++)
        if (classic_entry(c, i)[0] == CLASSIC_EMPTY) s->entries_free++;
    return BL_OK;
}

static bl_status boot_area_of_classic(bl_disk *d, uint32_t *sectors, uint32_t *from,
                                      uint32_t *count)
{
    const classic *c = classic_of(d);
    *sectors = (uint32_t)c->layout.system * c->layout.track * c->layout.sector / d->sectors.size;
    *from = *count = 0;
    return BL_OK;
}

const bl_classic *bl_classic_of(const bl_disk *d)
{
    return d->kind == BL_DISK_CLASSIC ? &classic_of(d)->layout : NULL;
}

static const bl_disk_calls classic_calls = {
    .close = bl_classic_close,
    .describe = describe_classic,
    .space = space_of_classic,
    .list = bl_classic_list,
    .find = bl_classic_find,
    .get = bl_classic_get,
    .put = bl_classic_put,
    .remove = bl_classic_remove,
    .rename = bl_classic_rename,
    .check = bl_classic_check,
    .map = bl_classic_map,
    .boot_area = boot_area_of_classic,
};

bl_status bl_classic_begin(bl_disk *d)
{
    bl_status status = bl_classic_detect(d);
    if (status != BL_OK) return status;
    d->calls = &classic_calls;
    d->kind = BL_DISK_CLASSIC;
    return BL_OK;
}

/* classic_put.c - a file is written to a disk of the classic layout.
 *
 * A file of several entries cannot be exchanged in one write, unless all of them, and those of the
 * file before, are in one sector of the directory. Where they are not, a live disk gets the new
 * file under the type $$$, its first entry last; then the old one is taken away; then the new one
 * gets its name, its first entry first. bl_classic_check knows what is left of each of these steps.
 */
#include "classic_file.h"

/* What a put is about. */
typedef struct classic_putting {
    bl_disk *d;
    const char *path;
    const bl_disk_file *file;
    classic_file old;
    uint8_t key[12];
    uint32_t records, blocks, count; /* that it needs; count: entries */
    uint8_t *entries;                /* as they will be */
    uint32_t *slots;                 /* where in the directory */
} classic_putting;

static uint32_t records_of_entry(const classic_putting *p, uint32_t number)
{
    uint32_t per = classic_of(p->d)->extents * CLASSIC_EXTENT, before = number * per;
    uint32_t left = p->records - before;
    return left < per ? left : per;
}

/* The entries without their blocks. */
static void make_entries(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    for (uint32_t n = 0; n < p->count; n++) {
        uint8_t *e = p->entries + (size_t)n * CLASSIC_ENTRY;
        uint32_t records = records_of_entry(p, n);
        /* The extent is that of the last record; it has 1 to 128 of them. */
        uint32_t in = records == 0 ? 0 : (records - 1) / CLASSIC_EXTENT;
        uint32_t extent = n * c->extents + in;
        memset(e, 0, CLASSIC_ENTRY);
        memcpy(e, p->key, 12);
        e[12] = (uint8_t)(extent & 31), e[14] = (uint8_t)(extent >> 5);
        e[15] = (uint8_t)(records - in * CLASSIC_EXTENT);
        if (n + 1 == p->count) e[13] = (uint8_t)(p->file->size % BL_DISK_RECORD);
        e[9] = (uint8_t)(e[9] | (p->file->attributes & BL_DISK_READ_ONLY ? 0x80 : 0));
        e[10] =
            (uint8_t)(e[10] | (p->file->attributes & (BL_DISK_SYSTEM | BL_DISK_HIDDEN) ? 0x80 : 0));
    }
}

static bl_status classic_full(classic_putting *p, const char *of)
{
    bl_disk_space s;
    bl_disk_space_of(p->d, &s);
    bool would = p->d->setup.live && p->old.count > 0;
    return bl_disk_fail(p->d, BL_E_FULL,
                        would ? "on a live disk the old file stays until the new one is there: "
                                "delete it first"
                              : NULL,
                        "%s: %s: it needs %lu blocks of %u bytes and %lu entries; %lu and %lu are "
                        "free",
                        p->path, of, (unsigned long)p->blocks, classic_of(p->d)->layout.block,
                        (unsigned long)p->count, (unsigned long)s.free,
                        (unsigned long)s.entries_free);
}

/* Gives each entry its blocks. */
static bl_status take_blocks(classic_putting *p)
{
    classic *c = classic_of(p->d);
    uint32_t at = 0, done = 0;
    uint32_t per = c->extents * CLASSIC_EXTENT * BL_DISK_RECORD / c->layout.block;
    for (; done < p->blocks && at < c->blocks; at++) {
        if (c->used[at] != 0) continue;
        c->used[at] = 1;
        bl_classic_set_block(c, p->entries + (size_t)(done / per) * CLASSIC_ENTRY, done % per, at);
        done++;
    }
    return done == p->blocks ? BL_OK : classic_full(p, "the disk is full");
}

/* Writes a block's sectors, as far as the file goes, or compares them. */
static bl_status pass_block(classic_putting *p, uint32_t index, uint32_t block, bool compare)
{
    const classic *c = classic_of(p->d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < c->block_sectors && status == BL_OK; i++) {
        uint32_t from = index * c->layout.block + i * c->layout.sector;
        if (from >= p->file->size) break;
        uint32_t left = p->file->size - from;
        uint32_t count = left < c->layout.sector ? left : c->layout.sector;
        uint32_t sector = bl_classic_sector(c, block, i);
        if (compare) {
            status = bl_classic_read(p->d, sector, c->buffer);
            if (status == BL_OK && memcmp(c->buffer, p->file->bytes + from, (size_t)count) != 0)
                status = bl_disk_fail(p->d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                                      "%s: what was read back from block %lu differs", p->path,
                                      (unsigned long)block);
        } else {
            memset(c->buffer, CLASSIC_PAD, c->layout.sector);
            memcpy(c->buffer, p->file->bytes + from, (size_t)count);
            status = bl_classic_write(p->d, sector, c->buffer);
        }
    }
    return status;
}

static bl_status pass_blocks(classic_putting *p, bool compare)
{
    const classic *c = classic_of(p->d);
    uint32_t per = c->extents * CLASSIC_EXTENT * BL_DISK_RECORD / c->layout.block;
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < p->blocks && status == BL_OK; i++) {
        const uint8_t *e = p->entries + (size_t)(i / per) * CLASSIC_ENTRY;
        status = pass_block(p, i, bl_classic_block(c, e, i % per), compare);
    }
    return status;
}

/* ---- the directory ---- */

static bool is_of_old_file(const classic_putting *p, const uint8_t *e)
{
    return classic_is_file(e) && bl_classic_same(e, p->key);
}

/* A sector of the directory where all new entries have room, and no other has one of the old. The
 * last sector + 1: there is none. */
static uint32_t find_one_sector(const classic_putting *p)
{
    const classic *c = classic_of(p->d);
    uint32_t sectors = c->layout.entries / c->per_sector;
    for (uint32_t s = 0; s < sectors; s++) {
        uint32_t room = 0, old = 0;
        for (uint32_t i = 0; i < c->per_sector; i++) {
            const uint8_t *e = classic_entry(c, s * c->per_sector + i);
            if (is_of_old_file(p, e)) old++;
            if (is_of_old_file(p, e) || e[0] == CLASSIC_EMPTY) room++;
        }
        if (room >= p->count && old == p->old.count) return s;
    }
    return sectors;
}

static bl_status put_in_one_sector(classic_putting *p, uint32_t s)
{
    const classic *c = classic_of(p->d);
    uint32_t next = 0;
    for (uint32_t i = 0; i < c->per_sector; i++) {
        uint8_t *e = classic_entry(c, s * c->per_sector + i);
        if (is_of_old_file(p, e)) e[0] = CLASSIC_EMPTY;
    }
    for (uint32_t i = 0; i < c->per_sector && next < p->count; i++) {
        uint8_t *e = classic_entry(c, s * c->per_sector + i);
        if (e[0] == CLASSIC_EMPTY)
            memcpy(e, p->entries + (size_t)next++ * CLASSIC_ENTRY, CLASSIC_ENTRY);
    }
    BL_ASSERT(next == p->count);
    return bl_classic_save(p->d, s * c->per_sector);
}

static bl_status find_slots(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    uint32_t found = 0;
    for (uint32_t i = 0; i < c->layout.entries && found < p->count; i++)
        if (classic_entry(c, i)[0] == CLASSIC_EMPTY) p->slots[found++] = i;
    return found == p->count ? BL_OK : classic_full(p, "its directory is full");
}

/* Under another type first; the slots rise, so the first entry is in the last sector written when
 * they are filled from the last. */
static bl_status put_in_steps(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    uint8_t other[12];
    memcpy(other, p->key, sizeof other);
    memset(other + 9, '$', 3);
    if (bl_classic_same(other, p->key))
        return bl_disk_fail(p->d, BL_E_UNSUPPORTED, "give it another type",
                            "%s: files of this type are what is written while others are replaced",
                            p->path);
    bl_status status = bl_classic_erase(p->d, other);
    if (status == BL_OK) status = find_slots(p);
    for (uint32_t n = p->count; n > 0 && status == BL_OK; n--) {
        uint32_t slot = p->slots[p->count - n];
        memcpy(classic_entry(c, slot), p->entries + (size_t)(n - 1) * CLASSIC_ENTRY, CLASSIC_ENTRY);
        memcpy(classic_entry(c, slot), other, 12);
        status = bl_classic_save(p->d, slot);
    }
    if (status == BL_OK && p->old.count > 0) status = bl_classic_erase(p->d, p->key);
    return status == BL_OK ? bl_classic_rekey(p->d, other, p->key) : status;
}

/* Nothing is lost when this fails half way: the caller throws it all away. */
static bl_status put_anywhere(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    bl_status status = find_slots(p);
    for (uint32_t n = 0; n < p->count && status == BL_OK; n++) {
        memcpy(classic_entry(c, p->slots[n]), p->entries + (size_t)n * CLASSIC_ENTRY,
               CLASSIC_ENTRY);
        status = bl_classic_save(p->d, p->slots[n]);
    }
    return status;
}

/* Reads the file's entries back past what is in memory. */
static bl_status check_entries(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    for (uint32_t n = 0; n < p->count; n++) {
        uint32_t at = bl_classic_entry_of(c, p->key, n), index = at / c->per_sector;
        BL_ASSERT(at < c->layout.entries);
        bl_status status = bl_classic_read(p->d, classic_directory_sector(c, index), c->buffer);
        if (status != BL_OK) return status;
        if (memcmp(c->buffer + at % c->per_sector * CLASSIC_ENTRY, classic_entry(c, at),
                   CLASSIC_ENTRY) != 0)
            return bl_disk_fail(p->d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                                "%s: its entry in the directory was read back, and differs",
                                p->path);
    }
    return BL_OK;
}

static bl_status put_entries(classic_putting *p)
{
    const classic *c = classic_of(p->d);
    uint32_t s = find_one_sector(p);
    bl_status status;
    if (s < c->layout.entries / c->per_sector) {
        status = put_in_one_sector(p, s);
    } else if (p->d->setup.live) {
        status = put_in_steps(p);
    } else {
        status = p->old.count > 0 ? bl_classic_erase(p->d, p->key) : BL_OK;
        if (status == BL_OK) status = put_anywhere(p);
    }
    return status == BL_OK ? check_entries(p) : status;
}

static bl_status put_classic_steps(classic_putting *p)
{
    classic *c = classic_of(p->d);
    uint32_t per = c->extents * CLASSIC_EXTENT;
    bl_status status = bl_classic_key(p->d, p->path, p->key);
    if (status != BL_OK) return status;
    if (p->file->size > 0x2000000u) /* 64 times 32 extents */
        return bl_disk_fail(p->d, BL_E_FULL, NULL, "%s: no file can have more than 32 MiB",
                            p->path);
    bl_classic_gather(c, p->key, &p->old);
    if ((p->old.attributes & BL_DISK_READ_ONLY) != 0)
        return bl_disk_fail(p->d, BL_E_PROTECTED, "disk delete --force takes it away",
                            "%s is there, and read-only", p->path);
    p->records = (p->file->size + BL_DISK_RECORD - 1) / BL_DISK_RECORD;
    p->blocks = classic_needs(c, p->records);
    p->count = p->records == 0 ? 1 : (p->records + per - 1) / per;
    bl_disk_space space;
    bl_disk_space_of(p->d, &space);
    /* Without a file to be kept meanwhile its room counts, too. */
    if (!p->d->setup.live && p->old.count > 0 &&
        (space.free < p->blocks || space.entries_free < p->count)) {
        status = bl_classic_erase(p->d, p->key);
        p->old.count = 0;
    }
    p->entries = bl_disk_room(p->d, p->count, CLASSIC_ENTRY);
    p->slots = bl_disk_room(p->d, p->count, sizeof *p->slots);
    if (p->entries == NULL || p->slots == NULL) status = BL_E_MEMORY;
    if (status == BL_OK) make_entries(p), status = take_blocks(p);
    if (status == BL_OK) status = pass_blocks(p, false);
    if (status == BL_OK) status = pass_blocks(p, true);
    return status == BL_OK ? put_entries(p) : status;
}

bl_status bl_classic_put(bl_disk *d, const char *path, const bl_disk_file *file,
                         bl_disk_entry *stored)
{
    classic_putting p = {.d = d, .path = path, .file = file};
    uint8_t *before = bl_classic_keep(d);
    if (before == NULL) return BL_E_MEMORY;
    bl_status status = bl_classic_settle(d, before, put_classic_steps(&p));
    bl_disk_free(d, p.entries);
    bl_disk_free(d, p.slots);
    return status == BL_OK ? bl_classic_find(d, path, stored) : status;
}

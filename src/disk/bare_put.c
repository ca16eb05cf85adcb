/* bare_put.c - room on a bare disk, and a file that is written there. */
#include "bare_volume.h"

/* ---- room ---- */

/* The first sector from which on so many are free, if entry 'without' (0: none) did not count; 0:
 * there is no such place. */
static uint32_t find_room(bare *b, uint32_t count, unsigned without)
{
    uint32_t at = b->data;
    for (;;) {
        uint32_t next = at;
        for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
            const uint8_t *e = bare_entry(b, i);
            if (e[0] == 0 || i == without || bare_length(e) == 0) continue;
            uint32_t first = bare_first(e), behind = first + bare_sectors(e);
            if (first < at + count && behind > at) next = behind;
        }
        if (at + count > b->total) return 0;
        if (next == at) return at;
        at = next;
    }
}

/* The file that lies first from a sector on; 0: there is none. */
static unsigned next_file(bare *b, uint32_t from)
{
    unsigned found = 0;
    for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
        const uint8_t *e = bare_entry(b, i);
        if (e[0] == 0 || bare_length(e) == 0 || bare_first(e) < from) continue;
        if (found == 0 || bare_first(e) < bare_first(bare_entry(b, found))) found = i;
    }
    return found;
}

/* Moves all files together. Only where a failure spoils nothing. */
static bl_status move_together(bl_disk *d)
{
    bare *b = bare_of(d);
    uint32_t to = b->data;
    bl_status status = BL_OK;
    for (unsigned i = next_file(b, to); i != 0 && status == BL_OK; i = next_file(b, to)) {
        uint8_t *e = bare_entry(b, i);
        uint32_t first = bare_first(e), count = bare_sectors(e);
        for (uint32_t k = 0; k < count && first != to && status == BL_OK; k++) {
            status = bl_disk_read_sector(d, first + k, b->sector);
            if (status == BL_OK) status = bl_disk_write_sector(d, to + k, b->sector);
        }
        bl_put_little16(e + BARE_FIRST, to);
        to += count;
    }
    return status;
}

bl_status bl_bare_space(bl_disk *d, bl_disk_space *s)
{
    bare *b = bare_of(d);
    s->unit = BL_BARE_SECTOR, s->units = s->free = b->total - b->data;
    s->entries = s->entries_free = BL_BARE_FILES;
    uint32_t at = b->data;
    for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
        const uint8_t *e = bare_entry(b, i);
        if (e[0] == 0) continue;
        s->entries_free--;
        s->free -= bare_sectors(e) < s->free ? bare_sectors(e) : s->free;
    }
    for (unsigned i = next_file(b, at); i != 0; i = next_file(b, at)) {
        const uint8_t *e = bare_entry(b, i);
        if (bare_first(e) - at > s->largest) s->largest = bare_first(e) - at;
        at = bare_first(e) + bare_sectors(e);
    }
    if (at < b->total && b->total - at > s->largest) s->largest = b->total - at;
    return BL_OK;
}

/* ---- writing ---- */

/* Where a file's sectors go; old: the one that it replaces, or 0. */
static bl_status take_bare_room(bl_disk *d, const char *path, uint32_t count, unsigned old,
                                uint32_t *first)
{
    bare *b = bare_of(d);
    bl_disk_space s = {0};
    bl_status status = BL_OK;
    *first = count == 0 ? 0 : find_room(b, count, 0);
    if (count == 0 || *first != 0) return BL_OK;
    if (!d->setup.live) {
        if (old != 0) bl_put_little16(bare_entry(b, old) + BARE_LENGTH, 0);
        if (old != 0) bare_entry(b, old)[BARE_LENGTH + 2] = 0;
        *first = find_room(b, count, old);
        bl_bare_space(d, &s);
        if (*first == 0 && s.free >= count) status = move_together(d);
        if (*first == 0 && status == BL_OK && s.free >= count) *first = find_room(b, count, old);
        if (status != BL_OK || *first != 0) return status;
    }
    bl_bare_space(d, &s);
    return bl_disk_fail(d, BL_E_FULL,
                        s.free >= count ? "what is free lies in several places; a file lies in "
                                          "one. On a live disk nothing is moved: delete it first"
                                        : NULL,
                        "%s needs %lu sectors that follow each other; %lu are free, at most %lu "
                        "together",
                        path, (unsigned long)count, (unsigned long)s.free,
                        (unsigned long)s.largest);
}

static bl_status write_bare_file(bl_disk *d, const bl_disk_file *file, uint32_t first)
{
    bare *b = bare_of(d);
    bl_status status = BL_OK;
    for (uint32_t done = 0; done < file->size && status == BL_OK; done += BL_BARE_SECTOR) {
        uint32_t left = file->size - done;
        memset(b->sector, 0, BL_BARE_SECTOR);
        memcpy(b->sector, file->bytes + done,
               (size_t)(left < BL_BARE_SECTOR ? left : BL_BARE_SECTOR));
        status = bl_disk_write_sector(d, first + done / BL_BARE_SECTOR, b->sector);
    }
    return status;
}

static void make_bare_entry(uint8_t *e, const char *name, const bl_disk_file *file, uint32_t first)
{
    memset(e, 0, BARE_ENTRY);
    memcpy(e, name, bl_length(name));
    bl_put_little16(e + BARE_FIRST, first);
    bare_put_triple(e + BARE_LENGTH, file->size);
    e[BARE_FLAGS] =
        (uint8_t)((file->has_load ? BARE_HAS_LOAD : 0) | (file->has_entry ? BARE_HAS_ENTRY : 0));
    if (file->has_load) bare_put_triple(e + BARE_LOAD, file->load);
    if (file->has_entry) bare_put_triple(e + BARE_RUN, file->entry);
    e[BARE_SUM] = 1, e[BARE_SUM + 1] = 0;
    bl_bare_sum(e + BARE_SUM, file->bytes, (size_t)file->size);
}

/* What a file must be to be stored. */
static bl_status check_bare_file(bl_disk *d, const char *path, const bl_disk_file *file)
{
    bl_status status = bl_bare_must_be_sound(d);
    if (status == BL_OK) status = bl_bare_check_name(d, path);
    if (status != BL_OK) return status;
    if (file->size > 0xFFFFFF || file->load > 0xFFFFFF || file->entry > 0xFFFFFF)
        return bl_disk_fail(d, BL_E_RANGE, NULL, "%s: lengths and addresses have 24 bits here",
                            path);
    if (file->starts && !(file->has_load && file->has_entry))
        return bl_disk_fail(d, BL_E_REFUSED,
                            "a program has both: .entry in its source, or "
                            "--at ADDRESS for a raw binary",
                            "%s has no load address or no entry point, so it cannot start at "
                            "power-up",
                            path);
    return BL_OK;
}

/* The directory is one sector, and written last: all is old until then, and new afterwards. */
static bl_status put_bare_steps(bl_disk *d, const char *path, const bl_disk_file *file,
                                unsigned *index)
{
    bare *b = bare_of(d);
    uint32_t first, count = (file->size + BL_BARE_SECTOR - 1) / BL_BARE_SECTOR;
    uint8_t entry[BARE_ENTRY], check[2];
    bl_status status = check_bare_file(d, path, file);
    if (status != BL_OK) return status;
    unsigned old = *index = bl_bare_index(b, path);
    for (unsigned i = 1; i <= BL_BARE_FILES && *index == 0; i++)
        if (bare_entry(b, i)[0] == 0) *index = i;
    if (*index == 0)
        return bl_disk_fail(d, BL_E_FULL, NULL, "%s: the directory has its %d files already", path,
                            BL_BARE_FILES);
    status = take_bare_room(d, path, count, old, &first);
    if (status != BL_OK) return status;
    make_bare_entry(entry, bl_bare_plain_name(path), file, first);
    status = write_bare_file(d, file, first);
    if (status == BL_OK) status = bl_bare_sum_file(d, entry, check);
    if (status == BL_OK && memcmp(check, entry + BARE_SUM, 2) != 0)
        status = bl_disk_fail(d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                              "%s: what was read back differs", path);
    if (status != BL_OK) return status;
    memcpy(bare_entry(b, *index), entry, BARE_ENTRY);
    if (file->starts) b->directory[BARE_START] = (uint8_t)*index;
    return bl_bare_save(d);
}

bl_status bl_bare_put(bl_disk *d, const char *path, const bl_disk_file *file, bl_disk_entry *stored)
{
    bare *b = bare_of(d);
    unsigned index;
    bl_status status = put_bare_steps(d, path, file, &index);
    if (status != BL_OK) memcpy(b->directory, b->stored, BL_BARE_SECTOR);
    if (status == BL_OK) bl_bare_fill_entry(b, index, stored);
    return status;
}

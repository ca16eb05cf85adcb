/* classic_check.c - is a disk of the classic layout whole? and which sectors belong to what. */
#include "classic_file.h"

/* "3:NAME.TYP", in room for 24. */
static void path_text(const uint8_t *e, char text[24])
{
    char name[16];
    bl_classic_name_text(e, name);
    if (e[0] == 0)
        bl_format(text, 24, "%s", name);
    else
        bl_format(text, 24, "%u:%s", e[0], name);
}

static void check_entry_fields(const classic *c, const uint8_t *e, bl_disk_report *r)
{
    char path[24];
    uint32_t holes = 0, over = 0, needs = classic_needs(c, classic_records(c, e));
    path_text(e, path);
    if (e[15] > CLASSIC_EXTENT || e[12] > 31 || (e[14] & 0xC0) != 0)
        bl_disk_find_broken(r, false, false, "delete the file, and put it there again",
                            "%s: an entry of it has a length that none can have", path);
    for (uint32_t k = 0; k < c->per_entry; k++) {
        uint32_t block = bl_classic_block(c, e, k);
        if (block == 0 && k < needs) holes++;
        if (block != 0 && k >= needs) over++;
        if (block == 0) continue;
        if (block >= c->blocks || block < c->directory_blocks)
            bl_disk_find_broken(r, false, false, "delete the file, and put it there again",
                                "%s: block %lu is none of a file", path, (unsigned long)block);
        else if (c->used[block] > 1)
            bl_disk_find_broken(r, false, false,
                                "copy each of these files off, look which is whole, delete all of "
                                "them",
                                "%s shares block %lu with another", path, (unsigned long)block);
    }
    if (holes > 0)
        bl_disk_find_remark(r, false, "%s has a hole of %lu block%s, which reads as 0", path,
                            (unsigned long)holes, bl_plural(holes));
    if (over > 0)
        bl_disk_find_remark(r, false, "%s has %lu block%s behind its end", path,
                            (unsigned long)over, bl_plural(over));
}

/* ---- what a put that was cut off has left ---- */

/* Is each part there, and each but the last full? */
static bool has_all_parts(const classic *c, const classic_file *f, uint32_t first)
{
    uint32_t full = c->extents * CLASSIC_EXTENT;
    if (f->count == 0 || f->count != f->last + 1 - first) return false;
    for (uint32_t n = first; n < f->last; n++) {
        uint32_t at = bl_classic_entry_of(c, f->key, n);
        if (at == c->layout.entries || classic_records(c, classic_entry(c, at)) != full)
            return false;
    }
    return true;
}

static bool has_first(const classic *c, const classic_file *f)
{
    return bl_classic_entry_of(c, f->key, 0) < c->layout.entries;
}

/* All that is there of it is the first so many entries, and they are full. */
static bool is_begun(const classic *c, const classic_file *f)
{
    return has_first(c, f) && has_all_parts(c, f, 0) &&
           f->records == (f->last + 1) * c->extents * CLASSIC_EXTENT;
}

static bool lacks_first(const classic *c, const classic_file *f)
{
    return !has_first(c, f);
}

/* The file of the same name, and of another type, that is so. */
static bool find_namesake(const classic *c, const classic_file *rest,
                          bool (*is_so)(const classic *c, const classic_file *f),
                          classic_file *found)
{
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (!classic_is_file(e) || e[0] != rest->key[0] || memcmp(e + 9, "$$$", 3) == 0) continue;
        bool same = true;
        for (size_t k = 1; k <= 8; k++)
            same = same && ((e[k] ^ rest->key[k]) & 0x7F) == 0;
        if (!same) continue;
        bl_classic_gather(c, e, found);
        if (is_so(c, found)) return true;
    }
    return false;
}

static bl_status check_leftover(bl_disk *d, const uint8_t *e, bool repair, bl_disk_report *r)
{
    const classic *c = classic_of(d);
    classic_file rest, begun;
    char path[24];
    bl_status status = BL_OK;
    path_text(e, path);
    bl_classic_gather(c, e, &rest);
    uint32_t first = rest.last + 1 - rest.count;
    bool whole = has_first(c, &rest);
    if (whole && find_namesake(c, &rest, lacks_first, &begun)) {
        if (repair) status = bl_classic_erase(d, begun.key);
        if (repair && status == BL_OK) status = bl_classic_rekey(d, rest.key, begun.key);
        bl_disk_find_broken(r, repair, true, NULL,
                            "%s is a file that was being put there, whole; of the old one a part "
                            "is left",
                            path);
    } else if (whole) {
        bl_disk_find_remark(r, false,
                            "%s: if a put was cut off, this is the new file, whole: delete the old "
                            "one if it is there, and rename this to its name",
                            path);
    } else if (find_namesake(c, &rest, is_begun, &begun) && begun.last + 1 == first &&
               has_all_parts(c, &rest, first)) {
        if (repair) status = bl_classic_rekey(d, rest.key, begun.key);
        bl_disk_find_broken(r, repair, true, NULL,
                            "%s is the end of a file that was being put there", path);
    } else {
        if (repair) status = bl_classic_erase(d, rest.key);
        bl_disk_find_broken(r, repair, true, NULL,
                            "%s is the begin of a put that was cut off: no file misses it", path);
    }
    return status;
}

/* ---- all of it ---- */

/* After what was cut off has been put together again. */
static void check_parts(const classic *c, uint32_t index, bl_disk_report *r)
{
    const uint8_t *e = classic_entry(c, index);
    char path[24];
    classic_file f;
    for (uint32_t i = 0; i < index; i++)
        if (classic_is_file(classic_entry(c, i)) && bl_classic_same(classic_entry(c, i), e)) return;
    path_text(e, path);
    bl_classic_gather(c, e, &f);
    bool control = false;
    for (size_t i = 1; i <= CLASSIC_NAMES; i++)
        control |= (e[i] & 0x7F) < ' ' || (e[i] & 0x7F) == 0x7F;
    if (control)
        bl_disk_find_broken(r, false, false, "disk rename takes it away",
                            "%s: its name has a control character", path);
    /* What is left of a put is told by itself. */
    if (memcmp(e + 9, "$$$", 3) != 0 && bl_classic_lies(c, &f))
        bl_disk_find_broken(r, false, false, "copy what you can off it, and delete it",
                            "%s: its entries give it %lu bytes, and %lu of its %lu parts", path,
                            (unsigned long)f.size, (unsigned long)f.count,
                            (unsigned long)f.last + 1);
}

static bl_status check_classic_file(bl_disk *d, uint32_t index, bool repair, bl_disk_report *r)
{
    const classic *c = classic_of(d);
    const uint8_t *e = classic_entry(c, index);
    char path[24];
    uint32_t same = 0, earlier = 0;
    path_text(e, path);
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *o = classic_entry(c, i);
        if (!classic_is_file(o) || !bl_classic_same(o, e)) continue;
        if (i < index) earlier++;
        if (classic_number(c, o) == classic_number(c, e) && i < index) same++;
    }
    if (same > 0)
        bl_disk_find_broken(r, false, false, "delete the file, and put it there again",
                            "%s: part %lu of it is there twice", path,
                            (unsigned long)classic_number(c, e));
    check_entry_fields(c, e, r);
    if (earlier > 0) return BL_OK;
    r->files++;
    return memcmp(e + 9, "$$$", 3) == 0 ? check_leftover(d, e, repair, r) : BL_OK;
}

bl_status bl_classic_check(bl_disk *d, bool repair, bl_disk_report *r)
{
    classic *c = classic_of(d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < c->layout.entries && status == BL_OK; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (classic_is_file(e))
            status = check_classic_file(d, i, repair, r);
        else if (e[0] != CLASSIC_EMPTY && e[0] > 0x21)
            bl_disk_find_remark(r, false, "entry %lu of the directory is of no user area",
                                (unsigned long)i);
    }
    for (uint32_t i = 0; i < c->layout.entries && status == BL_OK; i++)
        if (classic_is_file(classic_entry(c, i))) check_parts(c, i, r);
    bl_classic_count(c);
    return status;
}

/* ---- the map ---- */

/* One sector of the drive may hold several of the layout, and the skew scatters a block: so what is
 * told are sectors of the layout in the order of the image, in units of the drive's. */
typedef struct classic_telling {
    bl_disk_run *run;
    void *context;
    uint32_t first, count; /* that were not told yet, in sectors of the layout */
    bl_disk_use use;
    uint32_t owner; /* index of an entry of the file, or UINT32_MAX */
    const classic *c;
    uint32_t size; /* of a sector of the drive */
} classic_telling;

static bl_status tell_pending(classic_telling *t)
{
    char path[24];
    uint32_t mine = t->c->layout.sector;
    uint32_t from = t->first * mine / t->size;
    uint32_t to = ((t->first + t->count) * mine + t->size - 1) / t->size;
    if (t->count == 0) return BL_OK;
    if (t->owner != UINT32_MAX) path_text(classic_entry(t->c, t->owner), path);
    return t->run(t->context, from, to - from, t->use, t->owner != UINT32_MAX ? path : NULL);
}

static bl_status tell_sector(classic_telling *t, uint32_t sector, bl_disk_use use, uint32_t owner)
{
    bl_status status = BL_OK;
    bool same = t->use == use && t->owner == owner && t->first + t->count == sector;
    if (!same) {
        status = tell_pending(t);
        t->first = sector, t->count = 0, t->use = use, t->owner = owner;
    }
    t->count++;
    return status;
}

/* For each block the first entry of the file that has it; UINT32_MAX: none has. */
static void find_owners(const classic *c, uint32_t *owner)
{
    for (uint32_t b = 0; b < c->blocks; b++)
        owner[b] = UINT32_MAX;
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        uint32_t first = 0;
        if (!classic_is_file(e)) continue;
        while (!bl_classic_same(classic_entry(c, first), e))
            first++;
        for (uint32_t k = 0; k < c->per_entry; k++) {
            uint32_t block = bl_classic_block(c, e, k);
            bool of_file = block >= c->directory_blocks && block < c->blocks;
            if (of_file && owner[block] == UINT32_MAX) owner[block] = first;
        }
    }
}

bl_status bl_classic_map(bl_disk *d, bl_disk_run *run, void *context)
{
    const classic *c = classic_of(d);
    uint32_t total = (uint32_t)c->layout.track * c->layout.tracks;
    uint32_t system = (uint32_t)c->layout.track * c->layout.system;
    classic_telling t = {.run = run, .context = context, .c = c, .size = d->sectors.size};
    uint32_t *block_of = bl_disk_room(d, total, sizeof *block_of);
    uint32_t *owner = bl_disk_room(d, c->blocks, sizeof *owner);
    bl_status status = block_of != NULL && owner != NULL ? BL_OK : BL_E_MEMORY;
    for (uint32_t i = 0; i < total && status == BL_OK; i++)
        block_of[i] = c->blocks;
    for (uint32_t b = 0; b < c->blocks && status == BL_OK; b++)
        for (uint32_t i = 0; i < c->block_sectors; i++)
            block_of[bl_classic_sector(c, b, i)] = b;
    if (status == BL_OK) find_owners(c, owner);
    for (uint32_t i = 0; i < total && status == BL_OK; i++) {
        uint32_t b = block_of[i];
        bl_disk_use use = i < system                ? BL_DISK_USE_BOOT
                          : b == c->blocks          ? BL_DISK_USE_SPARE
                          : b < c->directory_blocks ? BL_DISK_USE_FOLDER
                          : owner[b] == UINT32_MAX  ? BL_DISK_USE_FREE
                          : c->used[b] > 1          ? BL_DISK_USE_CROSS
                                                    : BL_DISK_USE_FILE;
        status = tell_sector(&t, i, use,
                             use >= BL_DISK_USE_FILE && b < c->blocks ? owner[b] : UINT32_MAX);
    }
    if (status == BL_OK) status = tell_pending(&t);
    bl_disk_free(d, block_of);
    bl_disk_free(d, owner);
    return status;
}

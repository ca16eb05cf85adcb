/* bare_check.c - is a bare disk whole? and which sectors belong to what. */
#include "bare_volume.h"

/* Two files that have a sector in common. */
static void check_overlap(bare *b, unsigned index, bl_disk_report *r)
{
    const uint8_t *e = bare_entry(b, index);
    char name[BL_BARE_NAME + 1], other[BL_BARE_NAME + 1];
    bl_bare_name_of(e, name);
    for (unsigned i = 1; i < index; i++) {
        const uint8_t *o = bare_entry(b, i);
        if (o[0] == 0) continue;
        bl_bare_name_of(o, other);
        if (bl_text_same_nocase(bl_text_of(name), bl_text_of(other)))
            bl_disk_find_broken(r, false, false, "delete it twice, and put it there again",
                                "%s is there twice", name);
        if (bare_overlap(e, o))
            bl_disk_find_broken(r, false, false, "delete both, and put them there again",
                                "%s and %s lie in the same sectors", name, other);
    }
}

static bl_status check_bare_entry(bl_disk *d, unsigned index, bl_disk_report *r)
{
    bare *b = bare_of(d);
    const uint8_t *e = bare_entry(b, index);
    char name[BL_BARE_NAME + 1];
    uint8_t check[2];
    bl_bare_name_of(e, name);
    r->files++;
    for (size_t i = 0; i < BL_BARE_NAME && e[i] != 0; i++)
        if (e[i] <= ' ' || e[i] >= 0x7F) {
            bl_disk_find_broken(r, false, false, "rename it", "%s: its name has a byte $%02X", name,
                                e[i]);
            break;
        }
    if (!bare_is_inside(b, e)) {
        bl_disk_find_broken(r, false, false, "delete it, and put it there again",
                            "%s does not lie in the room for files", name);
        return BL_OK;
    }
    check_overlap(b, index, r);
    bl_status status = bl_bare_sum_file(d, e, check);
    if (status == BL_OK && memcmp(check, e + BARE_SUM, 2) != 0)
        bl_disk_find_broken(r, false, false, "put it there again",
                            "%s: its check is not right: its bytes have changed", name);
    return status;
}

/* Which file starts must be a program. */
static void check_start(bare *b, bl_disk_report *r, bool repair)
{
    unsigned start = b->directory[BARE_START];
    unsigned needed = BARE_HAS_LOAD | BARE_HAS_ENTRY;
    bool good = start == 0 || (start <= BL_BARE_FILES && bare_entry(b, start)[0] != 0 &&
                               (bare_entry(b, start)[BARE_FLAGS] & needed) == needed);
    if (good) return;
    if (repair) b->directory[BARE_START] = 0;
    bl_disk_find_broken(r, repair, true, NULL,
                        "entry %u is to start at power-up, and is no program", start);
}

/* A wrong check is put right only where the directory holds what files say themselves: their own
 * checks. */
bl_status bl_bare_check(bl_disk *d, bool repair, bl_disk_report *r)
{
    bare *b = bare_of(d);
    bl_status status = BL_OK;
    for (unsigned i = 1; i <= BL_BARE_FILES && status == BL_OK; i++)
        if (bare_entry(b, i)[0] != 0) status = check_bare_entry(d, i, r);
    if (status != BL_OK) return status;
    bool files_good = r->left == 0;
    check_start(b, r, repair && files_good);
    if (!b->sound)
        bl_disk_find_broken(r, repair && files_good, files_good,
                            files_good ? NULL : "make the disk anew from what can be read",
                            "the check of the directory is not right");
    if (repair && files_good && r->mended > 0) status = bl_bare_save(d);
    return status;
}

bl_status bl_bare_map(bl_disk *d, bl_disk_run *run, void *context)
{
    bare *b = bare_of(d);
    bl_status status = run(context, 0, 1, BL_DISK_USE_FOLDER, "/");
    if (status == BL_OK && b->data > 1)
        status = run(context, 1, b->data - 1, BL_DISK_USE_BOOT, NULL);
    uint32_t at = b->data;
    while (at < b->total && status == BL_OK) {
        unsigned owners = 0, owner = 0;
        uint32_t end = b->total;
        for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
            const uint8_t *e = bare_entry(b, i);
            uint32_t first = bare_first(e), behind = first + bare_sectors(e);
            if (e[0] == 0 || bare_length(e) == 0 || !bare_is_inside(b, e)) continue;
            if (first <= at && at < behind) owners++, owner = i;
            if (first > at && first < end) end = first;
            if (behind > at && behind < end) end = behind;
        }
        char name[BL_BARE_NAME + 1] = "";
        if (owners > 0) bl_bare_name_of(bare_entry(b, owner), name);
        status = run(context, at, end - at,
                     owners == 0   ? BL_DISK_USE_FREE
                     : owners == 1 ? BL_DISK_USE_FILE
                                   : BL_DISK_USE_CROSS,
                     owners > 0 ? name : NULL);
        at = end;
    }
    if (status == BL_OK && b->total < d->sectors.count)
        status = run(context, b->total, d->sectors.count - b->total, BL_DISK_USE_SPARE, NULL);
    return status;
}

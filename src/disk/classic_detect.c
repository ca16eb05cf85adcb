/* classic_detect.c - which layout a classic disk has: nothing on it says so, so the directories
 * that the layouts would have are weighed against each other. An empty one is no proof. */
#include "classic_volume.h"

/* Can this be an entry of a directory with this layout? */
static bool plausible(const classic *c, const uint8_t *e)
{
    for (size_t i = 1; i <= CLASSIC_NAMES; i++) {
        uint8_t ch = e[i] & 0x7F;
        if (ch < ' ' || ch == 0x7F || (ch >= 'a' && ch <= 'z')) return false;
    }
    if ((e[1] & 0x7F) == ' ' || e[12] > 31 || e[15] > 128) return false;
    for (uint32_t k = 0; k < c->per_entry; k++)
        if (bl_classic_block(c, e, k) >= c->blocks) return false;
    return true;
}

/* What speaks for a layout, and against it. */
typedef struct evidence {
    uint32_t files;   /* entries that can be of a file */
    uint32_t deleted; /* empty ones that were one before */
    uint32_t wrong;   /* entries that cannot be in a directory, or that contradict others */
    bool untouched;   /* the directory is as it was formatted, and so are the first blocks */
} evidence;

static bool is_blank(const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (bytes[i] != CLASSIC_EMPTY) return false;
    return true;
}

/* Blocks that do not go with the records of an entry, or are of more than one file. */
static bool contradicts(const classic *c, const uint8_t *e)
{
    uint32_t needs = classic_needs(c, classic_records(c, e));
    for (uint32_t k = 0; k < c->per_entry; k++) {
        uint32_t block = bl_classic_block(c, e, k);
        if ((block != 0) != (k < needs) || (block != 0 && block < c->directory_blocks)) return true;
        if (block != 0 && block < c->blocks && c->used[block] > 1) return true;
    }
    return false;
}

/* The first blocks behind the directory: of a disk that was never written to they are blank, too.
 */
static bool blocks_blank(bl_disk *d)
{
    enum { LOOKED_AT = 8 };
    const classic *c = classic_of(d);
    uint32_t last = c->directory_blocks + LOOKED_AT;
    for (uint32_t b = c->directory_blocks; b < last && b < c->blocks; b++)
        for (uint32_t i = 0; i < c->block_sectors; i++) {
            bl_status status = bl_classic_read(d, bl_classic_sector(c, b, i), c->buffer);
            if (status != BL_OK || !is_blank(c->buffer, c->layout.sector)) return false;
        }
    return true;
}

static evidence weigh(bl_disk *d)
{
    classic *c = classic_of(d);
    evidence found = {.untouched = true};
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (is_blank(e, CLASSIC_ENTRY)) continue;
        found.untouched = false;
        if (e[0] == CLASSIC_EMPTY)
            found.deleted += plausible(c, e);
        else if (e[0] >= CLASSIC_USERS)
            found.wrong += e[0] > 0x21; /* labels, times, passwords are below that */
        else if (plausible(c, e) && !contradicts(c, e))
            found.files++;
        else
            found.wrong++;
    }
    if (found.untouched) found.untouched = blocks_blank(d);
    return found;
}

/* Some damage is allowed for, but not more than there is to go by. */
static bool is_likely(const evidence *e)
{
    uint32_t for_it = e->files * 4 + (e->deleted > 0 ? 1 : 0);
    return for_it > 0 && for_it > e->wrong * 4;
}

typedef struct candidate {
    const bl_classic *layout;
    evidence found;
} candidate;

enum { CANDIDATES = 64 };

/* Each layout of the disk's size: the bench file's first. */
static bl_status weigh_all(bl_disk *d, candidate *all, size_t *count, size_t *own)
{
    const bl_classic *l;
    bl_status status = BL_OK;
    *count = *own = 0;
    for (size_t i = 0; *count < CANDIDATES && status == BL_OK; i++) {
        bool theirs = i < d->setup.layout_count;
        l = theirs ? &d->setup.layouts[i] : bl_classic_shipped(i - d->setup.layout_count);
        if (l == NULL) break;
        status = bl_classic_try(d, l, false);
        if (status == BL_E_NOT_FOUND) {
            status = BL_OK;
            continue;
        }
        if (status != BL_OK) break;
        all[*count] = (candidate){l, weigh(d)};
        bl_classic_close(d);
        ++*count;
        if (theirs) *own = *count;
    }
    return status;
}

/* The one that is likely, or if none is, untouched; NULL with *several where it is not alone. */
static const bl_classic *only_one(const candidate *all, size_t first, size_t end, bool blank,
                                  const bl_classic **several)
{
    const bl_classic *one = NULL;
    for (size_t i = first; i < end; i++) {
        if (blank ? !all[i].found.untouched : !is_likely(&all[i].found)) continue;
        if (one != NULL) *several = all[i].layout;
        if (one == NULL) one = all[i].layout;
    }
    return *several == NULL ? one : NULL;
}

static bl_status tell_unsure(bl_disk *d, const candidate *all, size_t count,
                             const bl_classic *several)
{
    if (several != NULL)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, "say which: --layout NAME",
                            "more than one layout fits what is on it, '%s' too", several->name);
    return bl_disk_fail(d, BL_E_UNSUPPORTED,
                        "--layout NAME, where you know it: then it is read with that",
                        "it has the size of a classic disk (%s%s), but its directory does not look "
                        "like one",
                        all[0].layout->name, count > 1 ? " and others" : "");
}

bl_status bl_classic_detect(bl_disk *d)
{
    bool asked = d->setup.kind == BL_DISK_CLASSIC;
    /* One that was asked for is taken, whatever its directory says. */
    if (asked && d->setup.layout_count == 1) return bl_classic_try(d, &d->setup.layouts[0], true);
    candidate *all = bl_disk_room(d, CANDIDATES, sizeof *all);
    if (all == NULL) return BL_E_MEMORY;
    size_t count = 0, own = 0;
    const bl_classic *one = NULL, *several = NULL;
    bl_status status = weigh_all(d, all, &count, &own);
    for (unsigned blank = 0; blank < 2 && status == BL_OK && one == NULL && several == NULL;
         blank++) {
        one = only_one(all, 0, own, blank != 0, &several);
        if (one == NULL && several == NULL) one = only_one(all, own, count, blank != 0, &several);
    }
    if (status == BL_OK && one != NULL)
        status = bl_classic_try(d, one, false);
    else if (status == BL_OK)
        status = several != NULL || own > 0 ? tell_unsure(d, all, count, several) : BL_E_NOT_FOUND;
    bl_disk_free(d, all);
    return status;
}

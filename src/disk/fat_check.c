/* fat_check.c - is a FAT volume whole? and repair of what is safe. */
#include "fat_checking.h"

/* A chain, as it was found. */
typedef struct fat_chain {
    uint32_t count, last; /* good clusters; the last of them, 0: none */
    const char *why;      /* it is broken behind that; NULL: it ends */
    bool crosses;
} fat_chain;

/* Goes along a chain and makes it this one's. */
static fat_chain claim_chain(fat_checking *c, uint32_t first)
{
    const fat *f = fat_of(c->d);
    fat_chain chain = {0};
    uint32_t number = ++c->chains;
    for (uint32_t at = first; at != FAT_END; at = bl_fat_next(f, at)) {
        chain.why = bl_fat_chain_fault(f, at);
        if (chain.why == NULL && (c->owner[at] & ~FAT_SHARED) == number) chain.why = bl_fat_loop;
        if (chain.why != NULL) break;
        if (c->owner[at] != 0) {
            c->owner[at] |= FAT_SHARED;
            chain.crosses = true, c->crossed++;
            break;
        }
        c->owner[at] = number;
        chain.count++, chain.last = at;
    }
    return chain;
}

static bl_status save_entry(fat_checking *c)
{
    return bl_fat_write_entry(c->d, c->item.place, c->item.raw);
}

/* ---- files ---- */

static void end_chain(fat_checking *c, uint32_t last)
{
    fat *f = fat_of(c->d);
    if (!fat_is_cluster(f, last)) return;
    bl_fat_set(f, last, FAT_END);
    c->changed = true;
}

/* Clusters after the end of a file become a chain of no file, which is kept as one (fat_rescue.c):
 * it may be the size that lies. */
static bl_status cut_chain(fat_checking *c, uint32_t first, uint32_t need)
{
    fat *f = fat_of(c->d);
    uint32_t at = first, last = 0;
    for (uint32_t i = 0; i < need; i++)
        last = at, at = bl_fat_next(f, at);
    for (; fat_is_cluster(f, at) && c->owner[at] == c->chains; at = bl_fat_next(f, at))
        c->owner[at] = 0;
    c->changed = true;
    if (last != 0) {
        bl_fat_set(f, last, FAT_END);
        return BL_OK;
    }
    bl_put_little16(c->item.raw + 26, 0);
    return save_entry(c);
}

/* The file keeps what there is of it. */
static bl_status shorten_file(fat_checking *c, const fat_chain *chain, uint32_t need, uint32_t size)
{
    uint32_t most = chain->count * fat_of(c->d)->cluster_bytes;
    end_chain(c, chain->last);
    if (chain->count >= need) return BL_OK;
    if (chain->count == 0) bl_put_little16(c->item.raw + 26, 0);
    bl_put_little32(c->item.raw + 28, size < most ? size : most);
    return save_entry(c);
}

static const char settle_first[] = "settle first which file has the clusters that are shared";

static bl_status check_file(fat_checking *c)
{
    bool mends = c->repair && !c->entangled;
    const fat *f = fat_of(c->d);
    uint32_t first = fat_first_cluster(c->item.raw), size = bl_little32(c->item.raw + 28);
    uint32_t need = fat_clusters_of(f, size);
    bl_status status = BL_OK;
    c->r->files++;
    if (first == 0 && size == 0) return BL_OK;
    if (c->mix != NULL && first != 0) bl_fat_mix_chain(c->d, c->mix, first, need);
    fat_chain chain = first == 0 ? (fat_chain){0} : claim_chain(c, first);
    if (chain.crosses) return BL_OK; /* told when all are known that do */
    if (chain.count < need || (chain.why != NULL && chain.count == need)) {
        bool drops = mends && (c->r->drop || chain.count == need);
        uint64_t there = (uint64_t)chain.count * f->cluster_bytes;
        uint32_t gone = there < size ? (uint32_t)(size - there) : 0;
        if (drops) status = shorten_file(c, &chain, need, size);
        if (gone > 0)
            bl_disk_find_loss(c->r, drops, c->entangled ? settle_first : NULL,
                              "%s has %lu bytes, and %lu cluster%s of %lu bytes: %s; %lu of its "
                              "bytes %s lost",
                              c->path.text, (unsigned long)size, (unsigned long)chain.count,
                              bl_plural(chain.count), (unsigned long)f->cluster_bytes,
                              chain.why != NULL ? chain.why : "its chain ends too early",
                              (unsigned long)gone, drops ? "are" : "would be");
        else
            bl_disk_find_broken(c->r, drops, !c->entangled, settle_first,
                                "%s has all of its %lu bytes, and no end after them: %s",
                                c->path.text, (unsigned long)size, chain.why);
    } else if (chain.count > need) {
        if (mends) status = cut_chain(c, first, need);
        bl_disk_find_broken(c->r, mends, !c->entangled, settle_first,
                            "%s needs %lu cluster%s for its %lu bytes, and has %lu%s%s",
                            c->path.text, (unsigned long)need, bl_plural(need), (unsigned long)size,
                            (unsigned long)chain.count, chain.why != NULL ? ": " : "",
                            chain.why != NULL ? chain.why : "");
    }
    return status;
}

/* ---- folders ---- */

static bl_status check_fat_folder(fat_checking *c, uint32_t cluster, uint32_t stop, unsigned depth);

/* The first two entries lead to the folder itself, and to the one that it is in. */
static bl_status check_dots(fat_checking *c, uint32_t cluster, uint32_t parent)
{
    fat_walk w;
    bl_status status = BL_OK;
    bl_fat_walk_begin(&w, cluster);
    for (unsigned i = 0; i < 2 && status == BL_OK; i++) {
        uint8_t raw[FAT_ENTRY];
        fat_place place;
        uint32_t to = i == 0 ? cluster : parent;
        status = bl_fat_walk(c->d, &w, raw, &place);
        if (status != BL_OK) break;
        bool named = memcmp(raw, i == 0 ? ".          " : "..         ", 11) == 0;
        if (!named || (raw[11] & FAT_FOLDER) == 0)
            bl_disk_find_broken(c->r, false, false, "copy its files to another disk",
                                "%s/: its entry '%s' is missing", c->path.text,
                                i == 0 ? "." : "..");
        if (!named || fat_first_cluster(raw) == to) continue;
        bl_put_little16(raw + 26, to);
        if (c->repair) status = bl_fat_write_entry(c->d, place, raw);
        bl_disk_find_broken(c->r, c->repair, true, NULL, "%s/: '%s' leads to another folder",
                            c->path.text, i == 0 ? "." : "..");
    }
    return status;
}

/* An entry that leads to no folder: what was in it is of no file now, and its name goes. */
static bl_status drop_folder(fat_checking *c, const char *why)
{
    bool drops = c->repair && c->r->drop;
    bl_status status = drops ? bl_fat_erase_item(c->d, &c->item) : BL_OK;
    c->cut = true;
    bl_disk_find_loss(c->r, drops, NULL, "%s/: %s; the folder's name %s lost", c->path.text, why,
                      drops ? "is" : "would be");
    return status;
}

static bl_status check_subfolder(fat_checking *c, unsigned depth)
{
    uint32_t first = fat_first_cluster(c->item.raw);
    c->r->folders++;
    for (unsigned i = 0; i <= depth; i++)
        if (c->above[i] == first && first != 0) return drop_folder(c, "the folder contains itself");
    if (!fat_is_cluster(fat_of(c->d), first)) return drop_folder(c, "it leads to no cluster");
    fat_chain chain = claim_chain(c, first);
    if (chain.count == 0 && !chain.crosses) return drop_folder(c, "its first cluster is free");
    if (bl_little32(c->item.raw + 28) != 0) {
        bl_put_little32(c->item.raw + 28, 0);
        bl_status status = c->repair ? save_entry(c) : BL_OK;
        bl_disk_find_remark(c->r, c->repair, "%s/: a folder has no size", c->path.text);
        if (status != BL_OK) return status;
    }
    bool mends = c->repair && c->r->drop && !c->entangled;
    if (chain.why != NULL && mends) end_chain(c, chain.last);
    if (chain.why != NULL || chain.crosses) c->cut = true;
    if (chain.why != NULL)
        bl_disk_find_loss(c->r, mends, c->entangled ? settle_first : NULL,
                          "%s/: its chain of clusters is broken: %s; what was listed after that %s "
                          "lost",
                          c->path.text, chain.why, mends ? "is" : "may be");
    if (chain.crosses) return BL_OK; /* what is in it was looked at, or is no folder's */
    if (depth == BL_DISK_DEEPEST) {
        bl_disk_find_broken(c->r, false, false, "move what is in it to a folder further up",
                            "%s/: more than %d folders lie in each other", c->path.text,
                            BL_DISK_DEEPEST);
        return BL_OK;
    }
    return check_fat_folder(c, first, chain.count * (fat_of(c->d)->cluster_bytes / FAT_ENTRY),
                            depth + 1);
}

/* ---- names ---- */

/* Fingerprints of the names of a folder, to find two that are the same. */
typedef struct fat_names {
    uint64_t *seen;
    uint32_t room;
} fat_names;

static uint64_t fingerprint_of(const uint8_t name[11])
{
    uint64_t print = 0xCBF29CE484222325u; /* FNV-1a */
    for (size_t i = 0; i < 11; i++)
        print = (print ^ name[i]) * 0x100000001B3u;
    return print == 0 ? 1 : print;
}

static bool seen_before(fat_names *n, const uint8_t name[11])
{
    uint64_t print = fingerprint_of(name);
    size_t at = (size_t)(print % n->room);
    for (; n->seen[at] != 0; at = (at + 1) % n->room)
        if (n->seen[at] == print) return true;
    n->seen[at] = print;
    return false;
}

static bl_status names_begin(fat_checking *c, uint32_t cluster, uint32_t stop, fat_names *n)
{
    fat_walk w;
    uint8_t raw[FAT_ENTRY];
    fat_place place;
    bl_status status;
    bl_fat_walk_begin(&w, cluster);
    w.stop = stop;
    n->seen = NULL;
    while ((status = bl_fat_walk(c->d, &w, raw, &place)) == BL_OK && raw[0] != 0)
        ;
    if (status != BL_OK && status != BL_E_NOT_FOUND && status != BL_E_DAMAGED) return status;
    n->room = w.seen * 2 + 1;
    n->seen = bl_disk_room(c->d, n->room, sizeof *n->seen);
    return n->seen != NULL ? BL_OK : BL_E_MEMORY;
}

static void check_name(fat_checking *c, fat_names *n)
{
    if (seen_before(n, c->item.raw))
        bl_disk_find_broken(c->r, false, false, "rename one of them: disk rename takes the first",
                            "%s is there twice", c->path.text);
    if (!bl_fat_name_valid(c->item.raw))
        bl_disk_find_remark(c->r, false, "%s: its short name has characters that none can have",
                            c->path.text);
}

static bl_status check_orphans(fat_checking *c)
{
    bl_status status = BL_OK;
    uint32_t count = c->item.orphans;
    if (count == 0) return BL_OK;
    bool mends = c->repair && count <= FAT_LONG_PARTS;
    if (mends) status = bl_fat_erase_places(c->d, c->item.orphan, (size_t)count);
    bl_disk_find_broken(c->r, mends, true, NULL, "%s/: %lu part%s of a long name without a file",
                        c->path.text, (unsigned long)count, bl_plural(count));
    return status;
}

static bl_status check_item(fat_checking *c, fat_names *n, unsigned depth)
{
    char name[BL_DISK_NAME];
    bl_fat_item_name(&c->item, name);
    size_t before = bl_fat_enter(&c->path, name);
    check_name(c, n);
    bl_status status =
        (c->item.raw[11] & FAT_FOLDER) != 0 ? check_subfolder(c, depth) : check_file(c);
    bl_fat_leave(&c->path, before);
    return status;
}

/* stop: as many entries as its good clusters have; 0: the root. */
static bl_status check_fat_folder(fat_checking *c, uint32_t cluster, uint32_t stop, unsigned depth)
{
    fat_walk w;
    fat_names n;
    bl_status status = names_begin(c, cluster, stop, &n);
    c->above[depth] = cluster;
    bl_fat_walk_begin(&w, cluster);
    w.stop = stop;
    if (cluster != 0 && status == BL_OK)
        status = check_dots(c, cluster, depth < 2 ? 0 : c->above[depth - 1]);
    while (status == BL_OK) {
        status = bl_fat_next_item(c->d, &w, &c->item);
        if (status == BL_E_DAMAGED) status = BL_OK, c->item.end = true; /* told with its chain */
        if (status == BL_OK) status = check_orphans(c);
        if (status != BL_OK || c->item.end) break;
        if (bl_fat_is_listed(c->item.raw)) status = check_item(c, &n, depth);
    }
    bl_disk_free(c->d, n.seen);
    return status;
}

/* ---- clusters of more than one file ---- */

static void name_crossing(fat_checking *c, uint32_t first)
{
    const fat *f = fat_of(c->d);
    uint32_t at = first;
    for (uint32_t i = 0; i < f->clusters && fat_is_cluster(f, at); i++, at = bl_fat_next(f, at))
        if ((c->owner[at] & FAT_SHARED) != 0) {
            bl_disk_find_broken(c->r, false, false,
                                "copy each of these files off, look which is whole, delete all of "
                                "them",
                                "%s shares cluster %lu with another", c->path.text,
                                (unsigned long)at);
            return;
        }
}

/* Once more over all folders. above: as in the check; a folder that is in itself ends it. */
static bl_status name_crossings(fat_checking *c, uint32_t cluster, unsigned depth)
{
    fat_walk w;
    bl_status status;
    char name[BL_DISK_NAME];
    c->above[depth] = cluster;
    bl_fat_walk_begin(&w, cluster);
    while ((status = bl_fat_next_item(c->d, &w, &c->item)) == BL_OK && !c->item.end) {
        if (!bl_fat_is_listed(c->item.raw)) continue;
        uint32_t first = fat_first_cluster(c->item.raw);
        bool folder = (c->item.raw[11] & FAT_FOLDER) != 0;
        bl_fat_item_name(&c->item, name);
        size_t before = bl_fat_enter(&c->path, name);
        name_crossing(c, first);
        /* One whose first cluster others have, too, is no folder to go into again. */
        bool inside = folder && depth < BL_DISK_DEEPEST && fat_is_cluster(fat_of(c->d), first) &&
                      (c->owner[first] & FAT_SHARED) == 0;
        for (unsigned i = 0; i <= depth; i++)
            inside = inside && c->above[i] != first;
        if (inside) status = name_crossings(c, first, depth + 1);
        bl_fat_leave(&c->path, before);
        if (status != BL_OK) return status;
    }
    return status == BL_E_DAMAGED ? BL_OK : status;
}

/* ---- the table, and the boot sector ---- */

/* How many sectors of a copy are not what the table in memory has, which is the best of them all
 * (fat_copies.c). UINT32_MAX: it cannot be read. */
static bl_status compare_copy(fat_checking *c, uint32_t copy, uint32_t *differ)
{
    fat *f = fat_of(c->d);
    bl_status status = BL_OK;
    *differ = 0;
    for (uint32_t i = 0; i < f->used_sectors && status == BL_OK; i++) {
        uint32_t from = i * f->sector, left = f->table_bytes - from;
        status = bl_fat_read(c->d, f->reserved + copy * f->table_sectors + i, f->scratch);
        if (status == BL_E_IO) {
            *differ = UINT32_MAX;
            return BL_OK;
        }
        if (status != BL_OK) break;
        if (memcmp(f->scratch, f->table + from, (size_t)(left < f->sector ? left : f->sector)) == 0)
            continue;
        ++*differ;
        if (c->repair) f->dirty[i] = 1, c->changed = true;
    }
    return status;
}

/* All tables are alike; the best of them is written to all places. */
static bl_status check_copies(fat_checking *c)
{
    fat *f = fat_of(c->d);
    bl_status status = BL_OK;
    uint32_t differ;
    for (uint32_t copy = 0; copy < f->tables && status == BL_OK; copy++) {
        status = compare_copy(c, copy, &differ);
        if (status != BL_OK || differ == 0) continue;
        if (differ == UINT32_MAX)
            bl_disk_find_broken(c->r, false, false, "copy its files to another disk",
                                "allocation table %lu cannot be read", (unsigned long)copy + 1);
        else
            bl_disk_find_broken(c->r, c->repair, true, NULL,
                                "allocation table %lu: %lu sector%s not as %s where more files are "
                                "whole",
                                (unsigned long)copy + 1, (unsigned long)differ,
                                differ == 1 ? " is" : "s are",
                                f->mixed ? "in a mixture of all copies," : "in the other copy,");
    }
    return status;
}

/* The first bytes of the table: the kind of medium, and whether it was put away in order. */
static void check_marks(fat_checking *c)
{
    fat *f = fat_of(c->d);
    bool media = f->table[0] == f->media && f->table[1] == 0xFF && (f->table[2] == 0xFF);
    if (!media) {
        bl_disk_find_broken(c->r, c->repair, true, NULL,
                            "the allocation table does not begin with the medium's kind, $%02X",
                            f->media);
        if (c->repair) bl_fat_set_media(f), c->changed = true;
    }
    if (bl_fat_table_clean(f)) return;
    bl_disk_find_remark(c->r, c->repair, "the table says that the disk was not put away in order");
    if (c->repair) bl_fat_table_clear_marks(f), c->changed = true;
}

enum { DIRTY = 37, HAS_LABEL = 38, BOOT_LABEL = 43 };

static bl_status check_boot_sector(fat_checking *c)
{
    fat *f = fat_of(c->d);
    uint8_t *b;
    char label[BL_DISK_NAME], raw[12] = "NO NAME    ";
    if (f->bare) return BL_OK;
    bl_disk_label(c->d, label);
    bl_status status = bl_fat_sector(c->d, 0, &b);
    if (status != BL_OK || b[HAS_LABEL] != 0x29) return status;
    bool changed = false;
    bool plain = label[0] == '\0' || bl_fat_label_make(bl_text_of(label), raw);
    for (size_t i = bl_length(raw); i < 11; i++)
        raw[i] = ' ';
    bool same = true; /* others keep a label in mixed case */
    for (size_t i = 0; i < 11; i++)
        same &= bl_upper((char)b[BOOT_LABEL + i]) == raw[i];
    if (plain && !same) {
        bl_disk_find_remark(c->r, c->repair, "the label in the boot sector is not '%s'",
                            label[0] != '\0' ? label : "NO NAME");
        memcpy(b + BOOT_LABEL, raw, 11);
        changed = true;
    }
    if ((b[DIRTY] & 1) != 0) {
        bl_disk_find_remark(c->r, c->repair,
                            "the boot sector says that the disk was not put away in order");
        b[DIRTY] = (uint8_t)(b[DIRTY] & ~1u);
        changed = true;
    }
    if (changed && c->repair) status = bl_fat_write(c->d, 0, b);
    f->buffered = UINT32_MAX;
    return status;
}

static bl_status check_all(fat_checking *c)
{
    bl_status status = check_copies(c);
    if (status == BL_OK) status = check_boot_sector(c);
    if (status == BL_OK) check_marks(c), status = check_fat_folder(c, 0, 0, 0);
    if (status == BL_OK && c->crossed > 0) status = name_crossings(c, 0, 0);
    if (status == BL_OK && c->crossed == 0) status = bl_fat_rescue(c);
    if (status == BL_OK && c->changed) status = bl_fat_table_flush(c->d);
    return status;
}

/* Looks at all chains before anything is told or mended: are any entangled? */
static bl_status find_entangled(fat_checking *c, uint32_t places)
{
    bl_disk_report quiet = {.find = NULL}, *r = c->r;
    bool repair = c->repair;
    c->r = &quiet, c->repair = false;
    bl_status status = check_fat_folder(c, 0, 0, 0);
    c->r = r, c->repair = repair;
    c->entangled = c->crossed > 0;
    c->crossed = c->chains = 0, c->cut = false;
    memset(c->owner, 0, (size_t)places * sizeof *c->owner);
    return status;
}

static bl_status begin_check(bl_disk *d, bl_disk_report *report, fat_checking **check)
{
    uint32_t places = fat_of(d)->clusters + FAT_FIRST;
    fat_checking *c = *check = bl_disk_room(d, 1, sizeof *c);
    if (c == NULL) return BL_E_MEMORY;
    c->d = d, c->r = report;
    c->owner = bl_disk_room(d, places, sizeof *c->owner);
    return c->owner != NULL ? BL_OK : BL_E_MEMORY;
}

static void end_check(bl_disk *d, fat_checking *c)
{
    if (c != NULL) bl_disk_free(d, c->owner);
    bl_disk_free(d, c);
}

/* Files and folders weigh more than the mark of the medium, and that more than lost clusters. */
bl_status bl_fat_count_faults(bl_disk *d, fat_mix *mix, uint64_t *faults)
{
    const fat *f = fat_of(d);
    bl_disk_report quiet = {.find = NULL};
    fat_checking *c;
    bl_sink told = bl_disk_hush(d);
    bl_status status = begin_check(d, &quiet, &c);
    if (status == BL_OK) {
        c->mix = mix;
        status = check_fat_folder(c, 0, 0, 0);
    }
    if (status == BL_OK) {
        bool media = f->table[0] == f->media && f->table[1] == 0xFF && f->table[2] == 0xFF;
        *faults = (uint64_t)(quiet.broken + c->crossed) << 32 | (media ? 0u : 0x80000000u);
        for (uint32_t at = FAT_FIRST; fat_is_cluster(f, at); at++) {
            uint32_t next = bl_fat_next(f, at);
            *faults += c->owner[at] == 0 && next != FAT_FREE && next != FAT_BAD;
        }
    }
    end_check(d, c);
    d->setup.sink = told;
    return status;
}

bl_status bl_fat_check(bl_disk *d, bool repair, bl_disk_report *report)
{
    fat_checking *c;
    bl_status status = begin_check(d, report, &c);
    if (status == BL_OK) {
        c->repair = repair;
        status = find_entangled(c, fat_of(d)->clusters + FAT_FIRST);
    }
    if (status == BL_OK) status = check_all(c);
    end_check(d, c);
    return status;
}

/* fat_copies.c - which copy of the allocation table is right, where they differ: the one by which
 * most files are whole, then sector by sector, then chain by chain. */
#include "fat_checking.h"

struct fat_mix {
    uint8_t *copies; /* all tables, one after the other, as far as clusters go */
    size_t bytes;    /* of one of them */
    uint32_t tables;
};

static uint8_t *copy_of(const fat_mix *m, uint32_t copy)
{
    return m->copies + m->bytes * copy;
}

/* A sector that cannot be read is taken from another copy, so that it is no difference. */
static bl_status read_copies(bl_disk *d, fat_mix *m)
{
    const fat *f = fat_of(d);
    bl_sink told = bl_disk_hush(d);
    bl_status status = BL_OK;
    for (uint32_t k = 0; k < m->tables && status == BL_OK; k++)
        for (uint32_t i = 0; i < f->used_sectors && status == BL_OK; i++) {
            uint8_t *to = copy_of(m, k) + (size_t)i * f->sector;
            status = bl_fat_read(d, f->reserved + k * f->table_sectors + i, to);
            if (status == BL_E_IO) {
                memcpy(to, f->table + (size_t)i * (size_t)f->sector, (size_t)f->sector);
                status = BL_OK;
            }
        }
    d->setup.sink = told;
    return status;
}

static bool copies_differ(const fat *f, const fat_mix *m)
{
    for (uint32_t k = 0; k < m->tables; k++)
        if (memcmp(copy_of(m, k), f->table, (size_t)f->table_bytes) != 0) return true;
    return false;
}

/* ---- chains ---- */

/* What a copy says of a cluster, with the table in memory as the place to ask. */
static uint32_t next_in(const fat *f, const fat_mix *m, uint32_t copy, uint32_t cluster)
{
    fat other = *f;
    other.table = copy_of(m, copy);
    return bl_fat_next(&other, cluster);
}

/* Depth first, one of the copies at each link; where they agree there is one way only. */
static bool search_chain(bl_disk *d, const fat_mix *m, uint32_t *way, uint8_t *choice,
                         uint32_t need)
{
    const fat *f = fat_of(d);
    uint32_t depth = 0, steps = 200000;
    choice[0] = 0;
    while (steps-- > 0) {
        if (choice[depth] == m->tables) { /* all tried: one link back */
            if (depth == 0) return false;
            choice[--depth]++;
            continue;
        }
        uint32_t next = next_in(f, m, choice[depth], way[depth]);
        bool again = false;
        for (uint8_t k = 0; k < choice[depth]; k++)
            again |= next_in(f, m, k, way[depth]) == next;
        bool last = depth + 1 == need;
        if (!again && last && next == FAT_END) return true;
        if (again || last || !fat_is_cluster(f, next)) {
            choice[depth]++;
            continue;
        }
        way[++depth] = next;
        choice[depth] = 0;
    }
    return false;
}

static bool has_loop(uint32_t *way, uint32_t need)
{
    for (uint32_t i = 0; i < need; i++)
        for (uint32_t k = i + 1; need <= 4096 && k < need; k++)
            if (way[i] == way[k]) return true;
    return false;
}

bool bl_fat_mix_chain(bl_disk *d, fat_mix *m, uint32_t first, uint32_t need)
{
    fat *f = fat_of(d);
    const char *why;
    if (!fat_is_cluster(f, first) || need == 0 || need > f->clusters) return false;
    if (bl_fat_chain_length(f, first, &why) == need && why == NULL) return false; /* it is whole */
    uint32_t *way = bl_disk_room(d, need + 1, sizeof *way);
    uint8_t *choice = bl_disk_room(d, need + 1, 1);
    bool found = false;
    if (way != NULL && choice != NULL) {
        way[0] = first;
        found = search_chain(d, m, way, choice, need) && !has_loop(way, need);
    }
    for (uint32_t i = 0; found && i < need; i++)
        bl_fat_set(f, way[i], i + 1 == need ? FAT_END : way[i + 1]);
    bl_disk_free(d, way);
    bl_disk_free(d, choice);
    return found;
}

/* ---- sectors ---- */

static void take_sector(fat *f, const fat_mix *m, uint32_t copy, uint32_t sector, uint8_t *kept)
{
    uint8_t *to = f->table + (size_t)sector * f->sector;
    memcpy(kept, to, (size_t)f->sector);
    memcpy(to, copy_of(m, copy) + (size_t)sector * f->sector, (size_t)f->sector);
}

/* A sector, or two in a row (an entry of FAT12 may lie in both), of another copy: kept when less is
 * wrong then. */
static bl_status try_sectors(bl_disk *d, const fat_mix *m, uint32_t sector, uint32_t count,
                             uint64_t *best)
{
    fat *f = fat_of(d);
    uint8_t *kept = bl_disk_room(d, 2 * f->sector, 1);
    bl_status status = kept != NULL ? BL_OK : BL_E_MEMORY;
    for (uint32_t k = 0; k < m->tables && status == BL_OK; k++) {
        uint64_t faults = UINT64_MAX;
        for (uint32_t i = 0; i < count; i++)
            take_sector(f, m, k, sector + i, kept + (size_t)i * f->sector);
        status = bl_fat_count_faults(d, NULL, &faults);
        if (status == BL_OK && faults < *best) {
            *best = faults;
            f->mixed = true;
            continue;
        }
        memcpy(f->table + (size_t)sector * f->sector, kept, (size_t)(count * f->sector));
    }
    bl_disk_free(d, kept);
    return status;
}

static bool sector_differs(const fat *f, const fat_mix *m, uint32_t sector)
{
    size_t at = (size_t)(sector * f->sector);
    for (uint32_t k = 1; k < m->tables; k++)
        if (memcmp(m->copies + at, copy_of(m, k) + at, (size_t)f->sector) != 0) return true;
    return false;
}

static bl_status mix_sectors(bl_disk *d, const fat_mix *m, uint64_t *best)
{
    const fat *f = fat_of(d);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < f->used_sectors && status == BL_OK && *best >> 32 != 0; i++) {
        if (!sector_differs(f, m, i)) continue;
        status = try_sectors(d, m, i, 1, best);
        if (status == BL_OK && i + 1 < f->used_sectors) status = try_sectors(d, m, i, 2, best);
    }
    return status;
}

/* ---- entries ---- */

enum { ENTRIES = 200, LOOKS = 6000 };

typedef struct entry_change {
    uint32_t at, to; /* cluster, and what a copy says of it */
} entry_change;

static size_t list_changes(const fat *f, const fat_mix *m, entry_change *all)
{
    size_t n = 0;
    for (uint32_t at = FAT_FIRST; fat_is_cluster(f, at); at++)
        for (uint32_t k = 0; k < m->tables && n < ENTRIES; k++) {
            entry_change change = {at, next_in(f, m, k, at)};
            bool known = change.to == bl_fat_next(f, at);
            for (size_t i = n; i > 0 && all[i - 1].at == at; i--)
                known |= all[i - 1].to == change.to;
            if (!known) all[n++] = change;
        }
    return n;
}

/* One change, or two at once; kept when less is wrong then. */
static bl_status try_changes(bl_disk *d, const entry_change *a, const entry_change *b,
                             uint64_t *best, bool *better)
{
    fat *f = fat_of(d);
    uint32_t was_a = bl_fat_next(f, a->at), was_b = bl_fat_next(f, b->at);
    uint64_t faults = UINT64_MAX;
    bl_fat_set(f, a->at, a->to);
    if (a != b) bl_fat_set(f, b->at, b->to);
    bl_status status = bl_fat_count_faults(d, NULL, &faults);
    *better = status == BL_OK && faults < *best;
    if (*better) {
        *best = faults, f->mixed = true;
        return status;
    }
    if (a != b) bl_fat_set(f, b->at, was_b);
    bl_fat_set(f, a->at, was_a);
    return status;
}

/* Each entry that the copies differ in by itself, and then two at once: a chain may be as long as
 * it should be and still lead into another file, so that two must change before anything is better.
 */
static bl_status mix_entries(bl_disk *d, const fat_mix *m, uint64_t *best)
{
    entry_change *all = bl_disk_room(d, ENTRIES, sizeof *all);
    bl_status status = all != NULL ? BL_OK : BL_E_MEMORY;
    uint32_t looks = LOOKS;
    for (bool better = true; better && status == BL_OK && *best >> 32 != 0;) {
        size_t n = list_changes(fat_of(d), m, all);
        better = false;
        for (size_t i = 0; i < n && !better && looks > 0 && status == BL_OK; i++, looks--)
            status = try_changes(d, &all[i], &all[i], best, &better);
        for (size_t i = 0; i < n && !better; i++)
            for (size_t k = i + 1; k < n && !better && looks > 0 && status == BL_OK; k++, looks--)
                if (all[i].at != all[k].at)
                    status = try_changes(d, &all[i], &all[k], best, &better);
    }
    bl_disk_free(d, all);
    return status;
}

/* ---- the whole ---- */

static bl_status choose_copy(bl_disk *d, const fat_mix *m, uint64_t *best)
{
    fat *f = fat_of(d);
    uint32_t chosen = 0;
    bl_status status = BL_OK;
    *best = UINT64_MAX;
    for (uint32_t k = 0; k < m->tables && status == BL_OK; k++) {
        uint64_t faults = UINT64_MAX;
        memcpy(f->table, copy_of(m, k), m->bytes);
        status = bl_fat_count_faults(d, NULL, &faults);
        if (faults < *best) *best = faults, chosen = k;
    }
    memcpy(f->table, copy_of(m, chosen), m->bytes);
    f->taken = chosen;
    return status;
}

static bl_status mix_copies(bl_disk *d, fat_mix *m)
{
    fat *f = fat_of(d);
    uint64_t best, after;
    bl_status status = choose_copy(d, m, &best);
    if (status == BL_OK && best >> 32 != 0) status = mix_sectors(d, m, &best);
    if (status == BL_OK && best >> 32 != 0) status = mix_entries(d, m, &best);
    if (status != BL_OK || best >> 32 == 0) return status;
    uint8_t *kept = bl_disk_room(d, (uint32_t)m->bytes, 1);
    if (kept == NULL) return BL_E_MEMORY;
    memcpy(kept, f->table, m->bytes);
    status = bl_fat_count_faults(d, m, &after);
    if (status == BL_OK) status = bl_fat_count_faults(d, NULL, &after);
    if (status == BL_OK && after < best)
        f->mixed = true;
    else
        memcpy(f->table, kept, m->bytes);
    bl_disk_free(d, kept);
    return status;
}

bl_status bl_fat_judge_copies(bl_disk *d)
{
    fat *f = fat_of(d);
    fat_mix m = {NULL, (size_t)(f->used_sectors * f->sector), f->tables};
    if (f->tables < 2) return BL_OK;
    m.copies = bl_disk_room(d, m.tables * f->used_sectors, (size_t)f->sector);
    if (m.copies == NULL) return BL_E_MEMORY;
    bl_status status = read_copies(d, &m);
    if (status == BL_OK && copies_differ(f, &m)) {
        status = mix_copies(d, &m);
        memset(f->dirty, 0, (size_t)f->used_sectors);
        if (status == BL_OK && (f->taken > 0 || f->mixed))
            bl_report(&d->setup.sink, BL_WARNING, d->setup.title, 0,
                      "disk check --repair writes it to all places",
                      f->mixed
                          ? "the allocation tables differ, and none is right: a mixture is used "
                            "by which more files are whole"
                          : "the allocation tables differ: table %lu is used, by which more "
                            "files are whole",
                      (unsigned long)f->taken + 1);
    }
    bl_disk_free(d, m.copies);
    return status;
}

/* fat_peer.c - see fat_peer.h. Written from the description of the format alone; slow and plain. */
#include "fat_peer.h"

#include <stdarg.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static char remarks[4096];

static void remark(const char *message, ...)
{
    size_t n = strlen(remarks);
    va_list list;
    va_start(list, message);
    vsnprintf(remarks + n, sizeof remarks - n, message, list);
    va_end(list);
    n = strlen(remarks);
    snprintf(remarks + n, sizeof remarks - n, "\n");
}

typedef struct volume {
    const uint8_t *image;
    unsigned bps, spc, reserved, nfats, nroot, total, fatsz, media, clusters;
    size_t root_at, data_at;
    unsigned bits;
    unsigned char *owner; /* of each cluster */
    bool strict;
} volume;

static unsigned le(const uint8_t *p, unsigned n)
{
    unsigned v = 0;
    while (n-- > 0)
        v = v << 8 | p[n];
    return v;
}

static unsigned fat_get(const volume *v, unsigned copy, unsigned cluster)
{
    const uint8_t *t = v->image + (size_t)(v->reserved + copy * v->fatsz) * v->bps;
    if (v->bits == 16) return le(t + cluster * 2, 2);
    unsigned three = le(t + cluster / 2 * 3, 3);
    return cluster % 2 ? three >> 12 : three & 0xFFF;
}

static bool fat_is_end(const volume *v, unsigned value)
{
    return value >= (v->bits == 16 ? 0xFFF8u : 0xFF8u);
}

static bool load(volume *v, const uint8_t *image, size_t bytes)
{
    memset(v, 0, sizeof *v);
    v->image = image;
    v->bps = le(image + 11, 2), v->spc = image[13], v->reserved = le(image + 14, 2);
    v->nfats = image[16], v->nroot = le(image + 17, 2), v->total = le(image + 19, 2);
    v->media = image[21], v->fatsz = le(image + 22, 2);
    if (v->total == 0) v->total = le(image + 32, 4);
    if (v->bps == 0 || v->spc == 0) return false;
    v->root_at = (size_t)(v->reserved + v->nfats * v->fatsz) * v->bps;
    v->data_at = v->root_at + ((size_t)v->nroot * 32 + v->bps - 1) / v->bps * v->bps;
    if ((size_t)v->total * v->bps > bytes) return false;
    v->clusters = (unsigned)(((size_t)v->total * v->bps - v->data_at) / (v->bps * v->spc));
    v->bits = v->clusters < 4085 ? 12 : 16;
    v->owner = calloc(v->clusters + 2, 1);
    return v->clusters >= 1 && v->clusters < 65525;
}

static void check_head(const volume *v)
{
    const uint8_t *b = v->image;
    if (le(b + 510, 2) != 0xAA55) remark("no mark at the end of the boot sector");
    if (v->nfats != 2) remark("%u tables", v->nfats);
    if (v->nroot * 32 % v->bps != 0) remark("root does not fill sectors");
    if ((size_t)v->fatsz * v->bps * 8 < (size_t)(v->clusters + 2) * v->bits)
        remark("table too short");
    if (le(b + 24, 2) == 0 || v->total % le(b + 24, 2) != 0) remark("tracks are not whole");
    unsigned first = v->bits == 16 ? 0xFF00u | v->media : 0xF00u | v->media;
    unsigned second = v->bits == 16 ? 0xFFFFu : 0xFFFu;
    for (unsigned c = 0; c < v->nfats && v->strict; c++) {
        if (fat_get(v, c, 0) != first) remark("table %u: first entry %X", c, fat_get(v, c, 0));
        if (fat_get(v, c, 1) != second) remark("table %u: second entry %X", c, fat_get(v, c, 1));
        for (unsigned i = 0; i < v->clusters + 2; i++)
            if (fat_get(v, c, i) != fat_get(v, 0, i)) {
                remark("tables differ at %u", i);
                break;
            }
    }
    const char *kind = v->bits == 12 ? "FAT12   " : "FAT16   ";
    if (b[38] == 0x29 && memcmp(b + 54, kind, 8) != 0) remark("boot sector says %.8s", b + 54);
    if (b[37] & 1) remark("dirty");
}

/* Walks a chain; returns its clusters, and a list of them to be freed. */
static unsigned chain(volume *v, unsigned first, const char *who, unsigned **list)
{
    unsigned n = 0, at = first;
    *list = malloc((v->clusters + 3) * sizeof **list);
    while (!fat_is_end(v, at)) {
        if (at < 2 || at >= v->clusters + 2) {
            remark("%s: leads to cluster %u", who, at);
            break;
        }
        if (v->owner[at]++ != 0) {
            remark("%s: cluster %u is used twice", who, at);
            break;
        }
        (*list)[n++] = at;
        at = fat_get(v, 0, at);
    }
    return n;
}

static const uint8_t *cluster_at(const volume *v, unsigned cluster)
{
    return v->image + v->data_at + (size_t)(cluster - 2) * v->spc * v->bps;
}

static void check_short_name(const uint8_t *e, const char *who)
{
    for (int i = 0; i < 11; i++) {
        if (e[i] < 0x20 || strchr("\"*+,./:;<=>?[\\]|", e[i]) != NULL)
            remark("%s: character %02X in its name", who, e[i]);
        if (e[i] >= 'a' && e[i] <= 'z') remark("%s: lower case", who);
    }
    if (e[0] == ' ') remark("%s: begins with a blank", who);
}

static void check_date(const uint8_t *e, const char *who)
{
    unsigned date = le(e + 24, 2), time = le(e + 22, 2);
    if ((date & 31) == 0 || (date >> 5 & 15) == 0 || (date >> 5 & 15) > 12 || time >> 11 > 23 ||
        (time >> 5 & 63) > 59 || (time & 31) > 29)
        remark("%s: date %04X time %04X", who, date, time);
}

static void check_entries(volume *v, const uint8_t *entries, unsigned count, unsigned self,
                          unsigned parent, const char *path, unsigned depth);

static void check_entry(volume *v, const uint8_t *e, unsigned self, const char *path,
                        unsigned depth)
{
    char who[600];
    unsigned *list, first = le(e + 26, 2), size = le(e + 28, 4);
    snprintf(who, sizeof who, "%s/%.11s", path, e);
    check_short_name(e, who);
    check_date(e, who);
    if (e[11] & 0x10) {
        unsigned n = chain(v, first, who, &list), per = v->spc * v->bps / 32;
        if (size != 0) remark("%s: folder of size %u", who, size);
        if (n == 0) remark("%s: folder without clusters", who);
        uint8_t *all = malloc((size_t)n * per * 32 + 1);
        for (unsigned i = 0; i < n; i++)
            memcpy(all + (size_t)i * per * 32, cluster_at(v, list[i]), (size_t)per * 32);
        if (n > 0 && depth < 40) check_entries(v, all, n * per, first, self, who, depth + 1);
        free(all);
    } else {
        unsigned each = v->spc * v->bps, need = size / each + (size % each != 0);
        unsigned n = size == 0 && first == 0 ? 0 : chain(v, first, who, &list);
        if (size == 0 && first == 0) return;
        if (n != need) remark("%s: %u bytes in %u clusters", who, size, n);
    }
    free(list);
}

static unsigned lfn_sum(const uint8_t *name)
{
    unsigned char sum = 0;
    for (int i = 0; i < 11; i++)
        sum = (unsigned char)((sum >> 1) + (sum << 7) + name[i]);
    return sum;
}

static void check_entries(volume *v, const uint8_t *entries, unsigned count, unsigned self,
                          unsigned parent, const char *path, unsigned depth)
{
    unsigned long_left = 0, long_sum = 0;
    for (unsigned i = 0; i < count; i++) {
        const uint8_t *e = entries + (size_t)i * 32;
        if (e[0] == 0) {
            for (unsigned k = i; k < count; k++)
                if (entries[(size_t)k * 32] != 0) remark("%s: something behind its end", path);
            break;
        }
        if (e[0] == 0xE5) {
            if (long_left > 0) remark("%s: long name without its file", path);
            long_left = 0;
            continue;
        }
        if (e[11] == 0x0F) {
            unsigned n = e[0] & 0x3F;
            bool begins = (e[0] & 0x40) != 0;
            if (begins ? long_left != 0 : (n + 1 != long_left || e[13] != long_sum))
                remark("%s: parts of a long name in disorder", path);
            long_left = n, long_sum = e[13];
            continue;
        }
        if (long_left > 1 || (long_left == 1 && lfn_sum(e) != long_sum))
            remark("%s: long name of another file than %.11s", path, e);
        long_left = 0;
        if (depth > 0 && i < 2) {
            unsigned want = i == 0 ? self : parent;
            if (memcmp(e, i == 0 ? ".          " : "..         ", 11) != 0 || !(e[11] & 0x10))
                remark("%s: entry %u is %.11s", path, i, e);
            else if (le(e + 26, 2) != want)
                remark("%s: %.11s leads to %u", path, e, le(e + 26, 2));
            continue;
        }
        for (unsigned k = 0; k < i; k++)
            if (memcmp(entries + (size_t)k * 32, e, 11) == 0 &&
                entries[(size_t)k * 32 + 11] != 0x0F)
                remark("%s: %.11s is there twice", path, e);
        if (!(e[11] & 0x08)) check_entry(v, e, self, path, depth);
        if ((e[11] & 0x08) && v->image[38] == 0x29 && memcmp(e, v->image + 43, 11) != 0)
            remark("label %.11s, and %.11s in the boot sector", e, v->image + 43);
    }
    if (long_left > 0) remark("%s: ends in a long name", path);
}

static const char *run(const uint8_t *image, size_t bytes, bool strict)
{
    volume v;
    remarks[0] = '\0';
    if (!load(&v, image, bytes)) {
        remark("no volume");
        return remarks;
    }
    v.strict = strict;
    check_head(&v);
    check_entries(&v, image + v.root_at, v.nroot, 0, 0, "", 0);
    for (unsigned c = 2; c < v.clusters + 2 && strict; c++) {
        unsigned value = fat_get(&v, 0, c);
        if (v.owner[c] == 0 && value != 0 && value != (v.bits == 16 ? 0xFFF7u : 0xFF7u)) {
            remark("cluster %u is no file's", c);
            break;
        }
    }
    free(v.owner);
    return remarks;
}

const char *fat_peer_check(const uint8_t *image, size_t bytes)
{
    return run(image, bytes, true);
}

const char *fat_peer_check_files(const uint8_t *image, size_t bytes)
{
    return run(image, bytes, false);
}

/* "LAMP.ASM" as 11 bytes. */
static void pack_name(const char *part, size_t count, uint8_t name[11])
{
    int at = 0;
    memset(name, ' ', 11);
    for (size_t i = 0; i < count; i++) {
        if (part[i] == '.')
            at = 8;
        else if (at < 11)
            name[at++] = (uint8_t)part[i];
    }
}

uint8_t *fat_peer_read(const uint8_t *image, size_t bytes, const char *path, size_t *count)
{
    volume v;
    uint8_t *found = NULL, name[11];
    if (!load(&v, image, bytes)) return NULL;
    uint8_t *entries = malloc((size_t)v.nroot * 32);
    size_t entry_count = v.nroot;
    memcpy(entries, image + v.root_at, (size_t)v.nroot * 32);
    while (path != NULL) {
        const char *slash = strchr(path, '/');
        const uint8_t *e = NULL;
        pack_name(path, slash ? (size_t)(slash - path) : strlen(path), name);
        for (size_t i = 0; i < entry_count && entries[i * 32] != 0; i++)
            if (memcmp(entries + i * 32, name, 11) == 0 && !(entries[i * 32 + 11] & 8))
                e = entries + i * 32;
        if (e == NULL) break;
        unsigned *list, n = 0, size = le(e + 28, 4);
        bool folder = (e[11] & 0x10) != 0;
        remarks[0] = '\0';
        memset(v.owner, 0, v.clusters + 2);
        size_t each = (size_t)v.spc * v.bps;
        n = !folder && size == 0 ? 0 : chain(&v, le(e + 26, 2), "", &list);
        uint8_t *all = calloc(n + 1, each);
        for (unsigned i = 0; i < n; i++)
            memcpy(all + i * each, cluster_at(&v, list[i]), each);
        if (folder || size > 0) free(list);
        free(entries);
        entries = all, entry_count = n * each / 32;
        path = slash ? slash + 1 : NULL;
        if (path == NULL && !folder && size <= n * each && remarks[0] == '\0')
            found = all, *count = size, entries = NULL;
    }
    free(entries);
    free(v.owner);
    return found;
}

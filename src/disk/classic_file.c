/* classic_file.c - files of the classic layout: listed, read, deleted, renamed. */
#include "classic_file.h"

/* ---- names ---- */

/* "3:" before a name; *path moves behind it. False: there is none. */
static bool take_user(const char **path, uint8_t *user)
{
    const char *at = *path;
    unsigned value = 0;
    while (*at == '/')
        at++;
    while (bl_is_digit(*at) && value < 1000)
        value = value * 10 + (unsigned)(*at++ - '0');
    if (*at != ':' || at == *path) return false;
    *user = (uint8_t)(value > 255 ? 255 : value);
    *path = at + 1;
    return true;
}

bl_status bl_classic_key(bl_disk *d, const char *path, uint8_t key[12])
{
    char text[13];
    const char *name = path;
    bl_status status;
    key[0] = 0;
    take_user(&name, &key[0]);
    while (*name == '/')
        name++;
    if (key[0] >= CLASSIC_USERS)
        return bl_disk_fail(d, BL_E_RANGE, NULL, "%s: user areas are 0 to 15", path);
    for (const char *c = name; *c != '\0'; c++)
        if (*c == '/')
            return bl_disk_fail(d, BL_E_UNSUPPORTED, "user areas are named '3:NAME'",
                                "%s: a classic disk has no folders", path);
    bl_disk_short_name(bl_text_of(name), text, key + 1, &status);
    if (status != BL_OK) return bl_disk_fail(d, status, NULL, "'%s': this can be no name", path);
    return BL_OK;
}

/* ---- putting a file together ---- */

uint32_t bl_classic_entry_of(const classic *c, const uint8_t *key, uint32_t number)
{
    uint32_t i = 0;
    while (i < c->layout.entries) {
        const uint8_t *e = classic_entry(c, i);
        if (classic_is_file(e) && bl_classic_same(e, key) && classic_number(c, e) == number) break;
        i++;
    }
    return i;
}

void bl_classic_gather(const classic *c, const uint8_t *key, classic_file *f)
{
    uint32_t last = 0;
    const uint8_t *end = NULL;
    *f = (classic_file){0};
    memcpy(f->key, key, sizeof f->key);
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (!classic_is_file(e) || !bl_classic_same(e, key)) continue;
        f->count++;
        if (end == NULL || classic_number(c, e) >= last) end = e, last = classic_number(c, e);
    }
    if (end == NULL) return;
    f->last = last;
    f->records = last * c->extents * CLASSIC_EXTENT + classic_records(c, end);
    f->size = f->records * BL_DISK_RECORD;
    f->rounded = end[13] == 0 || end[13] >= BL_DISK_RECORD;
    if (!f->rounded && f->records > 0) f->size -= BL_DISK_RECORD - end[13];
    f->attributes =
        (uint8_t)((end[9] & 0x80 ? BL_DISK_READ_ONLY : 0) | (end[10] & 0x80 ? BL_DISK_SYSTEM : 0) |
                  (end[11] & 0x80 ? BL_DISK_ARCHIVE : 0));
}

static void fill_classic_entry(const classic *c, const classic_file *f, bl_disk_entry *e)
{
    uint32_t before = UINT32_MAX;
    *e = (bl_disk_entry){.size = f->size, .rounded = f->rounded, .user = f->key[0]};
    bl_classic_name_text(f->key, e->name);
    bl_classic_name_text(f->key, e->short_name);
    e->attributes = f->attributes;
    e->damaged = bl_classic_lies(c, f);
    for (uint32_t n = 0; n <= f->last && !e->damaged; n++) {
        uint32_t at = bl_classic_entry_of(c, f->key, n);
        for (uint32_t k = 0; at < c->layout.entries && k < c->per_entry; k++) {
            uint32_t block = bl_classic_block(c, classic_entry(c, at), k);
            if (block == 0) continue;
            if (e->first == 0) e->first = block;
            if (block != before + 1) e->pieces++;
            before = block;
        }
    }
}

/* Is this the first entry of its file in the directory? */
static bool is_first_of(const classic *c, uint32_t index)
{
    const uint8_t *e = classic_entry(c, index);
    if (!classic_is_file(e)) return false;
    for (uint32_t i = 0; i < index; i++)
        if (bl_classic_same(classic_entry(c, i), e)) return false;
    return true;
}

bl_status bl_classic_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context)
{
    const classic *c = classic_of(d);
    classic_file f;
    bl_disk_entry entry;
    uint8_t user = 0;
    const char *name = path;
    bool one_user = take_user(&name, &user);
    while (*name == '/')
        name++;
    if (*name != '\0') {
        bl_status status = bl_classic_find(d, path, &entry);
        return status == BL_OK ? visit(context, &entry) : status;
    }
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (!is_first_of(c, i) || (one_user && e[0] != user)) continue;
        bl_classic_gather(c, e, &f);
        fill_classic_entry(c, &f, &entry);
        bl_status status = visit(context, &entry);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

/* A file that must be there. */
static bl_status gather_path(bl_disk *d, const char *path, classic_file *f)
{
    uint8_t key[12];
    bl_status status = bl_classic_key(d, path, key);
    if (status != BL_OK) return status;
    bl_classic_gather(classic_of(d), key, f);
    if (f->count > 0) return BL_OK;
    return bl_disk_fail(d, BL_E_NOT_FOUND, "disk list shows what there is",
                        "%s: there is no such file in user area %u", path, key[0]);
}

bl_status bl_classic_find(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    classic_file f;
    bl_status status = gather_path(d, path, &f);
    if (status == BL_OK) fill_classic_entry(classic_of(d), &f, entry);
    return status;
}

bool bl_classic_lies(const classic *c, const classic_file *f)
{
    return f->count < f->last + 1 || f->records / (c->layout.block / BL_DISK_RECORD) > c->blocks;
}

/* ---- reading ---- */

/* Where a record is: a sector of the layout, and bytes in it. False: in a hole. */
static bool record_place(const classic *c, const uint8_t *e, uint32_t record, uint32_t *sector,
                         uint32_t *offset)
{
    uint32_t each = c->layout.block / BL_DISK_RECORD;
    uint32_t block = bl_classic_block(c, e, record / each % c->per_entry);
    uint32_t byte = record % each * BL_DISK_RECORD;
    if (block == 0) return false;
    *sector = bl_classic_sector(c, block, byte / c->layout.sector);
    *offset = byte % c->layout.sector;
    return true;
}

/* Every block that is read must be one of the disk's, and of this file alone. */
static bl_status check_blocks(bl_disk *d, const char *path, const classic_file *f)
{
    const classic *c = classic_of(d);
    if (bl_classic_lies(c, f))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                            "%s: its entries give it %lu bytes, and %lu of its %lu parts", path,
                            (unsigned long)f->size, (unsigned long)f->count,
                            (unsigned long)f->last + 1);
    for (uint32_t i = 0; i < c->layout.entries; i++) {
        const uint8_t *e = classic_entry(c, i);
        if (!classic_is_file(e) || !bl_classic_same(e, f->key)) continue;
        if (bl_classic_entry_of(c, f->key, classic_number(c, e)) != i)
            return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                                "%s: part %lu of it is there twice", path,
                                (unsigned long)classic_number(c, e));
        for (uint32_t k = 0; k < c->per_entry; k++) {
            uint32_t block = bl_classic_block(c, e, k);
            if (block >= c->blocks || (block != 0 && block < c->directory_blocks))
                return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                                    "%s: its block %lu is none of a file", path,
                                    (unsigned long)block);
        }
    }
    return BL_OK;
}

static bl_status read_classic_records(bl_disk *d, const classic_file *f, const bl_writer *writer)
{
    const classic *c = classic_of(d);
    uint32_t left = f->size, loaded = UINT32_MAX, per = c->extents * CLASSIC_EXTENT;
    uint32_t number = UINT32_MAX, at = c->layout.entries;
    bl_status status = BL_OK;
    for (uint32_t r = 0; left > 0 && status == BL_OK; r++) {
        uint8_t hole[BL_DISK_RECORD] = {0};
        const uint8_t *from = hole;
        uint32_t sector, offset, count = left < BL_DISK_RECORD ? left : BL_DISK_RECORD;
        if (r / per != number) number = r / per, at = bl_classic_entry_of(c, f->key, number);
        if (at < c->layout.entries &&
            record_place(c, classic_entry(c, at), r % per, &sector, &offset)) {
            if (sector != loaded) status = bl_classic_read(d, sector, c->buffer);
            loaded = sector, from = c->buffer + offset;
        }
        if (status == BL_OK) status = writer->write(writer->context, from, (size_t)count);
        left -= count;
    }
    return status;
}

bl_status bl_classic_get(bl_disk *d, const char *path, const bl_writer *writer)
{
    classic_file f;
    bl_status status = gather_path(d, path, &f);
    if (status == BL_OK) status = check_blocks(d, path, &f);
    return status == BL_OK ? read_classic_records(d, &f, writer) : status;
}

/* ---- deleting, renaming ---- */

/* By their numbers: what the power leaves of it lacks its first entry, and so is known. */
bl_status bl_classic_erase(bl_disk *d, const uint8_t *key)
{
    classic *c = classic_of(d);
    classic_file f;
    bl_status status = BL_OK;
    bl_classic_gather(c, key, &f); /* key may be in an entry that is erased: not f.key */
    for (uint32_t number = 0; f.count > 0 && number <= f.last && status == BL_OK;) {
        uint32_t at = bl_classic_entry_of(c, f.key, number);
        if (at == c->layout.entries) {
            number++;
            continue;
        }
        classic_entry(c, at)[0] = CLASSIC_EMPTY;
        status = bl_classic_save(d, at);
    }
    bl_classic_count(c);
    return status;
}

bl_status bl_classic_remove(bl_disk *d, const char *path, bool force)
{
    classic_file f;
    bl_status status = gather_path(d, path, &f);
    if (status != BL_OK) return status;
    if ((f.attributes & BL_DISK_READ_ONLY) != 0 && !force)
        return bl_disk_fail(d, BL_E_PROTECTED, "--force deletes it all the same", "%s is read-only",
                            path);
    uint8_t *before = bl_classic_keep(d);
    return before == NULL ? BL_E_MEMORY : bl_classic_settle(d, before, bl_classic_erase(d, f.key));
}

bl_status bl_classic_rekey(bl_disk *d, const uint8_t *old_key, const uint8_t *new_key)
{
    const classic *c = classic_of(d);
    classic_file f;
    bl_classic_gather(c, old_key, &f); /* old_key may be in an entry that is changed: not f.key */
    bl_status status = BL_OK;
    for (uint32_t number = 0; number <= f.last && status == BL_OK; number++) {
        uint32_t at = bl_classic_entry_of(c, f.key, number);
        if (at == c->layout.entries) continue;
        uint8_t *e = classic_entry(c, at);
        e[0] = new_key[0];
        for (size_t i = 1; i <= CLASSIC_NAMES; i++)
            e[i] = (uint8_t)((e[i] & 0x80) | (new_key[i] & 0x7F));
        status = bl_classic_save(d, at);
    }
    return status;
}

bl_status bl_classic_rename(bl_disk *d, const char *old_path, const char *new_path)
{
    classic_file f, other;
    uint8_t key[12], user;
    const char *name = new_path;
    bl_status status = gather_path(d, old_path, &f);
    if (status == BL_OK) status = bl_classic_key(d, new_path, key);
    if (status != BL_OK) return status;
    if (!take_user(&name, &user)) key[0] = f.key[0]; /* it stays in its user area */
    bl_classic_gather(classic_of(d), key, &other);
    if (other.count > 0 && !bl_classic_same(key, f.key))
        return bl_disk_fail(d, BL_E_EXISTS, "delete it first", "%s is there already", new_path);
    if (other.count > 0) return BL_OK; /* its own name */
    uint8_t *before = bl_classic_keep(d);
    return before == NULL ? BL_E_MEMORY
                          : bl_classic_settle(d, before, bl_classic_rekey(d, f.key, key));
}

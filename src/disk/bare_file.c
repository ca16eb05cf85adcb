/* bare_file.c - files of a bare disk: listed, read, deleted, renamed, started. */
#include "bare_volume.h"

/* ---- the directory ---- */

/* Does each file lie in the room for files, and in none of another? */
static bool files_lie_apart(bare *b)
{
    for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
        const uint8_t *e = bare_entry(b, i);
        if (e[0] == 0 || bare_length(e) == 0) continue;
        if (!bare_is_inside(b, e)) return false;
        for (unsigned k = 1; k < i; k++)
            if (bare_overlap(e, bare_entry(b, k))) return false;
    }
    return true;
}

static bl_status must_be_signed(bl_disk *d)
{
    if (bare_of(d)->sound) return BL_OK;
    return bl_disk_fail(d, BL_E_DAMAGED, "disk check --repair",
                        "the check of its directory is not right; nothing is written to it");
}

/* What is to be written to must be right before. */
bl_status bl_bare_must_be_sound(bl_disk *d)
{
    if (!files_lie_apart(bare_of(d)))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                            "its files do not lie where they can; nothing is written to it");
    return must_be_signed(d);
}

const char *bl_bare_plain_name(const char *path)
{
    while (*path == '/')
        path++;
    return path;
}

/* The entry of a file; 0: there is none. */
unsigned bl_bare_index(bare *b, const char *path)
{
    char name[BL_BARE_NAME + 1];
    for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
        bl_bare_name_of(bare_entry(b, i), name);
        if (name[0] != '\0' &&
            bl_text_same_nocase(bl_text_of(name), bl_text_of(bl_bare_plain_name(path))))
            return i;
    }
    return 0;
}

static bl_status must_exist(bl_disk *d, const char *path, unsigned *index)
{
    *index = bl_bare_index(bare_of(d), path);
    if (*index != 0) return BL_OK;
    return bl_disk_fail(d, BL_E_NOT_FOUND, "disk list shows what there is",
                        "%s: there is no such file", path);
}

bl_status bl_bare_check_name(bl_disk *d, const char *path)
{
    const char *name = bl_bare_plain_name(path);
    bool good = name[0] != '\0' && bl_length(name) <= BL_BARE_NAME;
    for (const char *c = name; *c != '\0'; c++)
        good = good && *c > ' ' && *c < 0x7F && *c != '/';
    if (good) return BL_OK;
    return bl_disk_fail(d, BL_E_SYNTAX, "--to NAME gives it another one",
                        "'%s' can be no name on a bare disk: 1 to %d ASCII characters without "
                        "blanks and /",
                        name, BL_BARE_NAME);
}

void bl_bare_fill_entry(bare *b, unsigned index, bl_disk_entry *e)
{
    const uint8_t *raw = bare_entry(b, index);
    *e = (bl_disk_entry){.size = bare_length(raw)};
    bl_bare_name_of(raw, e->name);
    bl_format(e->short_name, sizeof e->short_name, "%.*s", 15, e->name);
    e->first = bare_first(raw);
    e->pieces = e->size > 0 ? 1 : 0;
    e->has_load = (raw[BARE_FLAGS] & BARE_HAS_LOAD) != 0;
    e->has_entry = (raw[BARE_FLAGS] & BARE_HAS_ENTRY) != 0;
    e->load = bare_triple(raw + BARE_LOAD), e->entry = bare_triple(raw + BARE_RUN);
    e->starts = b->directory[BARE_START] == index;
}

bl_status bl_bare_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context)
{
    bare *b = bare_of(d);
    bl_disk_entry e;
    unsigned only = 0;
    bl_status status = BL_OK;
    if (bl_bare_plain_name(path)[0] != '\0') status = must_exist(d, path, &only);
    for (unsigned i = 1; i <= BL_BARE_FILES && status == BL_OK; i++) {
        if (bare_entry(b, i)[0] == 0 || (only != 0 && i != only)) continue;
        bl_bare_fill_entry(b, i, &e);
        status = visit(context, &e);
    }
    return status;
}

bl_status bl_bare_find(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    unsigned index;
    bl_status status = must_exist(d, path, &index);
    if (status == BL_OK) bl_bare_fill_entry(bare_of(d), index, entry);
    return status;
}

/* ---- reading ---- */

bl_status bl_bare_sum_file(bl_disk *d, const uint8_t *e, uint8_t check[2])
{
    bare *b = bare_of(d);
    bl_status status = BL_OK;
    uint32_t left = bare_length(e);
    check[0] = 1, check[1] = 0;
    for (uint32_t i = 0; left > 0 && status == BL_OK; i++) {
        uint32_t count = left < BL_BARE_SECTOR ? left : BL_BARE_SECTOR;
        status = bl_disk_read_sector(d, bare_first(e) + i, b->sector);
        if (status == BL_OK) bl_bare_sum(check, b->sector, (size_t)count);
        left -= count;
    }
    return status;
}

/* The sums first: nothing of a file that is not what it was is given out. */
bl_status bl_bare_get(bl_disk *d, const char *path, const bl_writer *writer)
{
    bare *b = bare_of(d);
    unsigned index;
    uint8_t check[2];
    bl_status status = must_exist(d, path, &index);
    if (status != BL_OK) return status;
    const uint8_t *e = bare_entry(b, index);
    if (!bare_is_inside(b, e))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                            "%s does not lie in the room for files", path);
    status = bl_bare_sum_file(d, e, check);
    if (status == BL_OK && memcmp(check, e + BARE_SUM, 2) != 0)
        status = bl_disk_fail(d, BL_E_CHECKSUM, "put it there again",
                              "%s: its check is not right: its bytes have changed", path);
    uint32_t left = bare_length(e);
    for (uint32_t i = 0; left > 0 && status == BL_OK; i++) {
        uint32_t count = left < BL_BARE_SECTOR ? left : BL_BARE_SECTOR;
        status = bl_disk_read_sector(d, bare_first(e) + i, b->sector);
        if (status == BL_OK) status = writer->write(writer->context, b->sector, (size_t)count);
        left -= count;
    }
    return status;
}

/* ---- changing ---- */

bl_status bl_bare_remove(bl_disk *d, const char *path, bool force)
{
    bare *b = bare_of(d);
    unsigned index;
    (void)force;
    bl_status status = must_be_signed(d); /* files that cannot lie where they do may go */
    if (status == BL_OK) status = must_exist(d, path, &index);
    if (status != BL_OK) return status;
    memset(bare_entry(b, index), 0, BARE_ENTRY);
    if (b->directory[BARE_START] == index) b->directory[BARE_START] = 0;
    return bl_bare_save(d);
}

bl_status bl_bare_rename(bl_disk *d, const char *old_path, const char *new_path)
{
    bare *b = bare_of(d);
    unsigned index, other;
    bl_status status = bl_bare_must_be_sound(d);
    if (status == BL_OK) status = must_exist(d, old_path, &index);
    if (status == BL_OK) status = bl_bare_check_name(d, new_path);
    if (status != BL_OK) return status;
    other = bl_bare_index(b, new_path);
    if (other != 0 && other != index)
        return bl_disk_fail(d, BL_E_EXISTS, "delete it first", "%s is there already", new_path);
    const char *name = bl_bare_plain_name(new_path);
    memset(bare_entry(b, index), 0, BL_BARE_NAME);
    memcpy(bare_entry(b, index), name, bl_length(name));
    return bl_bare_save(d);
}

bl_status bl_bare_start(bl_disk *d, const char *path)
{
    bare *b = bare_of(d);
    unsigned index = 0;
    if (d->kind != BL_DISK_BARE) return BL_E_ARGUMENT;
    bl_status status = bl_bare_must_be_sound(d);
    if (status == BL_OK && path != NULL) status = must_exist(d, path, &index);
    if (status != BL_OK) return status;
    unsigned needed = BARE_HAS_LOAD | BARE_HAS_ENTRY;
    if (index != 0 && (bare_entry(b, index)[BARE_FLAGS] & needed) != needed)
        return bl_disk_fail(d, BL_E_REFUSED, NULL,
                            "%s has no load address or no entry point, so it cannot start", path);
    b->directory[BARE_START] = (uint8_t)index;
    return bl_bare_save(d);
}

/* bare.c - the disk of ours for bare machines. */
#include "bare_volume.h"

void bl_bare_sum(uint8_t check[2], const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        check[0] = (uint8_t)(check[0] + bytes[i]);
        check[1] = (uint8_t)(check[1] + check[0]);
    }
}

void bl_bare_check_of(const uint8_t directory[BL_BARE_SECTOR], uint8_t check[2])
{
    static const uint8_t zeros[2];
    check[0] = 1, check[1] = 0;
    bl_bare_sum(check, directory, BARE_CHECK);
    bl_bare_sum(check, zeros, sizeof zeros);
    bl_bare_sum(check, directory + BARE_CHECK + 2, BL_BARE_SECTOR - BARE_CHECK - 2);
}

static const char bare_mark[] = "BAREDISK";

bl_status bl_bare_format(const bl_sectors *s, const char *label, uint16_t boot)
{
    uint8_t b[BL_BARE_SECTOR] = {0};
    size_t length = bl_length(label);
    if (s->size != BL_BARE_SECTOR || s->count < boot + 2u || length > BL_BARE_NAME)
        return BL_E_ARGUMENT;
    memcpy(b, bare_mark, 8);
    b[8] = BARE_VERSION;
    bl_put_little16(b + BARE_TOTAL, s->count < BL_BARE_MOST ? s->count : BL_BARE_MOST);
    bl_put_little16(b + BARE_DATA, boot + 1u);
    memcpy(b + BARE_LABEL, label, length);
    bl_bare_check_of(b, b + BARE_CHECK);
    return s->write(s->context, 0, b);
}

/* ---- the directory ---- */

void bl_bare_name_of(const uint8_t *e, char name[BL_BARE_NAME + 1])
{
    size_t n = 0;
    while (n < BL_BARE_NAME && e[n] != 0) {
        name[n] = (char)(e[n] > ' ' && e[n] < 0x7F ? e[n] : '?');
        n++;
    }
    name[n] = '\0';
}

bl_status bl_bare_save(bl_disk *d)
{
    bare *b = bare_of(d);
    bl_bare_check_of(b->directory, b->directory + BARE_CHECK);
    bl_status status = bl_disk_write_sector(d, 0, b->directory);
    if (status == BL_OK) status = bl_disk_read_sector(d, 0, b->sector);
    if (status == BL_OK && memcmp(b->sector, b->directory, BL_BARE_SECTOR) != 0)
        status = bl_disk_fail(d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                              "the directory was read back, and differs");
    if (status == BL_OK) b->sound = true;
    return status;
}

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
static bl_status must_be_sound(bl_disk *d)
{
    if (!files_lie_apart(bare_of(d)))
        return bl_disk_fail(d, BL_E_DAMAGED, "disk check says more",
                            "its files do not lie where they can; nothing is written to it");
    return must_be_signed(d);
}

static const char *plain_name(const char *path)
{
    while (*path == '/')
        path++;
    return path;
}

/* The entry of a file; 0: there is none. */
static unsigned index_of(bare *b, const char *path)
{
    char name[BL_BARE_NAME + 1];
    for (unsigned i = 1; i <= BL_BARE_FILES; i++) {
        bl_bare_name_of(bare_entry(b, i), name);
        if (name[0] != '\0' && bl_text_same_nocase(bl_text_of(name), bl_text_of(plain_name(path))))
            return i;
    }
    return 0;
}

static bl_status must_exist(bl_disk *d, const char *path, unsigned *index)
{
    *index = index_of(bare_of(d), path);
    if (*index != 0) return BL_OK;
    return bl_disk_fail(d, BL_E_NOT_FOUND, "disk list shows what there is",
                        "%s: there is no such file", path);
}

static bl_status check_bare_name(bl_disk *d, const char *path)
{
    const char *name = plain_name(path);
    bool good = name[0] != '\0' && bl_length(name) <= BL_BARE_NAME;
    for (const char *c = name; *c != '\0'; c++)
        good = good && *c > ' ' && *c < 0x7F && *c != '/';
    if (good) return BL_OK;
    return bl_disk_fail(d, BL_E_SYNTAX, "--to NAME gives it another one",
                        "'%s' can be no name on a bare disk: 1 to %d ASCII characters without "
                        "blanks and /",
                        name, BL_BARE_NAME);
}

static void fill_bare_entry(bare *b, unsigned index, bl_disk_entry *e)
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

static bl_status list_bare(bl_disk *d, const char *path, bl_disk_visit *visit, void *context)
{
    bare *b = bare_of(d);
    bl_disk_entry e;
    unsigned only = 0;
    bl_status status = BL_OK;
    if (plain_name(path)[0] != '\0') status = must_exist(d, path, &only);
    for (unsigned i = 1; i <= BL_BARE_FILES && status == BL_OK; i++) {
        if (bare_entry(b, i)[0] == 0 || (only != 0 && i != only)) continue;
        fill_bare_entry(b, i, &e);
        status = visit(context, &e);
    }
    return status;
}

static bl_status find_bare(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    unsigned index;
    bl_status status = must_exist(d, path, &index);
    if (status == BL_OK) fill_bare_entry(bare_of(d), index, entry);
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
static bl_status get_bare(bl_disk *d, const char *path, const bl_writer *writer)
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

static bl_status space_of_bare(bl_disk *d, bl_disk_space *s)
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
        space_of_bare(d, &s);
        if (*first == 0 && s.free >= count) status = move_together(d);
        if (*first == 0 && status == BL_OK && s.free >= count) *first = find_room(b, count, old);
        if (status != BL_OK || *first != 0) return status;
    }
    space_of_bare(d, &s);
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
    bl_status status = must_be_sound(d);
    if (status == BL_OK) status = check_bare_name(d, path);
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
    unsigned old = *index = index_of(b, path);
    for (unsigned i = 1; i <= BL_BARE_FILES && *index == 0; i++)
        if (bare_entry(b, i)[0] == 0) *index = i;
    if (*index == 0)
        return bl_disk_fail(d, BL_E_FULL, NULL, "%s: the directory has its %d files already", path,
                            BL_BARE_FILES);
    status = take_bare_room(d, path, count, old, &first);
    if (status != BL_OK) return status;
    make_bare_entry(entry, plain_name(path), file, first);
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

static bl_status put_bare(bl_disk *d, const char *path, const bl_disk_file *file,
                          bl_disk_entry *stored)
{
    bare *b = bare_of(d);
    uint8_t before[BL_BARE_SECTOR];
    unsigned index;
    memcpy(before, b->directory, sizeof before);
    bl_status status = put_bare_steps(d, path, file, &index);
    if (status != BL_OK) memcpy(b->directory, before, sizeof before);
    if (status == BL_OK) fill_bare_entry(b, index, stored);
    return status;
}

static bl_status remove_bare(bl_disk *d, const char *path, bool force)
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

static bl_status rename_bare(bl_disk *d, const char *old_path, const char *new_path)
{
    bare *b = bare_of(d);
    unsigned index, other;
    bl_status status = must_be_sound(d);
    if (status == BL_OK) status = must_exist(d, old_path, &index);
    if (status == BL_OK) status = check_bare_name(d, new_path);
    if (status != BL_OK) return status;
    other = index_of(b, new_path);
    if (other != 0 && other != index)
        return bl_disk_fail(d, BL_E_EXISTS, "delete it first", "%s is there already", new_path);
    const char *name = plain_name(new_path);
    memset(bare_entry(b, index), 0, BL_BARE_NAME);
    memcpy(bare_entry(b, index), name, bl_length(name));
    return bl_bare_save(d);
}

bl_status bl_bare_start(bl_disk *d, const char *path)
{
    bare *b = bare_of(d);
    unsigned index = 0;
    if (d->kind != BL_DISK_BARE) return BL_E_ARGUMENT;
    bl_status status = must_be_sound(d);
    if (status == BL_OK && path != NULL) status = must_exist(d, path, &index);
    if (status != BL_OK) return status;
    unsigned needed = BARE_HAS_LOAD | BARE_HAS_ENTRY;
    if (index != 0 && (bare_entry(b, index)[BARE_FLAGS] & needed) != needed)
        return bl_disk_fail(d, BL_E_REFUSED, NULL,
                            "%s has no load address or no entry point, so it cannot start", path);
    b->directory[BARE_START] = (uint8_t)index;
    return bl_bare_save(d);
}

/* ---- opening ---- */

static void label_of_bare(bl_disk *d, char label[BL_DISK_NAME])
{
    bl_bare_name_of(bare_of(d)->directory + BARE_LABEL, label);
}

static void describe_bare(bl_disk *d, char *text, size_t capacity)
{
    const bare *b = bare_of(d);
    bl_format(text, capacity, "%lu KiB, files of whole sectors of 512 bytes",
              (unsigned long)b->total / 2);
}

static bl_status boot_area_of_bare(bl_disk *d, uint32_t *sectors, uint32_t *from, uint32_t *count)
{
    *sectors = bare_of(d)->data;
    *from = 0, *count = BL_BARE_SECTOR; /* the first is the directory */
    return BL_OK;
}

static void close_bare(bl_disk *d)
{
    bl_disk_free(d, d->state);
    d->state = NULL;
}

static const bl_disk_calls bare_calls = {
    .close = close_bare,
    .label = label_of_bare,
    .describe = describe_bare,
    .space = space_of_bare,
    .list = list_bare,
    .find = find_bare,
    .get = get_bare,
    .put = put_bare,
    .remove = remove_bare,
    .rename = rename_bare,
    .check = bl_bare_check,
    .map = bl_bare_map,
    .boot_area = boot_area_of_bare,
};

/* A directory whose check is wrong can be read, and repaired; nothing else is written to it. */
static bl_status read_bare(bl_disk *d)
{
    bare *b = bare_of(d);
    uint8_t check[2];
    bl_status status = bl_disk_read_sector(d, 0, b->directory);
    if (status != BL_OK) return status;
    if (memcmp(b->directory, bare_mark, 8) != 0) return BL_E_NOT_FOUND;
    if (b->directory[8] != BARE_VERSION)
        return bl_disk_fail(d, BL_E_DAMAGED, "a newer Bootlace may read it",
                            "this is a bare disk of version %u; version %d is known",
                            b->directory[8], BARE_VERSION);
    b->total = bl_little16(b->directory + BARE_TOTAL);
    b->data = bl_little16(b->directory + BARE_DATA);
    if (b->total > d->sectors.count)
        return bl_disk_fail(d, BL_E_DAMAGED, "the image was cut off, or is of another disk",
                            "it says that it has %lu sectors; there are %lu",
                            (unsigned long)b->total, (unsigned long)d->sectors.count);
    if (b->data == 0 || b->data >= b->total)
        return bl_disk_fail(d, BL_E_DAMAGED, "its directory was overwritten",
                            "there is no room for files on it");
    bl_bare_check_of(b->directory, check);
    b->sound = memcmp(check, b->directory + BARE_CHECK, 2) == 0;
    return BL_OK;
}

bl_status bl_bare_begin(bl_disk *d)
{
    if (d->sectors.size != BL_BARE_SECTOR) return BL_E_NOT_FOUND;
    d->state = bl_disk_room(d, 1, sizeof(bare));
    if (d->state == NULL) return BL_E_MEMORY;
    bl_status status = read_bare(d);
    if (status != BL_OK) {
        close_bare(d);
        return status;
    }
    if (!bare_of(d)->sound)
        bl_report(&d->setup.sink, BL_WARNING, d->setup.title, 0, "disk check says more",
                  "the check of its directory is not right: what it says may be wrong");
    d->calls = &bare_calls;
    d->kind = BL_DISK_BARE;
    return BL_OK;
}

/* disk.c - the calls that serve all kinds, and how a kind is found out. */
#include "disk_kind.h"

static const char *const kind_names[] = {NULL, "fat12", "fat16", "classic", "bare"};
enum { KIND_NAMES = sizeof kind_names / sizeof kind_names[0] };

const char *bl_disk_kind_name(bl_disk_kind kind)
{
    return (unsigned)kind < KIND_NAMES ? kind_names[kind] : NULL;
}

bl_disk_kind bl_disk_kind_named(bl_text name)
{
    for (unsigned i = 1; i < KIND_NAMES; i++)
        if (bl_text_same(name, bl_text_of(kind_names[i]))) return (bl_disk_kind)i;
    return BL_DISK_UNKNOWN;
}

/* ---- what kinds share ---- */

bl_status bl_disk_fail(bl_disk *d, bl_status status, const char *hint, const char *message, ...)
{
    char text[BL_DISK_PATH + 256];
    va_list list;
    va_start(list, message);
    bl_format_list(text, sizeof text, message, list);
    va_end(list);
    bl_report(&d->setup.sink, BL_ERROR, d->setup.title, 0, hint, "%s", text);
    return status;
}

/* Tells that a sector could not be read or written. */
static bl_status fail_sector(bl_disk *d, bl_status status, uint32_t sector, bool writing)
{
    const char *hint = status == BL_E_IO ? "the medium is bad there, or the drive is" : NULL;
    return bl_disk_fail(d, status, hint, "sector %lu cannot be %s: %s", (unsigned long)sector,
                        writing ? "written" : "read", bl_status_text(status));
}

bl_status bl_disk_read_sector(bl_disk *d, uint32_t sector, uint8_t *bytes)
{
    bl_status status =
        sector < d->sectors.count ? d->sectors.read(d->sectors.context, sector, bytes) : BL_E_RANGE;
    return status == BL_OK ? BL_OK : fail_sector(d, status, sector, false);
}

bl_status bl_disk_write_sector(bl_disk *d, uint32_t sector, const uint8_t *bytes)
{
    bl_status status = sector < d->sectors.count
                           ? d->sectors.write(d->sectors.context, sector, bytes)
                           : BL_E_RANGE;
    return status == BL_OK ? BL_OK : fail_sector(d, status, sector, true);
}

bl_status bl_disk_read_sectors(bl_disk *d, uint32_t first, uint32_t count, uint8_t *bytes)
{
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < count && status == BL_OK; i++)
        status = bl_disk_read_sector(d, first + i, bytes + (size_t)i * d->sectors.size);
    return status;
}

bl_status bl_disk_write_sectors(bl_disk *d, uint32_t first, uint32_t count, const uint8_t *bytes)
{
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < count && status == BL_OK; i++)
        status = bl_disk_write_sector(d, first + i, bytes + (size_t)i * d->sectors.size);
    return status;
}

bl_sink bl_disk_hush(bl_disk *d)
{
    bl_sink told = d->setup.sink;
    d->setup.sink = (bl_sink){.context = NULL};
    return told;
}

void *bl_disk_room(bl_disk *d, uint32_t count, size_t size)
{
    if (count == 0) count = 1;
    size_t bytes = (size_t)count * size;
    bool fits = (size_t)count == count && bytes / size == count;
    void *block = fits ? d->memory.resize(d->memory.context, NULL, bytes) : NULL;
    if (block != NULL)
        memset(block, 0, bytes);
    else
        bl_disk_fail(d, BL_E_MEMORY, NULL, "%s", bl_status_text(BL_E_MEMORY));
    return block;
}

void bl_disk_free(const bl_disk *d, void *block)
{
    bl_release(&d->memory, block);
}

static void count_finding(bl_disk_report *r, bl_disk_finding *f, const char *message, va_list list)
{
    char text[BL_DISK_PATH + 256];
    bl_format_list(text, sizeof text, message, list);
    f->what = text;
    if (f->broken) r->broken++;
    if (!f->broken) r->remarks++;
    if (f->mended) r->mended++;
    if (f->broken && !f->mended) r->left++;
    if (r->find != NULL) r->find(r->context, f);
    f->what = NULL;
}

void bl_disk_find_broken(bl_disk_report *r, bool mended, bool safe, const char *hint,
                         const char *message, ...)
{
    bl_disk_finding f = {.broken = true, .safe = safe, .mended = mended, .hint = hint};
    va_list list;
    va_start(list, message);
    count_finding(r, &f, message, list);
    va_end(list);
}

void bl_disk_find_loss(bl_disk_report *r, bool done, const char *hint, const char *message, ...)
{
    bl_disk_finding f = {.broken = true,
                         .loss = true,
                         .mended = done,
                         .hint = hint != NULL ? hint
                                              : "--repair --drop does this, and throws bytes away; "
                                                "copy what you can first"};
    va_list list;
    va_start(list, message);
    if (done) r->losses++;
    count_finding(r, &f, message, list);
    va_end(list);
}

void bl_disk_find_remark(bl_disk_report *r, bool mended, const char *message, ...)
{
    bl_disk_finding f = {.safe = true, .mended = mended};
    va_list list;
    va_start(list, message);
    count_finding(r, &f, message, list);
    va_end(list);
}

/* ---- opening ---- */

typedef bl_status opener(bl_disk *d);

static opener *opener_of(bl_disk_kind kind)
{
    switch (kind) {
    case BL_DISK_FAT12:
    case BL_DISK_FAT16: return bl_fat_begin;
    case BL_DISK_CLASSIC: return bl_classic_begin;
    case BL_DISK_BARE: return bl_bare_begin;
    case BL_DISK_UNKNOWN: break;
    }
    return NULL;
}

/* What has a signature goes before what has none. */
static bl_status find_disk_kind(bl_disk *d)
{
    static opener *const all[] = {bl_bare_begin, bl_fat_begin, bl_classic_begin};
    for (unsigned i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_status status = all[i](d);
        if (status != BL_E_NOT_FOUND) return status;
    }
    return bl_disk_fail(d, BL_E_UNSUPPORTED,
                        "known are FAT12, FAT16, our bare disk, and classic layouts; which one of "
                        "those a disk has can be said: --layout NAME",
                        "no file system that is known is on it");
}

bl_status bl_disk_open(bl_disk *d, const bl_sectors *sectors, const bl_memory *memory,
                       const bl_disk_setup *setup)
{
    if (sectors->count == 0 || sectors->size < BL_DISK_RECORD) return BL_E_ARGUMENT;
    *d = (bl_disk){.sectors = *sectors, .memory = *memory, .setup = *setup};
    if (setup->kind == BL_DISK_UNKNOWN) return find_disk_kind(d);
    opener *begin = opener_of(setup->kind);
    if (begin == NULL) return BL_E_ARGUMENT;
    bl_status status = begin(d);
    if (status == BL_OK && d->kind != setup->kind) {
        const char *is = bl_disk_kind_name(d->kind);
        bl_disk_close(d);
        return bl_disk_fail(d, BL_E_UNSUPPORTED, NULL, "this is no %s disk; it is %s",
                            bl_disk_kind_name(setup->kind), is);
    }
    if (status != BL_E_NOT_FOUND) return status;
    return bl_disk_fail(d, BL_E_UNSUPPORTED, NULL, "this is no %s disk",
                        bl_disk_kind_name(setup->kind));
}

void bl_disk_close(bl_disk *d)
{
    if (d->calls != NULL) d->calls->close(d);
    d->calls = NULL, d->state = NULL;
}

/* ---- calls ---- */

bl_disk_kind bl_disk_kind_of(const bl_disk *d)
{
    return d->kind;
}

void bl_disk_label(bl_disk *d, char label[BL_DISK_NAME])
{
    label[0] = '\0';
    if (d->calls->label != NULL) d->calls->label(d, label);
}

void bl_disk_describe(bl_disk *d, char *text, size_t capacity)
{
    d->calls->describe(d, text, capacity);
}

bl_status bl_disk_space_of(bl_disk *d, bl_disk_space *space)
{
    *space = (bl_disk_space){0};
    return d->calls->space(d, space);
}

bl_status bl_disk_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context)
{
    return d->calls->list(d, path, visit, context);
}

bl_status bl_disk_find(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    return d->calls->find(d, path, entry);
}

bool bl_disk_has(bl_disk *d, const char *path, bl_disk_entry *entry)
{
    bl_sink told = bl_disk_hush(d);
    bl_status status = bl_disk_find(d, path, entry);
    d->setup.sink = told;
    return status == BL_OK;
}

bl_status bl_disk_get(bl_disk *d, const char *path, const bl_writer *writer)
{
    return d->calls->get(d, path, writer);
}

bl_status bl_disk_put(bl_disk *d, const char *path, const bl_disk_file *file, bl_disk_entry *stored)
{
    bl_disk_entry ignored;
    return d->calls->put(d, path, file, stored != NULL ? stored : &ignored);
}

bl_status bl_disk_delete(bl_disk *d, const char *path, bool force)
{
    return d->calls->remove(d, path, force);
}

bl_status bl_disk_rename(bl_disk *d, const char *old_path, const char *new_path)
{
    return d->calls->rename(d, old_path, new_path);
}

bl_status bl_disk_folder(bl_disk *d, const char *path)
{
    if (d->calls->folder == NULL)
        return bl_disk_fail(d, BL_E_UNSUPPORTED, NULL, "a %s disk has no folders",
                            bl_disk_kind_name(d->kind));
    return d->calls->folder(d, path);
}

bl_status bl_disk_check(bl_disk *d, bool repair, bl_disk_report *report)
{
    report->files = report->folders = report->broken = report->remarks = report->mended = 0;
    report->left = 0;
    bl_status status = d->calls->check(d, repair, report);
    return status == BL_OK && report->left > 0 ? BL_E_DAMAGED : status;
}

bl_status bl_disk_map(bl_disk *d, bl_disk_run *run, void *context)
{
    return d->calls->map(d, run, context);
}

bl_status bl_disk_boot_area(bl_disk *d, uint32_t *sectors, uint32_t *kept_from,
                            uint32_t *kept_count)
{
    return d->calls->boot_area(d, sectors, kept_from, kept_count);
}

/* bare_volume.c - a bare disk: made, opened, its directory and its checks. */
#include "bare_volume.h"

void bl_bare_sum(uint8_t check[2], const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        check[0] = (uint8_t)(check[0] + bytes[i]);
        check[1] = (uint8_t)(check[1] + check[0]);
    }
}

/* The check of a directory, as if its own place were 0. */
static void directory_check(const uint8_t directory[BL_BARE_SECTOR], uint8_t check[2])
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
    directory_check(b, b + BARE_CHECK);
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
    directory_check(b->directory, b->directory + BARE_CHECK);
    bl_status status = bl_disk_write_sector(d, 0, b->directory);
    if (status == BL_OK) status = bl_disk_read_sector(d, 0, b->sector);
    if (status == BL_OK && memcmp(b->sector, b->directory, BL_BARE_SECTOR) != 0)
        status = bl_disk_fail(d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                              "the directory was read back, and differs");
    if (status == BL_OK) b->sound = true;
    memcpy(status == BL_OK ? b->stored : b->directory, status == BL_OK ? b->directory : b->stored,
           BL_BARE_SECTOR);
    return status;
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
    .space = bl_bare_space,
    .list = bl_bare_list,
    .find = bl_bare_find,
    .get = bl_bare_get,
    .put = bl_bare_put,
    .remove = bl_bare_remove,
    .rename = bl_bare_rename,
    .check = bl_bare_check,
    .map = bl_bare_map,
    .boot_area = boot_area_of_bare,
};

/* A directory whose check is wrong can be read, and repaired; nothing else is written to it. */
static bl_status read_bare_directory(bl_disk *d)
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
    memcpy(b->stored, b->directory, BL_BARE_SECTOR);
    directory_check(b->directory, check);
    b->sound = memcmp(check, b->directory + BARE_CHECK, 2) == 0;
    return BL_OK;
}

bl_status bl_bare_begin(bl_disk *d)
{
    if (d->sectors.size != BL_BARE_SECTOR) return BL_E_NOT_FOUND;
    d->state = bl_disk_room(d, 1, sizeof(bare));
    if (d->state == NULL) return BL_E_MEMORY;
    bl_status status = read_bare_directory(d);
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

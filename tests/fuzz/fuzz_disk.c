/* fuzz_disk.c - any bytes as a disk: looked at, changed, repaired. Nothing is read or written
 * outside, looking writes nothing, and everything ends. */
#include "fuzz_memory.h"

#include <string.h>

enum { SECTORS = 640, SECTOR = 512 };

static uint8_t image[SECTORS * SECTOR];
static bool looking;

static bl_status read_image(void *context, uint32_t sector, uint8_t *bytes)
{
    (void)context;
    if (sector >= SECTORS) abort();
    memcpy(bytes, image + sector * SECTOR, SECTOR);
    return BL_OK;
}

static bl_status write_image(void *context, uint32_t sector, const uint8_t *bytes)
{
    (void)context;
    if (sector >= SECTORS || looking) abort();
    memcpy(image + sector * SECTOR, bytes, SECTOR);
    return BL_OK;
}

static const bl_sectors medium = {NULL, read_image, write_image, SECTORS, SECTOR};

typedef struct names {
    char name[8][BL_DISK_NAME];
    unsigned count;
} names;

static bl_status keep_name(void *context, const bl_disk_entry *e)
{
    names *n = context;
    if (n->count < 8) memcpy(n->name[n->count++], e->name, sizeof e->name);
    return BL_OK;
}

static bl_status count_bytes(void *context, const void *bytes, size_t count)
{
    (void)bytes;
    *(size_t *)context += count;
    return BL_OK;
}

static bl_status see_run(void *context, uint32_t first, uint32_t count, bl_disk_use use,
                         const char *path)
{
    (void)context, (void)use, (void)path;
    if (count == 0 || first + count > SECTORS) abort();
    return BL_OK;
}

static void look(bl_disk *d)
{
    names n = {.count = 0};
    bl_disk_report r = {.find = NULL};
    bl_disk_space s;
    bl_disk_list(d, "", keep_name, &n);
    for (unsigned i = 0; i < n.count; i++) {
        size_t count = 0;
        bl_writer writer = {&count, count_bytes};
        bl_disk_get(d, n.name[i], &writer);
    }
    bl_disk_space_of(d, &s);
    bl_disk_map(d, see_run, NULL);
    bl_disk_check(d, false, &r);
}

static void change(bl_disk *d)
{
    static const uint8_t bytes[3000];
    bl_disk_file file = {.bytes = bytes, .size = sizeof bytes};
    bl_disk_report r = {.find = NULL};
    bl_disk_put(d, "A", &file, NULL);
    bl_disk_folder(d, "F");
    bl_disk_delete(d, "B", true);
    bl_disk_rename(d, "A", "C");
    if (bl_disk_check(d, true, &r) == BL_OK && bl_disk_check(d, false, &r) != BL_OK) abort();
}

/* The bytes are laid over a disk that is good, or over nothing: 2 of place, 1 of count, and then so
 * many, again and again. */
int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    bl_disk d;
    bl_disk_setup setup = {.live = size % 2 != 0};
    bl_fat_plan plan = {.total = SECTORS};
    const char *why;
    if (size < 1) return 0;
    unsigned kind = data[0] % 3;
    memset(image, kind == 2 ? 0xE5 : 0, sizeof image);
    if (kind == 0 && bl_fat_plan_complete(&plan, &why) == BL_OK) bl_fat_format(&medium, &plan);
    if (kind == 1) bl_bare_format(&medium, "FUZZ", 0);
    for (size_t i = 1; i + 3 < size;) {
        size_t at = (data[i] | (size_t)data[i + 1] << 8) % (40 * SECTOR), count = data[i + 2] % 64u;
        if (count > size - i - 3) count = size - i - 3;
        memcpy(image + at, data + i + 3, count);
        i += 3 + count;
    }
    if (bl_disk_open(&d, &medium, &fuzz_memory, &setup) != BL_OK) return 0;
    looking = true;
    look(&d);
    looking = false;
    change(&d);
    bl_disk_close(&d);
    return 0;
}

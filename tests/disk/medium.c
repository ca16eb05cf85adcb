/* medium.c - a disk in memory. */
#include "medium.h"
#undef medium_same
#undef medium_either

#include <stdlib.h>
#include <string.h>

static bl_status read_medium(void *context, uint32_t sector, uint8_t *bytes)
{
    const medium *m = context;
    CHECK(sector < m->sectors.count); /* nothing that is asked for lies outside */
    if (sector == m->bad) return BL_E_IO;
    if (m->writes > m->cut_after) return BL_E_NOT_READY;
    memcpy(bytes, m->bytes + (size_t)sector * m->sectors.size, m->sectors.size);
    return BL_OK;
}

static bl_status write_medium(void *context, uint32_t sector, const uint8_t *bytes)
{
    medium *m = context;
    uint8_t *to = m->bytes + (size_t)sector * m->sectors.size;
    CHECK(sector < m->sectors.count);
    if (m->protected) return BL_E_PROTECTED;
    if (m->writes >= m->cut_after) {
        if (m->writes == m->cut_after && m->torn) memcpy(to, bytes, m->sectors.size / 2u);
        m->writes = m->cut_after + 1;
        return BL_E_NOT_READY;
    }
    m->writes++;
    memcpy(to, bytes, m->sectors.size);
    if (sector == m->weak) to[7] ^= 0x10;
    return BL_OK;
}

void medium_begin(medium *m, uint32_t count, uint16_t size)
{
    *m = (medium){.cut_after = UINT32_MAX, .bad = UINT32_MAX, .weak = UINT32_MAX};
    m->bytes = malloc((size_t)count * size);
    CHECK(m->bytes != NULL);
    memset(m->bytes, 0xE5, (size_t)count * size);
    m->sectors = (bl_sectors){m, read_medium, write_medium, count, size};
}

void medium_end(medium *m)
{
    free(m->bytes);
}

void medium_open(medium *m, bl_disk *d, bool live)
{
    bl_disk_setup setup = {.sink = test_sink, .live = live, .now = {2026, 11, 29, 21, 30, 0}};
    CHECK_INT(bl_disk_open(d, &m->sectors, &test_memory, &setup), BL_OK);
}

static uint8_t *got;
static size_t got_count, got_room;

static bl_status keep(void *context, const void *bytes, size_t count)
{
    (void)context;
    if (got_count + count > got_room) {
        got_room = (got_count + count) * 2;
        got = realloc(got, got_room);
        CHECK(got != NULL);
    }
    memcpy(got + got_count, bytes, count);
    got_count += count;
    return BL_OK;
}

static void get_all(bl_disk *d, const char *path)
{
    bl_writer writer = {NULL, keep};
    got_count = 0;
    if (got == NULL) got = malloc(1);
    bl_status status = bl_disk_get(d, path, &writer);
    if (status != BL_OK)
        test_fail(__FILE__, __LINE__, "%s cannot be read: %s", path, test_messages());
}

void medium_same(bl_disk *d, const char *path, const void *bytes, size_t count)
{
    get_all(d, path);
    CHECK_BYTES(got, got_count, bytes, count);
}

unsigned medium_either(bl_disk *d, const char *path, const void *first, size_t first_count,
                       const void *second, size_t second_count)
{
    get_all(d, path);
    if (got_count == first_count && memcmp(got, first, first_count) == 0) return 0;
    CHECK_BYTES(got, got_count, second, second_count);
    return 1;
}

bl_status medium_put(bl_disk *d, const char *path, const void *bytes, size_t count)
{
    bl_disk_file file = {.bytes = bytes, .size = (uint32_t)count, .attributes = BL_DISK_ARCHIVE};
    return bl_disk_put(d, path, &file, NULL);
}

static char names[1 << 16];

static bl_status add_name(void *context, const bl_disk_entry *e)
{
    size_t n = strlen(names);
    (void)context;
    if (e->folder)
        bl_format(names + n, sizeof names - n, "%s%s/", n > 0 ? " " : "", e->name);
    else
        bl_format(names + n, sizeof names - n, "%s%s(%lu)", n > 0 ? " " : "", e->name,
                  (unsigned long)e->size);
    return BL_OK;
}

const char *medium_names(bl_disk *d, const char *path)
{
    names[0] = '\0';
    CHECK_INT(bl_disk_list(d, path, add_name, NULL), BL_OK);
    return names;
}

static void tell(void *context, const bl_disk_finding *f)
{
    (void)context;
    bl_report(&test_sink, f->broken ? BL_ERROR : BL_NOTE, NULL, 0, f->hint, "%s%s", f->what,
              f->mended ? " (mended)" : "");
}

bl_status medium_check(bl_disk *d, bool repair, bl_disk_report *report)
{
    report->find = tell;
    return bl_disk_check(d, repair, report);
}

void medium_fill(uint8_t *bytes, size_t count, unsigned number)
{
    uint32_t x = number * 2654435761u + 12345;
    for (size_t i = 0; i < count; i++) {
        x = x * 1664525u + 1013904223u;
        bytes[i] = (uint8_t)(x >> 24);
    }
}

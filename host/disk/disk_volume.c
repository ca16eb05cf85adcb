/* disk_volume.c - which part of an image is the disk, and what is on it. */
#include "disk_volume.h"

#include <stdlib.h>
#include <string.h>

bl_disk_time disk_time_of(gint64 unix_time)
{
    GDateTime *t = g_date_time_new_from_unix_local(unix_time);
    bl_disk_time when = {.year = 1980, .month = 1, .day = 1};
    if (t == NULL) return when;
    int year = g_date_time_get_year(t);
    if (year >= 1980 && year <= 2107)
        when = (bl_disk_time){(uint16_t)year,
                              (uint8_t)g_date_time_get_month(t),
                              (uint8_t)g_date_time_get_day_of_month(t),
                              (uint8_t)g_date_time_get_hour(t),
                              (uint8_t)g_date_time_get_minute(t),
                              (uint8_t)g_date_time_get_second(t)};
    g_date_time_unref(t);
    return when;
}

bl_disk_time disk_time_now(void)
{
    const char *epoch = g_getenv("SOURCE_DATE_EPOCH");
    gint64 now = epoch != NULL ? g_ascii_strtoll(epoch, NULL, 10) : g_get_real_time() / 1000000;
    return disk_time_of(now);
}

const bl_classic *disk_layout_named(const bench *b, const char *name)
{
    const bl_classic *l;
    for (size_t i = 0; b != NULL && i < b->disk.layout_count; i++)
        if (strcmp(b->disk.layouts[i].name, name) == 0) return &b->disk.layouts[i];
    for (size_t i = 0; (l = bl_classic_shipped(i)) != NULL; i++)
        if (strcmp(l->name, name) == 0) return l;
    return NULL;
}

const bl_classic *disk_layout_needed(const bench *b, const char *name, const char *file,
                                     const bl_sink *sink)
{
    const bl_classic *l = disk_layout_named(b, name);
    if (l == NULL)
        bl_report(sink, BL_ERROR, file, 0, "disk create --help lists those that are shipped",
                  "there is no layout '%s'", name);
    return l;
}

/* Reads the table; none is no fault. */
static bl_status read_table(disk_volume *v, const char *title, const bl_sectors *sectors,
                            const bl_sink *sink)
{
    bl_status status = bl_partitions_read(sectors, v->partitions, &v->partition_count);
    if (status == BL_E_NOT_FOUND) v->partition_count = 0;
    if (status == BL_OK || status == BL_E_NOT_FOUND) return BL_OK;
    if (status == BL_E_DAMAGED && v->partition_count > 0) {
        bl_report(sink, BL_WARNING, title, 0, NULL,
                  "its partition table is damaged; %zu partitions before that are good",
                  v->partition_count);
        return BL_OK;
    }
    bl_report(sink, BL_ERROR, title, 0, NULL, "its partition table cannot be used: %s",
              bl_status_text(status));
    return status;
}

static bl_status open_partition(disk_volume *v, const bl_sectors *whole, size_t index,
                                const bl_disk_setup *setup)
{
    const bl_partition *p = &v->partitions[index];
    bl_sectors sectors;
    bl_status status = bl_sectors_cut(&v->part, whole, p->first, p->count, &sectors);
    if (status == BL_OK) status = bl_disk_open(&v->disk, &sectors, &host_memory, setup);
    if (status == BL_OK) v->partition = index;
    return status;
}

/* The first that can be opened, those that say they are FAT before others. When none can, what is
 * wrong with the likeliest is told. */
static bl_status open_some_partition(disk_volume *v, const char *title, const bl_sectors *whole,
                                     const bl_disk_setup *setup)
{
    bl_disk_setup quiet = *setup;
    size_t likeliest = v->partition_count;
    quiet.sink = (bl_sink){.context = NULL};
    if (v->partitions[0].kind == 0xEE) {
        bl_report(&setup->sink, BL_ERROR, title, 0, "tables of a master boot record are",
                  "its partition table is of the GUID kind, and not read");
        return BL_E_UNSUPPORTED;
    }
    for (unsigned turn = 0; turn < 2; turn++)
        for (size_t i = 0; i < v->partition_count; i++) {
            if (bl_partition_is_fat(&v->partitions[i]) != (turn == 0)) continue;
            if (likeliest == v->partition_count) likeliest = i;
            if (open_partition(v, whole, i, &quiet) != BL_OK) continue;
            bl_disk_close(&v->disk); /* once more, for what is to be said of it */
            return open_partition(v, whole, i, setup);
        }
    return open_partition(v, whole, likeliest, setup);
}

/* The layout that was asked for. */
static bl_status take_named_layout(disk_volume *v, const disk_opening *how, bl_disk_setup *setup)
{
    setup->kind = BL_DISK_CLASSIC;
    setup->layouts = disk_layout_needed(how->b, how->layout, NULL, &setup->sink);
    setup->layout_count = 1;
    if (setup->layouts == NULL) return BL_E_NOT_FOUND;
    disk_image_extend(&v->image, bl_classic_bytes(setup->layouts));
    return BL_OK;
}

bl_status disk_volume_of(disk_volume *v, const char *title, const disk_opening *how,
                         const bl_sink *sink)
{
    bl_disk_setup setup = {.title = title, .sink = *sink, .now = how->now};
    bl_status status = BL_OK;
    setup.live = v->image.in_place;
    if (setup.now.year == 0) setup.now = disk_time_now();
    if (how->b != NULL)
        setup.layouts = how->b->disk.layouts, setup.layout_count = how->b->disk.layout_count;
    if (how->layout != NULL) status = take_named_layout(v, how, &setup);
    bl_sectors sectors = v->image.sectors;
    if (how->between != NULL) sectors = *how->between(how->context, &v->image.sectors);
    if (status == BL_OK && how->layout == NULL) status = read_table(v, title, &sectors, sink);
    if (status == BL_OK)
        status = v->partition_count > 0 ? open_some_partition(v, title, &sectors, &setup)
                                        : bl_disk_open(&v->disk, &sectors, &host_memory, &setup);
    if (status != BL_OK) disk_image_close(&v->image);
    return status;
}

bl_status disk_volume_open(const char *path, const disk_opening *how, const bl_sink *sink,
                           disk_volume *v)
{
    *v = (disk_volume){.image = {.fd = -1}};
    bl_status status = disk_image_open(path, 0, how->in_place,
                                       how->changes ? DISK_CHANGES : DISK_READS, sink, &v->image);
    return status == BL_OK ? disk_volume_of(v, v->image.path, how, sink) : status;
}

void disk_volume_close(disk_volume *v)
{
    bl_disk_close(&v->disk);
    disk_image_close(&v->image);
}

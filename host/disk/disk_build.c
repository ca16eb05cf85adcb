/* disk_build.c - what was made goes onto a disk. */
#include "disk_build.h"

#include <string.h>

#include "bootlace/crc.h"
#include "disk_make.h"
#include "disk_program.h"

/* "A/B/NAME": A and A/B are made if they are not there. */
static bl_status make_folders(bl_disk *d, const char *path)
{
    bl_status status = BL_OK;
    bool folders = bl_disk_kind_is_fat(bl_disk_kind_of(d));
    for (const char *slash = path; folders && status == BL_OK;) {
        while (*slash == '/')
            slash++;
        slash = strchr(slash, '/');
        if (slash == NULL) break;
        char *folder = g_strndup(path, (gsize)(slash - path));
        bl_disk_entry e;
        if (!bl_disk_has(d, folder, &e)) status = bl_disk_folder(d, folder);
        g_free(folder);
    }
    return status;
}

bl_status disk_put_content(bl_disk *d, const disk_content *c, bl_disk_entry *stored)
{
    bl_status status = make_folders(d, c->path);
    return status == BL_OK ? bl_disk_put(d, c->path, &c->file, stored) : status;
}

bl_status disk_put_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule,
                        const bl_sink *sink, uint32_t *sectors)
{
    GByteArray *bytes = NULL;
    bl_disk_file file = {.bytes = NULL};
    bl_status status = disk_program(NULL, image, NULL, "the boot program", sink, &bytes, &file);
    if (status != BL_OK) return status;
    uint8_t *given = g_malloc0(bytes->len);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        memset(given + (p.first - bl_image_piece(image, 0).first), 1, p.count);
    }
    bl_boot_program program = {bytes->data, given, bytes->len};
    status = bl_disk_boot(d, &program, rule, sectors);
    g_free(given);
    g_byte_array_unref(bytes);
    return status;
}

/* A serial number that follows from what is on the disk. */
static uint32_t serial_of(const disk_contents *c)
{
    uint32_t crc = 0;
    for (guint i = 0; i < c->files->len; i++) {
        const disk_content *one = g_ptr_array_index(c->files, i);
        crc = bl_crc32(crc, one->path, strlen(one->path));
        crc = bl_crc32(crc, one->bytes->data, one->bytes->len);
    }
    return crc;
}

static bl_status begin_built_image(const bench *b, const disk_contents *c, const bl_sink *sink,
                                   disk_image *image)
{
    const bench_disk *d = &b->disk;
    if (d->from != NULL) {
        char *path = host_path_in(b->folder, d->from);
        bl_status status = disk_image_open(path, 0, false, DISK_READS, sink, image);
        if (status == BL_OK && image->device) {
            bl_report(sink, BL_ERROR, path, 0, NULL, "a template is a file");
            disk_image_close(image);
            status = BL_E_UNSUPPORTED;
        }
        g_free(path);
        return status;
    }
    disk_wish w = {.kind = d->kind,
                   .bytes = d->size,
                   .partition = d->partition,
                   .label = d->label,
                   .serial = serial_of(c),
                   .now = disk_built_time()};
    if (d->layout != NULL) w.layout = disk_layout_needed(b, d->layout, b->path, sink);
    if (d->layout != NULL && w.layout == NULL) return BL_E_NOT_FOUND;
    return disk_make(&w, sink, image);
}

bl_status disk_build(project *p, const disk_contents *c, const bl_sink *sink, disk_image *image)
{
    const bench *b = p->b;
    disk_volume *v = g_new0(disk_volume, 1);
    disk_opening how = {.b = b, .layout = b->disk.layout, .now = disk_built_time()};
    uint32_t sectors;
    bl_status status = begin_built_image(b, c, sink, &v->image);
    if (status == BL_OK) status = disk_volume_of(v, b->disk.image, &how, sink);
    if (status != BL_OK) {
        g_free(v);
        return status;
    }
    for (guint i = 0; i < c->files->len && status == BL_OK; i++)
        status = disk_put_content(&v->disk, g_ptr_array_index(c->files, i), NULL);
    const bl_boot_rule *rule = b->disk.has_rule ? &b->disk.rule : NULL;
    if (status == BL_OK && c->boot != NULL)
        status = disk_put_boot(&v->disk, bl_program_image(c->boot), rule, sink, &sectors);
    bl_disk_report report = {.find = NULL};
    if (status == BL_OK) status = bl_disk_check(&v->disk, false, &report);
    if (status == BL_E_DAMAGED)
        bl_report(sink, BL_ERROR, b->disk.from != NULL ? b->disk.from : b->path, 0,
                  "disk check says more", "the disk is not whole");
    bl_disk_close(&v->disk);
    *image = v->image;
    image->sectors.context = image;
    if (status != BL_OK) disk_image_close(image);
    g_free(v);
    return status;
}

/* Results of a build are in memory until all of them are there. */
enum { BUILT_MOST = 256 << 20 };

static bl_status read_built_image(disk_image *image, const char *name, const bl_sink *sink,
                                  GByteArray **bytes)
{
    uint16_t size = image->sectors.size;
    if (image->bytes > BUILT_MOST) {
        bl_report(sink, BL_ERROR, name, 0, "make a larger one with disk create and disk put",
                  "a disk that is built has at most 256 MiB");
        return BL_E_RANGE;
    }
    *bytes = g_byte_array_sized_new((guint)image->bytes);
    g_byte_array_set_size(*bytes, (guint)image->bytes);
    bl_status status = BL_OK;
    for (uint32_t i = 0; i < image->sectors.count && status == BL_OK; i++)
        status = image->sectors.read(image->sectors.context, i, (*bytes)->data + (size_t)i * size);
    if (status != BL_OK) g_byte_array_unref(*bytes);
    return status;
}

bl_status disk_add_to_project(project *p, const project_extras *extras, const bl_sink *sink,
                              guint *files)
{
    disk_contents c = {.files = NULL};
    disk_image image = {.fd = -1};
    GByteArray *bytes = NULL;
    *files = 0;
    if (p->b->disk.image == NULL) return BL_OK;
    bl_status status = disk_contents_make(p, extras, sink, &c);
    if (status == BL_OK) status = disk_build(p, &c, sink, &image);
    if (status == BL_OK) {
        status = read_built_image(&image, p->b->disk.image, sink, &bytes);
        disk_image_close(&image);
    }
    if (status == BL_OK) project_add_result(p, p->b->disk.image, bytes), *files = c.files->len;
    disk_contents_end(&c);
    return status;
}

/* disk_build.c - from sources to a disk. */
#include "disk_build.h"

#include <stdlib.h>
#include <string.h>

#include "bootlace/crc.h"
#include "disk_make.h"
#include "disk_program.h"
#include "disk_text.h"

/* ---- contents ---- */

static void free_content(void *data)
{
    disk_content *c = data;
    g_free(c->path);
    if (c->bytes != NULL) g_byte_array_unref(c->bytes);
    g_free(c);
}

void disk_contents_end(disk_contents *c)
{
    if (c->files != NULL) g_ptr_array_unref(c->files);
    bl_program_close(c->boot);
    *c = (disk_contents){.files = NULL};
}

/* What is made of a source is needed by texts, too. */
typedef struct made {
    char *stem;
    bl_program *program; /* or NULL */
    bl_disk_file file;
    uint32_t length; /* without a wrapper */
} made;

static void free_made(void *data)
{
    made *m = data;
    g_free(m->stem);
    bl_program_close(m->program);
    g_free(m);
}

static bl_disk_time built_time(void)
{
    const bl_disk_time first = {.year = 1980, .month = 1, .day = 1};
    return g_getenv("SOURCE_DATE_EPOCH") != NULL ? disk_time_now() : first;
}

/* "lamp.asm" is lamp.bin on the disk, unless 'to' says otherwise; a bare disk has names without
 * endings. */
static char *path_on_disk(const bench *b, const bench_disk_file *f)
{
    const char *from = f->source != NULL ? f->source : f->file;
    char *name;
    if (f->to != NULL)
        name = g_strdup(f->to);
    else if (f->source != NULL && b->disk.kind == BL_DISK_BARE)
        name = host_stem(from);
    else if (f->source != NULL) {
        char *stem = host_stem(from);
        name = g_strconcat(stem, ".bin", NULL);
        g_free(stem);
    } else
        name = g_path_get_basename(from);
    if (f->user == 0) return name;
    char *path = g_strdup_printf("%u:%s", f->user, name);
    g_free(name);
    return path;
}

/* A raw binary belongs where 'at' says; records say it themselves. */
static bl_status read_program(const bench *b, const bench_disk_file *f, const char *path,
                              bl_text text, bl_filetype type, const bl_sink *sink, bl_image **image)
{
    uint32_t at = 0;
    bool records = type == BL_FILE_HEX || type == BL_FILE_SREC;
    if (records && f->at != NULL) {
        bl_report(sink, BL_ERROR, b->path, f->line, "leave 'at' out",
                  "%s says itself where its bytes belong", f->file);
        return BL_E_SYNTAX;
    }
    if (f->at != NULL &&
        bl_number_parse((bl_text){f->at, strlen(f->at)}, UINT32_MAX, &at) != BL_OK) {
        bl_report(sink, BL_ERROR, b->path, f->line, "at: 0x8000", "'%s' is no address", f->at);
        return BL_E_SYNTAX;
    }
    bl_status status = bl_image_open(&host_memory, image);
    return status != BL_OK ? status
                           : bl_imagefile_read(records ? type : BL_FILE_BIN, path, text.at,
                                               text.length, at, *image, sink);
}

/* Bytes as they are, with a wrapper that needs no addresses perhaps. */
static bl_status wrap_plain(const bl_wrap *wrap, bl_text text, const made *m, disk_content *c,
                            const bl_sink *sink)
{
    bl_wrapped w = {.bytes = (const uint8_t *)text.at, .size = (uint32_t)text.length};
    c->bytes = g_byte_array_new();
    g_strlcpy(w.name, m->stem, sizeof w.name);
    if (wrap != NULL) return disk_wrap_bytes(wrap, &w, sink, c->bytes);
    g_byte_array_append(c->bytes, w.bytes, w.size);
    return BL_OK;
}

/* A file goes as it is. One that says where it belongs, or of which the bench file says so, is a
 * program where addresses count: with a wrapper, and on a bare disk. */
static bl_status make_from_file(const bench *b, const bench_disk_file *f, disk_content *c, made *m,
                                const bl_sink *sink)
{
    char *path = host_path_in(b->folder, f->file), *bytes = NULL;
    size_t length = 0;
    bl_image *image = NULL;
    bl_status status = host_read_file(path, &bytes, &length, sink);
    bl_text text = {bytes, length};
    bl_filetype type = bl_filetype_of((bl_text){path, strlen(path)});
    bool records = type == BL_FILE_HEX || type == BL_FILE_SREC;
    bool counts = f->wrap != NULL || b->disk.kind == BL_DISK_BARE;
    const bl_wrap *wrap = f->wrap != NULL ? disk_wrap_named(b, f->wrap) : NULL;
    if (status == BL_OK && (f->at != NULL || (records && counts))) {
        status = read_program(b, f, path, text, type, sink, &image);
        if (status == BL_OK)
            status = disk_program(b, image, wrap, m->stem, sink, &c->bytes, &c->file);
        if (image != NULL) m->length = (uint32_t)bl_image_size(image);
    } else if (status == BL_OK) {
        status = wrap_plain(wrap, text, m, c, sink);
        m->length = (uint32_t)length;
    }
    bl_image_close(image);
    g_free(bytes);
    g_free(path);
    return status;
}

static bl_status make_from_source(project *p, const bench_disk_file *f,
                                  const project_extras *extras, disk_content *c, made *m,
                                  const bl_sink *sink)
{
    char *path = host_path_in(p->b->folder, f->source);
    bl_status status = project_assemble(p, path, extras, sink, &m->program);
    if (status == BL_OK) {
        const bl_image *image = bl_program_image(m->program);
        const bl_wrap *wrap = f->wrap != NULL ? disk_wrap_named(p->b, f->wrap) : NULL;
        status = disk_program(p->b, image, wrap, m->stem, sink, &c->bytes, &c->file);
        if (status == BL_OK)
            m->length = c->bytes->len -
                        (wrap != NULL ? bl_wrap_head_bytes(wrap) + bl_wrap_foot_bytes(wrap) : 0);
    }
    g_free(path);
    return status;
}

/* 'of' names a program of the list; without it the first is meant. */
static bl_status make_from_text(const bench *b, const bench_disk_file *f, const GPtrArray *all,
                                disk_content *c, const bl_sink *sink)
{
    const made *m = NULL;
    for (guint i = 0; i < all->len && m == NULL; i++) {
        const made *one = g_ptr_array_index(all, i);
        if (f->of != NULL ? strcmp(one->stem, f->of) == 0 : one->program != NULL) m = one;
    }
    if (f->of != NULL && m == NULL) {
        bl_report(sink, BL_ERROR, b->path, f->line, "files that stand before the text are known",
                  "there is no program '%s' on this disk", f->of);
        return BL_E_NOT_FOUND;
    }
    disk_text_source source = {.name = m != NULL ? m->stem : "",
                               .file = m != NULL ? &m->file : NULL,
                               .length = m != NULL ? m->length : 0,
                               .program = m != NULL ? m->program : NULL};
    c->bytes = g_byte_array_new();
    for (size_t i = 0; i < f->line_count; i++) {
        char *text = disk_text(f->lines[i], &source, b->path, f->line, sink);
        if (text == NULL) return BL_E_SYNTAX;
        g_byte_array_append(c->bytes, (const guint8 *)text, (guint)strlen(text));
        g_byte_array_append(c->bytes, (const guint8 *)f->newline, (guint)strlen(f->newline));
        g_free(text);
    }
    return BL_OK;
}

static bl_status add_content(project *p, const bench_disk_file *f, const project_extras *extras,
                             GPtrArray *all, disk_contents *contents, const bl_sink *sink)
{
    const bench *b = p->b;
    disk_content *c = g_new0(disk_content, 1);
    made *m = g_new0(made, 1);
    bl_status status;
    c->path = path_on_disk(b, f);
    g_ptr_array_add(contents->files, c);
    g_ptr_array_add(all, m);
    m->stem = host_stem(f->source != NULL ? f->source : f->file != NULL ? f->file : f->to);
    if (f->source != NULL)
        status = make_from_source(p, f, extras, c, m, sink);
    else if (f->file != NULL)
        status = make_from_file(b, f, c, m, sink);
    else
        status = make_from_text(b, f, all, c, sink);
    if (status != BL_OK) return status;
    c->file.bytes = c->bytes->data, c->file.size = c->bytes->len;
    c->file.attributes = BL_DISK_ARCHIVE;
    c->file.changed = built_time();
    c->file.starts = f->starts;
    m->file = c->file;
    return BL_OK;
}

/* Two that would be one file: the second would silently replace the first. */
static bl_status check_paths(const bench *b, const disk_contents *c, const bl_sink *sink)
{
    for (guint i = 0; i < c->files->len; i++)
        for (guint k = 0; k < i; k++) {
            const disk_content *one = g_ptr_array_index(c->files, i),
                               *other = g_ptr_array_index(c->files, k);
            if (g_ascii_strcasecmp(one->path, other->path) != 0) continue;
            bl_report(sink, BL_ERROR, b->path, b->disk.files[i].line, "give one of them a 'to'",
                      "two files would be %s on the disk", one->path);
            return BL_E_OVERLAP;
        }
    return BL_OK;
}

bl_status disk_contents_make(project *p, const project_extras *extras, const bl_sink *sink,
                             disk_contents *c)
{
    const bench *b = p->b;
    GPtrArray *all = g_ptr_array_new_with_free_func(free_made);
    bl_status status = BL_OK;
    *c = (disk_contents){.files = g_ptr_array_new_with_free_func(free_content)};
    for (size_t i = 0; i < b->disk.file_count && status == BL_OK; i++)
        status = add_content(p, &b->disk.files[i], extras, all, c, sink);
    if (status == BL_OK) status = check_paths(b, c, sink);
    if (status == BL_OK && b->disk.boot != NULL) {
        char *path = host_path_in(b->folder, b->disk.boot);
        status = project_assemble(p, path, extras, sink, &c->boot);
        g_free(path);
    }
    g_ptr_array_unref(all);
    return status;
}

/* ---- onto a disk ---- */

/* "A/B/NAME": A and A/B are made if they are not there. */
static bl_status make_folders(bl_disk *d, const char *path)
{
    bl_status status = BL_OK;
    bl_disk_kind kind = bl_disk_kind_of(d);
    bool folders = kind == BL_DISK_FAT12 || kind == BL_DISK_FAT16;
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

static bl_status begin_image(const bench *b, const disk_contents *c, const bl_sink *sink,
                             disk_image *image)
{
    const bench_disk *d = &b->disk;
    if (d->from != NULL) {
        char *path = host_path_in(b->folder, d->from);
        bl_status status = disk_image_open(path, 0, false, sink, image);
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
                   .now = built_time()};
    if (d->layout != NULL) w.layout = disk_layout_named(b, d->layout);
    if (d->layout != NULL && w.layout == NULL) {
        bl_report(sink, BL_ERROR, b->path, 0, "disk create --help lists those that are shipped",
                  "there is no layout '%s'", d->layout);
        return BL_E_NOT_FOUND;
    }
    return disk_make(&w, sink, image);
}

bl_status disk_build(project *p, const disk_contents *c, const bl_sink *sink, disk_image *image)
{
    const bench *b = p->b;
    disk_volume *v = g_new0(disk_volume, 1);
    disk_opening how = {.b = b, .layout = b->disk.layout, .now = built_time()};
    uint32_t sectors;
    bl_status status = begin_image(b, c, sink, &v->image);
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

static bl_status take_image(disk_image *image, const char *name, const bl_sink *sink,
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
        status = take_image(&image, p->b->disk.image, sink, &bytes);
        disk_image_close(&image);
    }
    if (status == BL_OK) project_add_result(p, p->b->disk.image, bytes), *files = c.files->len;
    disk_contents_end(&c);
    return status;
}

/* ---- the same? ---- */

static bl_status collect(void *context, const void *bytes, size_t count)
{
    g_byte_array_append(context, bytes, (guint)count);
    return BL_OK;
}

disk_sameness disk_compare(bl_disk *d, const disk_content *c, uint32_t *where)
{
    GByteArray *back = g_byte_array_new();
    bl_writer writer = {back, collect};
    bl_disk_entry e;
    disk_sameness same = DISK_MISSING;
    *where = 0;
    if (bl_disk_has(d, c->path, &e)) {
        bool read = bl_disk_get(d, c->path, &writer) == BL_OK;
        guint i = 0, size = c->bytes->len;
        while (i < size && i < back->len && back->data[i] == c->bytes->data[i])
            i++;
        bool length = back->len == size || (e.rounded && (size + 127) / 128 * 128 == back->len);
        bool program = !c->file.has_load || !e.has_load ||
                       (e.load == c->file.load && e.entry == c->file.entry);
        program = program && (!c->file.starts || e.starts);
        same = read && i == size && length && program ? DISK_SAME : DISK_DIFFERS;
        *where = i;
    }
    g_byte_array_unref(back);
    return same;
}

/* Bytes that the program gives, but for those that the machine's marks and sum decide. */
uint32_t disk_compare_boot(bl_disk *d, const bl_image *image, const bl_boot_rule *rule)
{
    uint32_t sectors, from, count, unit = d->sectors.size, worst = UINT32_MAX;
    if (bl_disk_boot_area(d, &sectors, &from, &count) != BL_OK) return 0;
    uint8_t *bytes = g_malloc0((size_t)sectors * unit);
    for (uint32_t i = 0; i < sectors; i++)
        if (d->sectors.read(d->sectors.context, i, bytes + (size_t)i * unit) != BL_OK)
            worst = i * unit;
    uint32_t base = bl_image_piece(image, 0).first;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        for (size_t k = 0; k < p.count; k++) {
            uint32_t at = p.first - base + (uint32_t)k;
            bool decided = at >= from && at - from < count;
            for (size_t m = 0; rule != NULL && m < rule->mark_count; m++)
                decided = decided || rule->mark[m].at == at;
            if (rule != NULL && rule->sum != BL_BOOT_NO_SUM && at - rule->sum_at < 2)
                decided = true;
            bool same = at < sectors * unit && bytes[at] == p.bytes[k];
            if (!decided && !same && at < worst) worst = at;
        }
    }
    g_free(bytes);
    return worst;
}

/* disk_contents.c - the files of a disk that is built, from sources, files and texts. */
#include "disk_contents.h"

#include <stdlib.h>
#include <string.h>

#include "disk_program.h"
#include "disk_text.h"
#include "disk_volume.h"

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

bl_disk_time disk_built_time(void)
{
    const bl_disk_time first = {.year = 1980, .month = 1, .day = 1};
    return g_getenv("SOURCE_DATE_EPOCH") != NULL ? disk_time_now() : first;
}

/* "lamp.asm" is lamp.bin on the disk, unless 'to' says otherwise. */
static char *path_on_disk(const bench *b, const bench_disk_file *f)
{
    char *name = f->to != NULL       ? g_strdup(f->to)
                 : f->source != NULL ? disk_program_name(b->disk.kind, f->source)
                                     : g_path_get_basename(f->file);
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
    bool records = bl_filetype_is_records(type);
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
    bool records = bl_filetype_is_records(type);
    bool counts = f->wrap != NULL || b->disk.kind == BL_DISK_BARE;
    const bl_wrap *wrap = f->wrap != NULL ? disk_wrap_named(b, f->wrap) : NULL;
    if (status == BL_OK && (f->at != NULL || (records && counts))) {
        status = read_program(b, f, path, text, type, sink, &image);
        if (status == BL_OK)
            status = disk_program(b, image, wrap, m->stem, sink, &c->bytes, &c->file);
        if (image != NULL) m->length = (uint32_t)bl_image_size(image);
    } else if (status == BL_OK) {
        status = disk_plain(wrap, m->stem, text, sink, &c->bytes);
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
    c->file.changed = disk_built_time();
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

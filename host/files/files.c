/* files.c - memory, files, sources. */
#include "files.h"

#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "embedded.h"
#include "replace.h"

static void *resize_block(void *context, void *block, size_t size)
{
    (void)context;
    if (size == 0) {
        free(block);
        return NULL;
    }
    return realloc(block, size);
}

const bl_memory host_memory = {NULL, resize_block};

static bl_status collect_output(void *context, const void *bytes, size_t count)
{
    host_output *o = context;
    if (o->status != BL_OK || count == 0) return o->status;
    if (count > o->capacity - o->count) {
        size_t capacity = o->capacity < 4096 ? 4096 : o->capacity;
        while (capacity - o->count < count && capacity <= SIZE_MAX / 2)
            capacity *= 2;
        char *more = capacity - o->count < count ? NULL : realloc(o->bytes, capacity);
        if (more == NULL) return o->status = BL_E_MEMORY;
        o->bytes = more;
        o->capacity = capacity;
    }
    memcpy(o->bytes + o->count, bytes, count);
    o->count += count;
    return BL_OK;
}

/* ---- what was read ---- */

/* Paths of files that were read: what is written must be none of them. */
static GPtrArray *inputs;

void host_note_read(const char *path)
{
    if (inputs == NULL) inputs = g_ptr_array_new_with_free_func(g_free);
    for (guint i = 0; i < inputs->len; i++)
        if (strcmp(g_ptr_array_index(inputs, i), path) == 0) return;
    g_ptr_array_add(inputs, g_strdup(path));
}

void host_forget_read(void)
{
    if (inputs != NULL) g_ptr_array_set_size(inputs, 0);
}

bool host_was_read(const char *path)
{
    for (guint i = 0; inputs != NULL && i < inputs->len; i++)
        if (replace_same(g_ptr_array_index(inputs, i), path)) return true;
    return false;
}

static bl_status read_stream(FILE *in, char **text, size_t *length)
{
    host_output all = {0};
    char block[16384];
    size_t n;
    while ((n = fread(block, 1, sizeof block, in)) > 0)
        collect_output(&all, block, n);
    bl_status status = ferror(in) ? BL_E_IO : all.status;
    collect_output(&all, "", 1); /* terminated, as files are */
    if (status == BL_OK) status = all.status;
    if (status != BL_OK) {
        host_output_drop(&all);
        return status;
    }
    *length = all.count - 1;
    *text = all.bytes;
    return BL_OK;
}

char *host_stem(const char *path)
{
    char *base = g_path_get_basename(path), *dot = strrchr(base, '.');
    if (dot != NULL && dot != base) *dot = '\0';
    return base;
}

char *host_path_in(const char *folder, const char *name)
{
    if (g_path_is_absolute(name) || strcmp(folder, ".") == 0) return g_strdup(name);
    return g_build_filename(folder, name, NULL);
}

/* "-" is standard input. What was read is remembered, so that no output goes over it. */
bl_status host_read_file(const char *path, char **text, size_t *length, const bl_sink *sink)
{
    GError *error = NULL;
    gsize n = 0;
    if (strcmp(path, "-") == 0) {
        bl_status status = read_stream(stdin, text, length);
        if (status != BL_OK)
            bl_report(sink, BL_ERROR, NULL, 0, NULL, "cannot read standard input: %s",
                      bl_status_text(status));
        return status;
    }
    if (g_file_get_contents(path, text, &n, &error)) {
        host_note_read(path);
        *length = n;
        return BL_OK;
    }
    bool missing = error->code == G_FILE_ERROR_NOENT;
    const char *why = missing                             ? "no such file"
                      : error->code == G_FILE_ERROR_ISDIR ? "it is a folder"
                      : error->code == G_FILE_ERROR_ACCES ? "not allowed to read it"
                                                          : error->message;
    bl_report(sink, BL_ERROR, path, 0, NULL, "cannot read: %s", why);
    g_error_free(error);
    return missing ? BL_E_NOT_FOUND : BL_E_IO;
}

void host_output_begin(host_output *o, bl_writer *writer)
{
    *o = (host_output){0};
    *writer = (bl_writer){o, collect_output};
}

bl_text host_output_text(const host_output *o)
{
    return (bl_text){o->bytes != NULL ? o->bytes : "", o->count};
}

void host_output_drop(host_output *o)
{
    free(o->bytes);
    *o = (host_output){0};
}

/* A file that was read is never replaced by what was made of it. */
bl_status host_output_end(host_output *o, const char *path, const bl_sink *sink)
{
    bl_status status = o->status;
    bl_text all = host_output_text(o);
    bool console = strcmp(path, "-") == 0;
    if (status != BL_OK)
        bl_report(sink, BL_ERROR, console ? NULL : path, 0, NULL, "cannot write: %s",
                  bl_status_text(status));
    else if (console) {
        if (fwrite(all.at, 1, all.length, stdout) != all.length || fflush(stdout) != 0)
            status = BL_E_IO;
        if (status != BL_OK)
            bl_report(sink, BL_ERROR, NULL, 0, NULL, "cannot write to standard output: %s",
                      g_strerror(errno));
        if (status != BL_OK) clearerr(stdout); /* told */
    } else if (host_was_read(path)) {
        status = BL_E_ARGUMENT;
        bl_report(sink, BL_ERROR, path, 0, "give the output another name",
                  "this file was read; it would be replaced by what was made of it");
    } else {
        status = replace_one(path, all.at, all.length, sink);
    }
    host_output_drop(o);
    return status;
}

/* "<65c02/eyelet>" */
static bool find_firmware(bl_text name, bl_text *text)
{
    if (name.length < 3 || name.at[0] != '<' || name.at[name.length - 1] != '>') return false;
    for (size_t i = 0; i < host_firmware_count; i++) {
        const host_shipped *f = &host_firmware[i];
        if (strlen(f->name) != name.length - 2 ||
            memcmp(f->name, name.at + 1, name.length - 2) != 0)
            continue;
        *text = (bl_text){(const char *)f->bytes, f->size};
        return true;
    }
    return false;
}

void host_sources_offer(host_sources *s, const char *path, const char *text, size_t length)
{
    if (s->offered == NULL)
        s->offered =
            g_hash_table_new_full(g_str_hash, g_str_equal, g_free, (GDestroyNotify)g_bytes_unref);
    g_hash_table_insert(s->offered, g_canonicalize_filename(path, NULL), g_bytes_new(text, length));
}

void host_sources_clear(host_sources *s)
{
    if (s->offered != NULL) g_hash_table_destroy(s->offered);
    s->offered = NULL;
}

/* A file that was offered, as text to be freed; NULL when none was. */
static char *take_offered(const host_sources *s, const char *path, size_t *length)
{
    if (s->offered == NULL) return NULL;
    char *whole = g_canonicalize_filename(path, NULL);
    GBytes *bytes = g_hash_table_lookup(s->offered, whole);
    g_free(whole);
    if (bytes == NULL) return NULL;
    *length = g_bytes_get_size(bytes);
    return g_strndup(g_bytes_get_data(bytes, NULL), *length);
}

static char *locate(const host_sources *s, const char *name, const char *from)
{
    /* What comes with us, or is made of it: in no folder. */
    if (from != NULL && !g_path_is_absolute(name) && *name != '<') {
        char *folder = g_path_get_dirname(from);
        char *path = host_path_in(folder, name);
        g_free(folder);
        if (g_file_test(path, G_FILE_TEST_EXISTS)) return path;
        for (char **f = s->folders; f != NULL && *f != NULL; f++) {
            char *other = g_build_filename(*f, name, NULL);
            if (g_file_test(other, G_FILE_TEST_EXISTS)) {
                g_free(path);
                return other;
            }
            g_free(other);
        }
        return path;
    }
    return g_strdup(name);
}

typedef struct opened {
    char *path;
    char *text;
} opened;

/* Who watches wants to know what was read. */
static void note_seen(const host_sources *s, const char *path)
{
    if (s->seen == NULL) return;
    GPtrArray *seen = s->seen;
    for (guint i = 0; i < seen->len; i++)
        if (strcmp(g_ptr_array_index(seen, i), path) == 0) return;
    g_ptr_array_add(seen, g_strdup(path));
}

/* Firmware goes before files; what was just built may be read before it is a file. */
static bl_status open_source(void *context, bl_text name, const char *from, bl_text *text,
                             bl_text *found, void **handle)
{
    *handle = NULL;
    if (find_firmware(name, text)) {
        *found = name;
        return BL_OK;
    }
    enum { MAX_SOURCE = 64 << 20 };
    opened *o = g_new0(opened, 1);
    char *written = g_strndup(name.at, name.length);
    o->path = locate(context, written, from);
    g_free(written);
    size_t length = 0;
    GStatBuf info;
    if (strcmp(o->path, "-") != 0 && g_stat(o->path, &info) == 0 && info.st_size > MAX_SOURCE) {
        g_free(o->path);
        g_free(o);
        return BL_E_RANGE; /* nobody types 64 MiB */
    }
    o->text = take_offered(context, o->path, &length);
    if (o->text == NULL) note_seen(context, o->path); /* what was just built is no file yet */
    bl_status status = o->text != NULL ? BL_OK : host_read_file(o->path, &o->text, &length, NULL);
    if (status != BL_OK) {
        g_free(o->path);
        g_free(o);
        return status;
    }
    *text = (bl_text){o->text, length};
    *found = (bl_text){o->path, strlen(o->path)};
    *handle = o;
    return BL_OK;
}

static void release_source(void *context, void *handle)
{
    opened *o = handle;
    (void)context;
    if (o == NULL) return;
    g_free(o->path);
    g_free(o->text);
    g_free(o);
}

bl_source_provider host_source_provider(host_sources *s)
{
    return (bl_source_provider){s, open_source, release_source};
}

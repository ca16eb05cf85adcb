/* files.c - memory, files, sources. */
#include "files.h"

#include <errno.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdlib.h>
#include <string.h>

#include "isa/shipped.h"

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size == 0) {
        free(block);
        return NULL;
    }
    return realloc(block, size);
}

const bl_memory host_memory = {NULL, resize};

static bl_status read_stream(FILE *in, char **text, size_t *length)
{
    GByteArray *all = g_byte_array_new();
    guint8 block[16384];
    size_t n;
    while ((n = fread(block, 1, sizeof block, in)) > 0)
        g_byte_array_append(all, block, (guint)n);
    *length = all->len;
    *text = (char *)g_byte_array_free(all, FALSE);
    return ferror(in) ? BL_E_IO : BL_OK;
}

char *host_path_in(const char *folder, const char *name)
{
    if (g_path_is_absolute(name) || strcmp(folder, ".") == 0) return g_strdup(name);
    return g_build_filename(folder, name, NULL);
}

bl_status host_read_file(const char *path, char **text, size_t *length, const bl_sink *sink)
{
    GError *error = NULL;
    gsize n = 0;
    if (strcmp(path, "-") == 0) return read_stream(stdin, text, length);
    if (g_file_get_contents(path, text, &n, &error)) {
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

static bl_status collect(void *context, const void *bytes, size_t count)
{
    g_byte_array_append(context, bytes, (guint)count);
    return BL_OK;
}

void host_output_begin(host_output *o, bl_writer *writer)
{
    o->bytes = g_byte_array_sized_new(1 << 16);
    *writer = (bl_writer){o->bytes, collect};
}

bl_text host_output_text(const host_output *o)
{
    const GByteArray *bytes = o->bytes;
    return (bl_text){(const char *)bytes->data, bytes->len};
}

void host_output_drop(host_output *o)
{
    if (o->bytes != NULL) g_byte_array_free(o->bytes, TRUE);
    o->bytes = NULL;
}

bl_status host_output_end(host_output *o, const char *path, const bl_sink *sink)
{
    GByteArray *all = o->bytes;
    bl_status status = BL_OK;
    GError *error = NULL;
    if (strcmp(path, "-") == 0) {
        if (fwrite(all->data, 1, all->len, stdout) != all->len || fflush(stdout) != 0)
            status = BL_E_IO;
        if (status != BL_OK)
            bl_report(sink, BL_ERROR, NULL, 0, NULL, "cannot write to standard output");
    } else if (!g_file_test(path, G_FILE_TEST_EXISTS) ||
               g_file_test(path, G_FILE_TEST_IS_REGULAR)) {
        if (!g_file_set_contents(path, (const char *)all->data, (gssize)all->len, &error))
            status = BL_E_IO;
    } else {
        FILE *out = fopen(path, "wb"); /* a device: there is nothing to replace */
        bool good = out != NULL && fwrite(all->data, 1, all->len, out) == all->len;
        if (out != NULL && fclose(out) != 0) good = false;
        if (!good) {
            status = BL_E_IO;
            g_set_error(&error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", g_strerror(errno));
        }
    }
    if (error != NULL) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "cannot write: %s", error->message);
        g_error_free(error);
    }
    host_output_drop(o);
    return status;
}

/* "<65c02/eyelet>" */
static bool find_firmware(bl_text name, bl_text *text)
{
    if (name.length < 3 || name.at[0] != '<' || name.at[name.length - 1] != '>') return false;
    for (size_t i = 0; i < bl_shipped_firmware_count; i++) {
        const bl_shipped *f = &bl_shipped_firmware[i];
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
    if (from != NULL && !g_path_is_absolute(name)) {
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

static bl_status open_source(void *context, bl_text name, const char *from, bl_text *text,
                             bl_text *found, void **handle)
{
    *handle = NULL;
    if (find_firmware(name, text)) {
        *found = name;
        return BL_OK;
    }
    enum { MOST_SOURCE = 64 << 20 };
    opened *o = g_new0(opened, 1);
    char *written = g_strndup(name.at, name.length);
    o->path = locate(context, written, from);
    g_free(written);
    size_t length = 0;
    GStatBuf info;
    if (strcmp(o->path, "-") != 0 && g_stat(o->path, &info) == 0 && info.st_size > MOST_SOURCE) {
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

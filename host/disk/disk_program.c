/* disk_program.c - from an image with addresses to the bytes of a file. */
#include "disk_program.h"

#include <string.h>

#include "files/files.h"

enum { GAPS_ARE_FINE = 65536, MOST = 16 << 20 };

const bl_wrap *disk_wrap_named(const bench *b, const char *name)
{
    for (size_t i = 0; b != NULL && i < b->disk.wrap_count; i++)
        if (strcmp(b->disk.wraps[i].name, name) == 0) return &b->disk.wraps[i];
    return NULL;
}

/* Adds a program with a wrapper around it. */
static bl_status wrap_bytes(const bl_wrap *wrap, const bl_wrapped *program, const bl_sink *sink,
                            GByteArray *bytes)
{
    uint8_t head[BL_WRAP_MOST], foot[BL_WRAP_MOST];
    bl_status status = bl_wrap_make(wrap, program, sink, head, foot);
    if (status != BL_OK) return status;
    g_byte_array_append(bytes, head, bl_wrap_head_bytes(wrap));
    g_byte_array_append(bytes, program->bytes, program->size);
    g_byte_array_append(bytes, foot, bl_wrap_foot_bytes(wrap));
    return BL_OK;
}

bl_status disk_plain(const bl_wrap *wrap, const char *name, bl_text text, const bl_sink *sink,
                     GByteArray **bytes)
{
    bl_wrapped w = {.bytes = (const uint8_t *)text.at, .size = (uint32_t)text.length};
    *bytes = g_byte_array_new();
    g_strlcpy(w.name, name, sizeof w.name);
    if (wrap != NULL) return wrap_bytes(wrap, &w, sink, *bytes);
    g_byte_array_append(*bytes, w.bytes, w.size);
    return BL_OK;
}

char *disk_program_name(bl_disk_kind kind, const char *path)
{
    char *stem = host_stem(path);
    if (kind == BL_DISK_BARE) return stem;
    char *name = g_strconcat(stem, ".bin", NULL);
    g_free(stem);
    return name;
}

/* From the first byte to the last. */
static bl_status image_span(const bl_image *image, const char *name, const bl_sink *sink,
                            bl_range *span)
{
    size_t pieces = bl_image_pieces(image);
    if (pieces == 0) {
        bl_report(sink, BL_ERROR, name, 0, NULL, "there are no bytes in it");
        return BL_E_RANGE;
    }
    bl_piece first = bl_image_piece(image, 0), last = bl_image_piece(image, pieces - 1);
    *span = (bl_range){first.first, (uint64_t)last.first + last.count - first.first};
    if (span->count <= GAPS_ARE_FINE ||
        (span->count <= MOST && span->count / 4 <= bl_image_size(image)))
        return BL_OK;
    bl_report(sink, BL_ERROR, name, 0, "put its parts into files of their own: image cut",
              "it reaches over %llu bytes, and has %llu of them", (unsigned long long)span->count,
              (unsigned long long)bl_image_size(image));
    return BL_E_RANGE;
}

bl_status disk_program(const bench *b, const bl_image *image, const bl_wrap *wrap, const char *name,
                       const bl_sink *sink, GByteArray **bytes, bl_disk_file *file)
{
    uint32_t wide = b != NULL ? bl_sheet_unit_bytes(b->sheet) : 1;
    bl_range span;
    bl_status status = image_span(image, name, sink, &span);
    if (status != BL_OK) return status;
    GByteArray *plain = g_byte_array_new();
    g_byte_array_set_size(plain, (guint)span.count);
    bl_image_copy(image, (uint32_t)span.first, (size_t)span.count, 0, plain->data);
    file->has_load = true, file->load = (uint32_t)span.first / wide;
    file->has_entry = bl_image_entry(image, &file->entry);
    *bytes = plain;
    if (wrap != NULL) {
        bl_wrapped w = {.bytes = plain->data,
                        .size = plain->len,
                        .has_load = true,
                        .load = file->load,
                        .has_entry = file->has_entry,
                        .entry = file->entry};
        g_strlcpy(w.name, name, sizeof w.name);
        *bytes = g_byte_array_new();
        status = wrap_bytes(wrap, &w, sink, *bytes);
        g_byte_array_unref(plain);
    }
    file->bytes = (*bytes)->data, file->size = (*bytes)->len;
    if (status != BL_OK) g_byte_array_unref(*bytes);
    return status;
}

/* imagefile.c - which format, and raw binary. */
#include "bootlace/imagefile.h"

#include "records.h"

bl_filetype bl_filetype_named(bl_text name)
{
    static const char *const names[] = {"bin", "hex", "srec"};
    static const bl_filetype types[] = {BL_FILE_BIN, BL_FILE_HEX, BL_FILE_SREC};
    for (size_t i = 0; i < 3; i++)
        if (bl_text_same_nocase(name, bl_text_of(names[i]))) return types[i];
    return BL_FILE_UNKNOWN;
}

bl_filetype bl_filetype_of(bl_text path)
{
    static const struct {
        const char *ending;
        bl_filetype type;
    } known[] = {
        {"bin", BL_FILE_BIN},  {"rom", BL_FILE_BIN},   {"hex", BL_FILE_HEX},  {"ihx", BL_FILE_HEX},
        {"ihex", BL_FILE_HEX}, {"srec", BL_FILE_SREC}, {"s19", BL_FILE_SREC}, {"s28", BL_FILE_SREC},
        {"s37", BL_FILE_SREC}, {"mot", BL_FILE_SREC},
    };
    size_t dot = path.length;
    while (dot > 0 && path.at[dot - 1] != '.' && path.at[dot - 1] != '/')
        dot--;
    if (dot == 0 || path.at[dot - 1] != '.') return BL_FILE_UNKNOWN;
    bl_text ending = {path.at + dot, path.length - dot};
    for (size_t i = 0; i < sizeof known / sizeof known[0]; i++)
        if (bl_text_same_nocase(ending, bl_text_of(known[i].ending))) return known[i].type;
    return BL_FILE_UNKNOWN;
}

bool bl_filetype_is_records(bl_filetype type)
{
    return type == BL_FILE_HEX || type == BL_FILE_SREC;
}

const char *bl_filetype_text(bl_filetype type)
{
    static const char *const texts[] = {
        [BL_FILE_UNKNOWN] = "unknown",
        [BL_FILE_BIN] = "raw binary",
        [BL_FILE_HEX] = "Intel HEX",
        [BL_FILE_SREC] = "S-record",
    };
    _Static_assert(BL_COUNT(texts) == BL_FILE_SREC + 1, "one for each");
    return texts[type];
}

bl_status bl_imagefile_read(bl_filetype type, const char *name, const void *bytes, size_t count,
                            uint32_t at, bl_image *image, const bl_sink *sink)
{
    bl_records r = {.name = name, .image = image, .sink = sink};
    switch (type) {
    case BL_FILE_HEX: return bl_hex_read(&r, bytes, count);
    case BL_FILE_SREC: return bl_srec_read(&r, bytes, count);
    case BL_FILE_BIN: {
        bl_status status = bl_image_put(image, at, bytes, count, (bl_origin){0, 0});
        if (status != BL_OK)
            bl_report(sink, BL_ERROR, name, 0, NULL, "%lu bytes from $%04lX on: %s",
                      (unsigned long)count, (unsigned long)at, bl_status_text(status));
        return status;
    }
    case BL_FILE_UNKNOWN: break;
    }
    return BL_E_UNSUPPORTED;
}

static bl_status write_fill(const bl_writer *w, uint64_t count, uint8_t fill)
{
    uint8_t block[256];
    memset(block, fill, sizeof block);
    while (count > 0) {
        size_t n = count < sizeof block ? (size_t)count : sizeof block;
        bl_status s = w->write(w->context, block, n);
        if (s != BL_OK) return s;
        count -= n;
    }
    return BL_OK;
}

static bl_status write_binary(const bl_image *image, uint8_t fill, const bl_writer *w)
{
    size_t pieces = bl_image_pieces(image);
    if (pieces == 0) return BL_OK;
    bl_piece last = bl_image_piece(image, pieces - 1);
    uint64_t at = bl_image_piece(image, 0).first;
    if (last.first - at + last.count > 0x80000000u) return BL_E_RANGE;
    for (size_t i = 0; i < pieces; i++) {
        bl_piece p = bl_image_piece(image, i);
        bl_status s = write_fill(w, p.first - at, fill);
        if (s == BL_OK) s = w->write(w->context, p.bytes, p.count);
        if (s != BL_OK) return s;
        at = (uint64_t)p.first + p.count;
    }
    return BL_OK;
}

bl_status bl_imagefile_write(bl_filetype type, const bl_image *image, uint8_t fill,
                             const char *title, const bl_writer *writer)
{
    switch (type) {
    case BL_FILE_HEX: return bl_hex_write(image, writer);
    case BL_FILE_SREC: return bl_srec_write(image, title, writer);
    case BL_FILE_BIN: return write_binary(image, fill, writer);
    case BL_FILE_UNKNOWN: break;
    }
    return BL_E_UNSUPPORTED;
}

/* records.c - reading files that are lines of hexadecimal byte pairs. */
#include "records.h"

enum { MAX_FAULTS = 100 };

void bl_records_fault(bl_records *r, bl_status status, size_t column, size_t length,
                      const char *hint, const char *message, ...)
{
    char text[256];
    if (r->status == BL_OK) r->status = status;
    if (++r->faults > MAX_FAULTS || r->sink == NULL || r->sink->report == NULL) return;
    va_list list;
    va_start(list, message);
    bl_format_list(text, sizeof text, message, list);
    va_end(list);
    bl_diag diag = {BL_ERROR,         r->name, r->line, (uint32_t)column,
                    (uint32_t)length, r->text, text,    hint};
    r->sink->report(r->sink->context, &diag);
}

/* Pairs of digits into bytes; the checksum is the format's affair. */
bool bl_records_decode(bl_records *r, size_t skip)
{
    const char *at = r->text.at + skip;
    size_t digits = r->text.length - skip;
    for (size_t i = 0; i < digits; i++) {
        if (bl_hex_digit(at[i]) < 0) {
            bl_records_fault(r, BL_E_SYNTAX, skip + i + 1, 1, NULL, "not a hexadecimal digit");
            return false;
        }
    }
    if (digits % 2 != 0) {
        bl_records_fault(r, BL_E_SYNTAX, r->text.length, 1, "is the line cut short?",
                         "a byte needs two digits, the last one has one");
        return false;
    }
    if (digits / 2 > sizeof r->bytes) {
        bl_records_fault(r, BL_E_SYNTAX, 0, 0, NULL,
                         "record of %lu bytes; the most is 255 and a header",
                         (unsigned long)(digits / 2));
        return false;
    }
    r->count = digits / 2;
    for (size_t i = 0; i < r->count; i++)
        r->bytes[i] = (uint8_t)(bl_hex_digit(at[2 * i]) * 16 + bl_hex_digit(at[2 * i + 1]));
    return true;
}

/* Each address may be given once; the line that gave it first is named. */
void bl_records_put(bl_records *r, uint32_t address, const uint8_t *bytes, size_t count)
{
    bl_status status = bl_image_put(r->image, address, bytes, count, (bl_origin){r->file, r->line});
    if (status == BL_OK) return;
    uint32_t conflict = address;
    if (status == BL_E_OVERLAP) {
        if (r->faults >= MAX_FAULTS) { /* not told: looking for its origin would be for nothing */
            bl_records_fault(r, status, 0, 0, NULL, "overlap");
            return;
        }
        bl_image_conflict(r->image, (bl_range){address, count}, &conflict);
        bl_origin first = bl_image_origin(r->image, conflict);
        bl_records_fault(r, status, 0, 0, "each address may be given once",
                         "address $%04lX already has a byte, from line %lu",
                         (unsigned long)conflict, (unsigned long)first.line);
    } else {
        bl_records_fault(r, status, 0, 0, NULL, "record at $%08lX: %s", (unsigned long)address,
                         bl_status_text(status));
    }
}

/* Lines may end in any way, and a file without its last line end is a file. */
bl_status bl_records_each(bl_records *r, const void *bytes, size_t count,
                          void (*take)(bl_records *r), const char *end_hint)
{
    const char *text = bytes;
    size_t at = 0;
    bl_status status = bl_image_file(r->image, bl_text_of(r->name), &r->file);
    if (status != BL_OK) return status;
    while (at < count && r->status != BL_E_MEMORY) {
        size_t end = at;
        while (end < count && text[end] != '\n')
            end++;
        r->text = bl_text_trim((bl_text){text + at, end - at});
        r->line++;
        at = end + 1;
        if (r->text.length == 0) continue;
        if (r->ended) {
            bl_records_fault(r, BL_E_SYNTAX, 0, 0, "two files joined end to end?",
                             "record after the end record");
            break;
        }
        take(r);
    }
    if (!r->ended && r->status == BL_OK) {
        r->text = (bl_text){NULL, 0};
        bl_records_fault(r, BL_E_SYNTAX, 0, 0, end_hint, "the file has no end record");
    }
    return r->status;
}

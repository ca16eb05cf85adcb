/* wrap.c - heads and feet of programs in files. */
#include "bootlace/wrap.h"

#include "base/core.h"
#include "bootlace/crc.h"

static const char *const wrap_words[] = {
    "text",          "number", "name", "length", "load address", "last address", "end address",
    "entry address", "sum",    "sum",  "sum",    "sum",          "CRC-16",       "CRC-32",
};

static uint32_t fields_bytes(const bl_wrap_field *f, size_t count)
{
    uint32_t n = 0;
    for (size_t i = 0; i < count; i++)
        n += f[i].size;
    return n;
}

uint32_t bl_wrap_head_bytes(const bl_wrap *w)
{
    return fields_bytes(w->field, w->head);
}

uint32_t bl_wrap_foot_bytes(const bl_wrap *w)
{
    return fields_bytes(w->field + w->head, w->foot);
}

static void put_field_number(const bl_wrap_field *f, uint32_t value, uint8_t *to)
{
    for (unsigned i = 0; i < f->size; i++)
        to[f->big ? f->size - 1u - i : i] = (uint8_t)(value >> 8 * i);
}

static uint32_t field_number(const bl_wrap_field *f, const uint8_t *from)
{
    uint32_t value = 0;
    BL_ASSERT(f->size <= 4);
    for (unsigned i = 0; i < f->size; i++)
        value |= (uint32_t)from[f->big ? f->size - 1u - i : i] << 8 * i;
    return value;
}

static bool fits_field(const bl_wrap_field *f, uint32_t value)
{
    return f->size >= 4 || value >> 8 * f->size == 0;
}

static void put_field_text(const bl_wrap_field *f, const char *text, uint8_t *to)
{
    size_t length = bl_length(text);
    for (unsigned i = 0; i < f->size; i++)
        to[i] = i < length ? (uint8_t)text[i] : f->pad;
}

/* ---- sums ---- */

/* Adds bytes to the sum of a field. */
static uint32_t sum_more(const bl_wrap_field *f, uint32_t sum, const uint8_t *bytes, uint32_t count)
{
    if (f->kind == BL_WRAP_CRC16) return bl_crc16((uint16_t)sum, bytes, (size_t)count);
    if (f->kind == BL_WRAP_CRC32) return bl_crc32(sum, bytes, (size_t)count);
    for (uint32_t i = 0; i < count; i++)
        sum = f->kind == BL_WRAP_XOR8 ? sum ^ bytes[i] : sum + bytes[i];
    return sum;
}

/* head and foot: what of them is before the sum. */
static uint32_t sum_of_field(const bl_wrap_field *f, const uint8_t *head, uint32_t head_bytes,
                             const bl_wrapped *p, const uint8_t *foot, uint32_t foot_bytes)
{
    uint32_t sum = 0;
    if (f->over != BL_WRAP_OVER_DATA) sum = sum_more(f, sum, head, head_bytes);
    if (f->over != BL_WRAP_OVER_HEAD) sum = sum_more(f, sum, p->bytes, p->size);
    if (f->over == BL_WRAP_OVER_ALL) sum = sum_more(f, sum, foot, foot_bytes);
    if (f->kind == BL_WRAP_MINUS8) sum = 0u - sum;
    return f->size >= 4 ? sum : sum & ((1u << 8 * f->size) - 1);
}

static bool is_sum(const bl_wrap_field *f)
{
    return f->kind >= BL_WRAP_SUM8;
}

/* ---- making ---- */

/* The value of a field that is a number and no sum. BL_E_NOT_FOUND: the program has none. */
static bl_status value_of(const bl_wrap_field *f, const bl_wrapped *p, uint32_t *value)
{
    bool needs_load = f->kind == BL_WRAP_LOAD || f->kind == BL_WRAP_LAST || f->kind == BL_WRAP_END;
    if (needs_load && !p->has_load) return BL_E_NOT_FOUND;
    if (f->kind == BL_WRAP_ENTRY && !p->has_entry) return BL_E_NOT_FOUND;
    uint32_t base = f->kind == BL_WRAP_NUMBER   ? f->value
                    : f->kind == BL_WRAP_LENGTH ? p->size
                    : f->kind == BL_WRAP_LOAD   ? p->load
                    : f->kind == BL_WRAP_LAST   ? p->load + p->size - 1
                    : f->kind == BL_WRAP_END    ? p->load + p->size
                                                : p->entry;
    *value = base + (uint32_t)f->plus;
    return BL_OK;
}

static bl_status make_field(const bl_wrap *w, const bl_wrap_field *f, const bl_wrapped *p,
                            const bl_sink *sink, uint8_t *to)
{
    uint32_t value = 0;
    if (f->kind == BL_WRAP_TEXT_FIELD || f->kind == BL_WRAP_FILE) {
        put_field_text(f, f->kind == BL_WRAP_FILE ? p->name : f->text, to);
        return BL_OK;
    }
    bl_status status = value_of(f, p, &value);
    if (status != BL_OK)
        bl_report(sink, BL_ERROR, p->name, 0,
                  "an image with addresses has it: a source with .entry, Intel HEX, or --at",
                  "wrapper %s wants its %s, and it has none", w->name, wrap_words[f->kind]);
    if (status == BL_OK && !fits_field(f, value)) {
        bl_report(sink, BL_ERROR, p->name, 0, NULL,
                  "its %s is $%lX, and wrapper %s has %u bytes for it", wrap_words[f->kind],
                  (unsigned long)value, w->name, f->size);
        status = BL_E_RANGE;
    }
    if (status == BL_OK) put_field_number(f, value, to);
    return status;
}

bl_status bl_wrap_make(const bl_wrap *w, const bl_wrapped *p, const bl_sink *sink, uint8_t *head,
                       uint8_t *foot)
{
    uint32_t head_bytes = 0, foot_bytes = 0;
    if (bl_wrap_head_bytes(w) > BL_WRAP_MOST || bl_wrap_foot_bytes(w) > BL_WRAP_MOST)
        return BL_E_ARGUMENT;
    for (size_t i = 0; i < w->head + w->foot; i++) {
        const bl_wrap_field *f = &w->field[i];
        bool in_head = i < w->head;
        uint8_t *to = in_head ? head + head_bytes : foot + foot_bytes;
        if (is_sum(f)) {
            put_field_number(f, sum_of_field(f, head, head_bytes, p, foot, foot_bytes), to);
        } else {
            bl_status status = make_field(w, f, p, sink, to);
            if (status != BL_OK) return status;
        }
        *(in_head ? &head_bytes : &foot_bytes) += f->size;
    }
    return BL_OK;
}

/* ---- taking apart ---- */

static void take_field_text(const bl_wrap_field *f, const uint8_t *from, char *text)
{
    size_t n = f->size < BL_WRAP_TEXT ? f->size : BL_WRAP_TEXT;
    memcpy(text, from, n);
    while (n > 0 && (uint8_t)text[n - 1] == f->pad)
        n--;
    text[n] = '\0';
}

/* What head fields say: length and addresses. */
static void take_head(const bl_wrap *w, const uint8_t *bytes, bl_wrapped *p, bool *has_length)
{
    *has_length = false;
    for (size_t i = 0; i < w->head; i++) {
        const bl_wrap_field *f = &w->field[i];
        uint32_t value = f->size <= 4 ? field_number(f, bytes) - (uint32_t)f->plus : 0;
        if (f->kind == BL_WRAP_FILE) take_field_text(f, bytes, p->name);
        if (f->kind == BL_WRAP_LENGTH) p->size = value, *has_length = true;
        if (f->kind == BL_WRAP_LOAD) p->load = value, p->has_load = true;
        if (f->kind == BL_WRAP_ENTRY) p->entry = value, p->has_entry = true;
        bytes += f->size;
    }
    /* Without a length, two addresses tell it. */
    bytes -= bl_wrap_head_bytes(w);
    for (size_t i = 0; i < w->head && !*has_length && p->has_load; i++) {
        const bl_wrap_field *f = &w->field[i];
        uint32_t value = f->size <= 4 ? field_number(f, bytes) - (uint32_t)f->plus : 0;
        if (f->kind == BL_WRAP_LAST) p->size = value - p->load + 1, *has_length = true;
        if (f->kind == BL_WRAP_END) p->size = value - p->load, *has_length = true;
        bytes += f->size;
    }
}

static bl_status wrap_fault(const bl_sink *sink, bl_status status, const char *message, ...)
{
    char text[200];
    va_list list;
    va_start(list, message);
    bl_format_list(text, sizeof text, message, list);
    va_end(list);
    bl_report(sink, BL_ERROR, NULL, 0, NULL, "%s", text);
    return status;
}

/* Each field must be what it would be if it were made anew. */
static bl_status compare_field(const bl_wrap *w, const bl_wrap_field *f, const bl_sink *sink,
                               const uint8_t *is, const uint8_t *must)
{
    if (memcmp(is, must, f->size) == 0) return BL_OK;
    if (is_sum(f))
        return wrap_fault(sink, BL_E_CHECKSUM, "its %s is $%lX, and wrapper %s makes it $%lX",
                          wrap_words[f->kind], (unsigned long)field_number(f, is), w->name,
                          (unsigned long)field_number(f, must));
    if (f->kind == BL_WRAP_FILE)
        return wrap_fault(sink, BL_E_SYNTAX, "its name is not filled up as wrapper %s wants it",
                          w->name);
    if (f->kind == BL_WRAP_TEXT_FIELD)
        return wrap_fault(sink, BL_E_SYNTAX, "it has not the text '%s' of wrapper %s", f->text,
                          w->name);
    return wrap_fault(sink, BL_E_SYNTAX, "its %s is $%lX, and wrapper %s wants $%lX",
                      wrap_words[f->kind], (unsigned long)field_number(f, is), w->name,
                      (unsigned long)field_number(f, must));
}

static bl_status compare_fields(const bl_wrap *w, const bl_wrapped *p, const bl_sink *sink,
                                const uint8_t *head_is, const uint8_t *foot_is)
{
    uint8_t head[BL_WRAP_MOST], foot[BL_WRAP_MOST];
    const uint8_t *is = head_is, *must = head;
    bl_status status = bl_wrap_make(w, p, sink, head, foot);
    for (size_t i = 0; i < w->head + w->foot && status == BL_OK; i++) {
        if (i == w->head) is = foot_is, must = foot;
        const bl_wrap_field *f = &w->field[i];
        status = compare_field(w, f, sink, is, must);
        is += f->size, must += f->size;
    }
    return status;
}

bl_status bl_wrap_take(const bl_wrap *w, const uint8_t *bytes, uint32_t size, uint32_t rest,
                       const bl_sink *sink, bl_wrapped *p)
{
    uint32_t head = bl_wrap_head_bytes(w), foot = bl_wrap_foot_bytes(w);
    bool has_length;
    *p = (bl_wrapped){0};
    if (head > BL_WRAP_MOST || foot > BL_WRAP_MOST) return BL_E_ARGUMENT;
    if (size < head + foot)
        return wrap_fault(sink, BL_E_SYNTAX, "it has %lu bytes, and wrapper %s alone has %lu",
                          (unsigned long)size, w->name, (unsigned long)(head + foot));
    take_head(w, bytes, p, &has_length);
    if (!has_length) p->size = size - head - foot;
    if (p->size > size - head - foot)
        return wrap_fault(sink, BL_E_SYNTAX,
                          "its head says that the program has %lu bytes; there are %lu",
                          (unsigned long)p->size, (unsigned long)(size - head - foot));
    if (size - head - foot - p->size > rest)
        return wrap_fault(sink, BL_E_SYNTAX, "%lu bytes follow behind what wrapper %s describes",
                          (unsigned long)(size - head - foot - p->size), w->name);
    p->bytes = bytes + head;
    return compare_fields(w, p, sink, bytes, bytes + head + p->size);
}

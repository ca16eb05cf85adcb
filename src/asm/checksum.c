/* checksum.c - .checksum: a program that carries the checksum of itself. */
#include "assembler.h"
#include "bootlace/crc.h"

typedef enum sum_kind { SUM16, CRC16, CRC32, SUMS } sum_kind;

static const char *const names[] = {[SUM16] = "sum16", [CRC16] = "crc16", [CRC32] = "crc32"};
_Static_assert(BL_COUNT(names) == SUMS, "one for each");

/* .checksum sum16 | crc16 | crc32, FIRST, LAST */
void asm_checksum(bl_program *a, bl_text word)
{
    bl_text name = asm_word(asm_skip(a->cursor.p));
    size_t kind = 0;
    uint32_t first, last;
    while (kind < SUMS && !bl_text_same(name, bl_text_of(names[kind])))
        kind++;
    if (kind == SUMS) {
        asm_error(a, name.length > 0 ? name : word, ".checksum sum16, FIRST, LAST",
                  "sum16, crc16 or crc32 is expected here");
        return;
    }
    if (a->machine.unit != 8) {
        asm_error(a, word, NULL, "checksums are of bytes; this machine has units of %u bits",
                  a->machine.unit);
        return;
    }
    a->cursor.p = name.at + name.length;
    if (!asm_comma(a) || !asm_expression_ref(a, &first)) return;
    if (!asm_comma(a)) {
        asm_error(a, word, ".checksum sum16, FIRST, LAST", "the last address is missing");
        return;
    }
    if (!asm_expression_ref(a, &last)) return;
    asm_end_of_line(a);
    if (!asm_push_statement(a, ST_CHECKSUM, word.at, first, 2)) return;
    statement *s = &a->code.statements[a->code.statement_count - 1];
    s->form = (uint16_t)kind;
    s->size = kind == CRC32 ? 4 : 2;
}

/* Bytes that nothing fills count as FF, as a blank chip has them. */
static uint32_t compute(const bl_program *a, sum_kind kind, uint32_t first, uint32_t last)
{
    uint8_t bytes[64];
    uint32_t value = 0;
    for (uint64_t at = first; at <= last; at += sizeof bytes) {
        size_t n = last - at + 1 < sizeof bytes ? (size_t)(last - at + 1) : sizeof bytes;
        bl_image_copy(a->image, (uint32_t)at, n, 0xFF, bytes);
        value = kind == SUM16   ? (value + bl_sum16(0, bytes, n)) & 0xFFFF
                : kind == CRC16 ? bl_crc16((uint16_t)value, bytes, n)
                                : bl_crc32(value, bytes, n);
    }
    return value;
}

static bool address_of(bl_program *a, const statement *s, uint32_t index, uint32_t *address)
{
    int64_t value;
    const ref *r = &a->code.refs[s->refs + index];
    value_state state = asm_value(a, r, s, &value);
    if (state != VALUE_KNOWN) {
        asm_explain(a, s, r, state);
        return false;
    }
    if (value < 0 || value > (int64_t)UINT32_MAX) {
        asm_error_at(a, s, r, NULL, "this is no address");
        return false;
    }
    *address = (uint32_t)value;
    return true;
}

static void emit_checksum(bl_program *a, const statement *s)
{
    uint32_t first, last;
    uint8_t bytes[4];
    if (!address_of(a, s, 0, &first) || !address_of(a, s, 1, &last)) return;
    if (last < first) {
        asm_error_at(a, s, &a->code.refs[s->refs + 1], NULL, "the range ends before it begins");
        return;
    }
    if (s->stored <= last && s->stored + s->size - 1 >= first) {
        asm_error_at(a, s, NULL, "put it before or behind what it is the checksum of",
                     "a checksum cannot lie in its own range");
        return;
    }
    uint32_t value = compute(a, (sum_kind)s->form, first, last);
    for (uint32_t i = 0; i < s->size; i++)
        bytes[a->machine.big ? s->size - 1 - i : i] = (uint8_t)(value >> (8 * i));
    asm_put(a, s, s->stored, bytes, (size_t)s->size);
}

void asm_emit_checksums(bl_program *a)
{
    for (size_t i = 0; i < a->code.statement_count && a->fatal == BL_OK; i++)
        if (a->code.statements[i].kind == ST_CHECKSUM) emit_checksum(a, &a->code.statements[i]);
}

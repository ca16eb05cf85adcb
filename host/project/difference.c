/* difference.c - what wrong bytes are as instructions, and what their pattern suggests. */
#include "difference.h"

#include <string.h>

#include "bootlace/cause.h"
#include "bootlace/sheet.h"

enum { INSTRUCTIONS = 4, FEW = 8 };

/* ---- instructions ---- */

/* The text of an instruction in an image; false: it is none, or not all of it is there. */
static bool instruction_at(const bench *b, const bl_image *image, uint32_t address, char *text,
                           size_t capacity)
{
    uint8_t bytes[BL_FORM_UNITS];
    uint16_t units[BL_FORM_UNITS];
    bl_decoded d;
    if (bl_sheet_unit_bytes(b->sheet) != 1) return false;
    size_t there = bl_image_copy(image, address, BL_FORM_UNITS, 0, bytes);
    for (size_t i = 0; i < BL_FORM_UNITS; i++)
        units[i] = bytes[i];
    if (!bl_sheet_decode(b->sheet, units, BL_FORM_UNITS, &d) || there < d.form->size) return false;
    bl_instruction_text(b->sheet, &d, address, 0, NULL, text, capacity);
    return true;
}

/* "light+2: LDA #$05 was built, LDA #$07 is there". */
static void add_instruction(GPtrArray *lines, const bench *b, const bl_place *place,
                            const bl_image *expected, const bl_image *found)
{
    char built[120], is[120];
    uint32_t beyond = place->beyond - (place->stored - place->first);
    if (!instruction_at(b, expected, place->first, built, sizeof built)) return;
    if (!instruction_at(b, found, place->first, is, sizeof is))
        g_strlcpy(is, "no instruction", sizeof is);
    GString *s = g_string_new(place->label);
    if (beyond > 0 && place->label[0] != '\0') g_string_append_printf(s, "+%u", beyond);
    g_string_append_printf(s, "%s%s was built, %s is there", s->len > 0 ? ": " : "", built, is);
    g_ptr_array_add(lines, g_string_free(s, FALSE));
}

/* The place of an address that is kept where it runs. */
static bool kept_place(const whereis *w, uint32_t address, bl_place *place)
{
    for (size_t i = 0; i < w->count; i++)
        if (bl_program_place(w->programs[i], address, place) && place->stored == address)
            return true;
    return false;
}

static void add_instructions(GPtrArray *lines, const bench *b, const whereis *w,
                             const bl_image *expected, const bl_image *found)
{
    uint32_t last = UINT32_MAX;
    for (size_t i = 0; i < bl_image_pieces(expected) && lines->len < INSTRUCTIONS; i++) {
        bl_piece p = bl_image_piece(expected, i);
        for (size_t k = 0; k < p.count && lines->len < INSTRUCTIONS; k++) {
            uint8_t byte;
            bl_place place;
            uint32_t at = p.first + (uint32_t)k;
            if (!bl_image_get(found, at, &byte) || byte == p.bytes[k]) continue;
            if (!kept_place(w, at, &place) || !place.code || place.first == last) continue;
            last = place.first;
            add_instruction(lines, b, &place, expected, found);
        }
    }
}

/* ---- patterns ---- */

/* Nothing is wrong up to somewhere, and nearly all behind: it broke off there. */
static bool broke_off(const uint8_t *expected, const uint8_t *found, size_t count, size_t *where)
{
    size_t first = 0, wrong = 0;
    while (first < count && expected[first] == found[first])
        first++;
    for (size_t i = first; i < count; i++)
        wrong += expected[i] != found[i];
    *where = first;
    return first >= FEW && first < count && count - first >= FEW &&
           wrong * 10 >= (count - first) * 9;
}

/* Each two bytes are found the other way round. */
static bool pairs_swapped(const uint8_t *expected, const uint8_t *found, size_t count)
{
    size_t pairs = 0;
    for (size_t i = 0; i + 1 < count; i += 2) {
        if (expected[i] != found[i + 1] || expected[i + 1] != found[i]) return false;
        pairs += expected[i] != expected[i + 1];
    }
    return pairs >= FEW / 2;
}

static void add_causes(GPtrArray *lines, const uint8_t *expected, const uint8_t *found,
                       size_t count)
{
    bl_causes causes;
    char text[300];
    bl_causes_find(expected, found, (uint32_t)count, &causes);
    for (size_t i = 0; i < causes.count; i++) {
        bl_cause_text(&causes, i, text, sizeof text);
        g_ptr_array_add(lines, g_strconcat(i == 0 ? "probably: " : "or: ", text, NULL));
    }
}

/* What is wrong from somewhere up to the end of a RAM area that a stack is in, and right below. */
static bool in_stack(const bench *b, uint32_t address)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (strstr(b->areas[i].name, "stack") != NULL &&
            bl_area_holds(&b->areas[i], (bl_range){address, 1}))
            return true;
    return false;
}

static void add_patterns(GPtrArray *lines, const bench *b, const bl_piece *p, const bl_image *found)
{
    uint8_t *is = g_malloc(p->count);
    size_t where, wrong = 0, stack = 0;
    bool whole = bl_image_copy(found, p->first, p->count, 0, is) == p->count;
    for (size_t i = 0; i < p->count; i++) {
        wrong += p->bytes[i] != is[i];
        stack += p->bytes[i] != is[i] && in_stack(b, p->first + (uint32_t)i);
    }
    if (!whole || wrong < FEW) {
        g_free(is);
        return;
    }
    if (stack == wrong)
        g_ptr_array_add(lines, g_strdup("probably: the stack ran into it; what differs lies in its "
                                        "area"));
    else if (pairs_swapped(p->bytes, is, p->count))
        g_ptr_array_add(lines, g_strdup("probably: each two bytes are the other way round"));
    else if (broke_off(p->bytes, is, p->count, &where))
        g_ptr_array_add(lines,
                        g_strdup_printf("probably: only the first %zu of %zu bytes were loaded",
                                        where, p->count));
    else
        add_causes(lines, p->bytes, is, p->count);
    g_free(is);
}

GPtrArray *difference_explain(const bench *b, const whereis *w, const bl_image *expected,
                              const bl_image *found)
{
    GPtrArray *lines = g_ptr_array_new_with_free_func(g_free);
    add_instructions(lines, b, w, expected, found);
    for (size_t i = 0; i < bl_image_pieces(expected); i++) {
        bl_piece p = bl_image_piece(expected, i);
        add_patterns(lines, b, &p, found);
    }
    return lines;
}

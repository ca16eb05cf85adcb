/* stored.c - a program that is kept in RAM with a battery, and starts at power-on. */
#include "stored.h"

#include <glib.h>
#include <string.h>

#include "bootlace/crc.h"
#include "files/files.h"

static const bl_area *area_named(const bench *b, const char *name)
{
    for (size_t i = 0; i < b->area_count; i++)
        if (strcmp(b->areas[i].name, name) == 0) return &b->areas[i];
    return NULL;
}

static bool builds(const bench *b, const char *firmware)
{
    for (size_t i = 0; i < b->piece_count; i++)
        if (g_strcmp0(b->pieces[i].firmware, firmware) == 0) return true;
    return false;
}

/* What the bench file must have for that; NULL: it has. */
static char *missing_areas(const bench *b)
{
    const bl_area *head = area_named(b, "stored_head"), *body = area_named(b, "stored");
    if (head == NULL || body == NULL || !head->keeps || !body->keeps)
        return g_strdup("nothing can be kept: the bench file needs areas 'stored_head' (6 bytes) "
                        "and 'stored' of RAM "
                        "with 'battery: true'");
    if (head->range.count < STORED_HEAD) return g_strdup("the area 'stored_head' needs 6 bytes");
    if (body->hole_count > 0) return g_strdup("the area 'stored' has holes");
    if (!builds(b, "eyelet") || !builds(b, "tongue"))
        return g_strdup("nothing starts a program that is kept: the bench file builds no Tongue "
                        "beside its Eyelet");
    return NULL;
}

static void put_word(const bench *b, uint8_t *at, uint32_t value)
{
    bool big = bl_sheet_order(b->sheet) == BL_BIG;
    at[big ? 1 : 0] = (uint8_t)value;
    at[big ? 0 : 1] = (uint8_t)(value >> 8);
}

/* Length and entry in the CPU's order; then the FCS over these four bytes and the program, low byte
 * first: a checksum over all of it is what one at the end of a frame is. */
bl_image *stored_image(const bench *b, const bl_image *program, char **why)
{
    const bl_area *head = area_named(b, "stored_head"), *body = area_named(b, "stored");
    uint8_t first[STORED_HEAD];
    uint32_t entry;
    bl_image *image = NULL;
    *why = missing_areas(b);
    if (*why != NULL) return NULL;
    for (size_t i = 0; i < bl_image_pieces(program); i++) {
        bl_piece p = bl_image_piece(program, i);
        if (!bl_range_holds(body->range, (bl_range){p.first, p.count}))
            *why = g_strdup_printf("%zu bytes at $%04X are not in the area 'stored': .place stored",
                                   p.count, p.first);
        if (*why != NULL) return NULL;
    }
    size_t pieces = bl_image_pieces(program);
    if (!bl_image_entry(program, &entry) || pieces == 0) {
        *why = g_strdup("a program that is kept needs an entry point: .entry, or --entry ADDRESS");
        return NULL;
    }
    bl_piece last = bl_image_piece(program, pieces - 1);
    uint32_t count = last.first + (uint32_t)last.count - body->range.first;
    uint8_t *bytes = g_malloc0(count);
    bl_image_copy(program, body->range.first, count, 0, bytes);
    put_word(b, first, count);
    put_word(b, first + 2, entry);
    uint16_t fcs = bl_fcs16_row(bl_fcs16_row(BL_FCS16_START, first, 4), bytes, count);
    first[4] = (uint8_t)~fcs;
    first[5] = (uint8_t)(~fcs >> 8);
    if (bl_image_open(&host_memory, &image) == BL_OK) {
        bl_image_put(image, head->range.first, first, sizeof first, (bl_origin){0, 0});
        bl_image_put(image, body->range.first, bytes, count, (bl_origin){0, 0});
        bl_image_set_entry(image, entry);
    }
    g_free(bytes);
    return image;
}

/* whereis.c - addresses to symbols and lines. */
#include "whereis.h"

#include <glib.h>

void whereis_add(whereis *w, bl_program *program)
{
    if (program != NULL && w->count < G_N_ELEMENTS(w->programs)) w->programs[w->count++] = program;
}

void whereis_add_project(whereis *w, const project *p)
{
    for (size_t i = 0; p != NULL && i < p->piece_count; i++)
        whereis_add(w, p->pieces[i].program);
}

/* A label names an address only when the program runs on without a gap from one to the other. */
static bool same_piece(const bl_image *image, uint32_t label, uint32_t address)
{
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        bool holds = address >= p.first && address - p.first < p.count;
        if (holds) return label >= p.first;
    }
    return false;
}

/* The nearest label at or below, and the source line that made the byte: a fault is looked for
 * there. */
void whereis_describe(const whereis *w, uint32_t address, char *buffer, size_t capacity)
{
    buffer[0] = '\0';
    for (size_t i = 0; i < w->count; i++) {
        uint8_t byte;
        bl_symbol symbol;
        bl_image *image = bl_program_image(w->programs[i]);
        if (!bl_image_get(image, address, &byte)) continue;
        bl_origin o = bl_image_origin(image, address);
        const char *file = bl_image_file_name(image, o.file);
        char near[220] = "";
        unsigned wide = bl_program_unit_bytes(w->programs[i]);
        if (bl_program_label_near(w->programs[i], address / wide, &symbol) &&
            same_piece(image, (uint32_t)symbol.value * wide, address)) {
            uint32_t beyond = address / wide - (uint32_t)symbol.value;
            if (beyond == 0)
                g_snprintf(near, sizeof near, "%s, ", symbol.name);
            else
                g_snprintf(near, sizeof near, "%s+%u, ", symbol.name, beyond);
        }
        g_snprintf(buffer, capacity, "%s%s:%u", near, file != NULL ? file : "?", o.line);
        return;
    }
}

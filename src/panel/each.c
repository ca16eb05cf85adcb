/* each.c - the units that a sheet lists. */
#include "base/core.h"
#include "bootlace/panel.h"

/* The unit at an address; false when none of its bytes is there. */
static bool panel_unit(const bl_panel *panel, const bl_image *image, uint32_t address,
                       uint32_t *value)
{
    unsigned unit_bytes = panel->sheet != NULL ? bl_sheet_unit_bytes(panel->sheet) : 1;
    uint8_t bytes[2] = {0, 0};
    bool there = false;
    for (unsigned i = 0; i < unit_bytes; i++)
        there |= bl_image_get(image, address * unit_bytes + i, &bytes[i]);
    bool big = panel->sheet != NULL && bl_sheet_order(panel->sheet) == BL_BIG;
    *value = unit_bytes == 1 ? bytes[0]
             : big           ? (uint32_t)bytes[0] << 8 | bytes[1]
                             : (uint32_t)bytes[1] << 8 | bytes[0];
    return there;
}

/* What is there already is left out; runs of it break the counting up of addresses. */
uint32_t bl_panel_each(const bl_panel *panel, bl_panel_visit visit, void *context)
{
    uint32_t units = 0;
    unsigned unit_bytes = panel->sheet != NULL ? bl_sheet_unit_bytes(panel->sheet) : 1;
    for (size_t i = 0; i < bl_image_pieces(panel->image); i++) {
        bl_piece p = bl_image_piece(panel->image, i);
        uint64_t end = (uint64_t)p.first + p.count;
        for (uint64_t at = p.first / unit_bytes; at * unit_bytes < end; at++) {
            uint32_t address = (uint32_t)at, value, there;
            bool wanted =
                panel->range.count == 0 || bl_range_holds(panel->range, (bl_range){address, 1});
            if (!wanted || !panel_unit(panel, panel->image, address, &value)) continue;
            units++;
            if (panel->have == NULL || !panel_unit(panel, panel->have, address, &there) ||
                there != value)
                visit(context, address, value);
        }
    }
    return units;
}

/* plan.c - cutting an image onto chips. */
#include "base/core.h"
#include "bootlace/chip.h"

const bl_chip *bl_chip_at(const bl_chip *chips, size_t count, uint32_t address, uint32_t *offset)
{
    for (size_t i = 0; i < count; i++) {
        for (size_t k = 0; k < chips[i].map_count; k++) {
            const bl_chip_map *m = &chips[i].maps[k];
            if (!bl_range_holds(m->cpu, (bl_range){address, 1})) continue;
            *offset = m->offset + (address - m->cpu.first);
            return &chips[i];
        }
    }
    return NULL;
}

bool bl_chip_cpu_address(const bl_chip *chip, uint32_t offset, uint32_t *address)
{
    for (size_t k = 0; k < chip->map_count; k++) {
        const bl_chip_map *m = &chip->maps[k];
        if (offset < m->offset || offset - m->offset >= m->cpu.count) continue;
        *address = m->cpu.first + (offset - m->offset);
        return true;
    }
    return false;
}

void bl_chip_contents(const bl_chip *chip, const bl_image *image, uint8_t *bytes, uint32_t *used)
{
    *used = 0;
    memset(bytes, chip->fill, (size_t)chip->part->size);
    for (size_t k = 0; k < chip->map_count; k++) {
        const bl_chip_map *m = &chip->maps[k];
        *used += (uint32_t)bl_image_copy(image, m->cpu.first, (size_t)m->cpu.count, chip->fill,
                                         bytes + m->offset);
    }
}

static void tell_stray(bl_image *image, uint32_t first, uint64_t count, const bl_sink *sink)
{
    bl_origin origin = bl_image_origin(image, first);
    bl_report(sink, BL_ERROR, bl_image_file_name(image, origin.file), origin.line,
              "place it in an area that a chip holds, or map a chip there",
              "%llu byte%s at $%04lX lie%s in no chip", (unsigned long long)count,
              count == 1 ? "" : "s", (unsigned long)first, count == 1 ? "s" : "");
}

uint64_t bl_chip_strays(const bl_chip *chips, size_t count, bl_image *image, const bl_sink *sink)
{
    uint64_t strays = 0;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece p = bl_image_piece(image, i);
        uint64_t run = 0;
        for (size_t k = 0; k <= p.count; k++) {
            uint32_t offset;
            bool stray =
                k < p.count && bl_chip_at(chips, count, p.first + (uint32_t)k, &offset) == NULL;
            if (!stray && run > 0) tell_stray(image, p.first + (uint32_t)(k - run), run, sink);
            run = stray ? run + 1 : 0;
            strays += stray;
        }
    }
    return strays;
}

/* fuzz_disassembly.c - any bytes of any CPU, with any names: the source that comes out gives
 * exactly those bytes when it is assembled. */
#include <stdio.h>

#include "fuzz_memory.h"

static bl_sheet *sheet_numbered(size_t i)
{
    static bl_sheet *sheets[64];
    i = i % bl_sheet_shipped_count() % 64;
    if (sheets[i] == NULL &&
        bl_sheet_open(&fuzz_memory, bl_sheet_shipped_name(i), NULL, &sheets[i]) != BL_OK)
        abort();
    return sheets[i];
}

static void assemble_again(const bl_sheet *sheet, const bl_image *image, const fuzz_held *h)
{
    bl_program *program = NULL;
    bl_asm_options o = {.memory = fuzz_memory, .sheet = sheet};
    bl_status status =
        bl_assemble_text(&o, "back", (bl_text){(const char *)h->bytes, h->count}, &program);
    if (status != BL_OK ||
        !bl_image_compare(image, bl_program_image(program), NULL, fuzz_difference)) {
        fwrite(h->bytes, 1, h->count, stderr);
        abort();
    }
    bl_program_close(program);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    fuzz_input in = {data, size};
    const bl_sheet *sheet = sheet_numbered(fuzz_byte(&in));
    uint8_t how = fuzz_byte(&in);
    unsigned wide = bl_sheet_unit_bytes(sheet), bits = bl_sheet_address_bits(sheet);
    uint32_t last = bits >= 32 ? UINT32_MAX : ((uint32_t)1 << bits) - 1, first = fuzz_number(&in);
    bl_disasm_name names[8];
    size_t name_count = how & 7;
    for (size_t i = 0; i < name_count; i++) {
        size_t length = fuzz_byte(&in) % 12;
        if (length > in.left) length = in.left;
        names[i] = (bl_disasm_name){{(const char *)in.at, length}, 0};
        in.at += length, in.left -= length;
        names[i].address = (first + fuzz_byte(&in) % 16) & last;
    }
    size_t units = in.left / wide;
    if (units == 0 || units > 600) return 0;
    first &= last;
    if (last - first < units) first = last - (uint32_t)units;
    if ((uint64_t)first * wide + units * wide > UINT32_MAX) return 0;
    bl_image *image;
    fuzz_held h = {0};
    uint8_t *bytes = malloc(units * wide);
    memcpy(bytes, in.at, units * wide);
    for (size_t i = 0; wide == 2 && i < units; i++) { /* bits that a word does not have */
        unsigned mask = (1u << bl_sheet_unit_bits(sheet)) - 1;
        bytes[i * 2 + (bl_sheet_order(sheet) == BL_LITTLE)] &= (uint8_t)(mask >> 8);
    }
    if (bl_sheet_unit_bits(sheet) < 8)
        for (size_t i = 0; i < units; i++)
            bytes[i] &= (uint8_t)((1u << bl_sheet_unit_bits(sheet)) - 1);
    if (bl_image_open(&fuzz_memory, &image) != BL_OK) abort();
    if (bl_image_put(image, first * wide, bytes, units * wide, (bl_origin){0, 0}) != BL_OK) abort();
    bl_writer writer = {&h, fuzz_hold};
    uint32_t entry = first + how % (uint32_t)units;
    bl_disasm_options o = {.memory = fuzz_memory,
                           .sheet = sheet,
                           .image = image,
                           .names = names,
                           .name_count = name_count,
                           .entries = &entry,
                           .entry_count = (how & 8) != 0,
                           .all_code = (how & 16) != 0,
                           .direct = (how & 32) != 0 ? 0x20 : 0};
    if (bl_disassemble(&o, NULL, &writer) != BL_OK) abort();
    assemble_again(sheet, image, &h);
    bl_image_close(image);
    free(bytes);
    free(h.bytes);
    return 0;
}

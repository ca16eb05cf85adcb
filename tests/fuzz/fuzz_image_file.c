/* fuzz_image_file.c - any bytes as a HEX or S-record file; what is accepted and written again in
 * either format is the same when it is read back. FUZZ_TYPE is chosen by the build. */
#include "fuzz_memory.h"

static void round_trip(bl_image *image, bl_filetype type)
{
    fuzz_held h = {0};
    bl_image *back;
    bl_writer writer = {&h, fuzz_hold};
    if (bl_image_open(&fuzz_memory, &back) != BL_OK) abort();
    if (bl_imagefile_write(type, image, 0xFF, "fuzz", &writer) != BL_OK) abort();
    if (bl_imagefile_read(type, "back", h.bytes, h.count, 0, back, NULL) != BL_OK) abort();
    if (!bl_image_compare(image, back, NULL, fuzz_difference)) abort();
    uint32_t entry, entry_back;
    if (bl_image_entry(image, &entry) && entry != 0 &&
        (!bl_image_entry(back, &entry_back) || entry_back != entry))
        abort();
    bl_image_close(back);
    free(h.bytes);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bl_image *image;
    if (bl_image_open(&fuzz_memory, &image) != BL_OK) abort();
    if (bl_imagefile_read(FUZZ_TYPE, "fuzz", data, size, 0, image, &sink) == BL_OK) {
        round_trip(image, BL_FILE_HEX);
        round_trip(image, BL_FILE_SREC);
        for (size_t i = 0; i < bl_image_pieces(image); i++)
            sum += bl_image_origin(image, bl_image_piece(image, i).first).line;
    }
    bl_image_close(image);
    return 0;
}

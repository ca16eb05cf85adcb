/* Cutting images onto chips. */
#include "harness.h"

#include <string.h>

static bl_chip upper_half(void)
{
    bl_chip c = {
        .name = "U5", .part = bl_part_named((bl_text){"28c256", 6}), .map_count = 1, .fill = 0xEE};
    c.maps[0] = (bl_chip_map){{0xC000, 0x4000}, 0x4000};
    return c;
}

TEST(a_half_decoded_chip)
{
    bl_chip c = upper_half();
    bl_image *image;
    static uint8_t bytes[32768];
    uint32_t used, offset, address;
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    bl_image_put(image, 0xC000, "first", 5, (bl_origin){0, 0});
    bl_image_put(image, 0xFFFE, "\x12\x34", 2, (bl_origin){0, 0});
    bl_chip_contents(&c, image, bytes, &used);
    CHECK_INT(used, 7);
    CHECK_BYTES(bytes + 0x4000, 5, "first", 5);
    CHECK_BYTES(bytes + 0x7FFE, 2, "\x12\x34", 2);
    CHECK_INT(bytes[0], 0xEE);
    CHECK_INT(bytes[0x4005], 0xEE);
    CHECK(bl_chip_at(&c, 1, 0xBFFF, &offset) == NULL);
    CHECK(bl_chip_at(&c, 1, 0xC123, &offset) == &c && offset == 0x4123);
    CHECK(bl_chip_cpu_address(&c, 0x7FFF, &address) && address == 0xFFFF);
    CHECK(!bl_chip_cpu_address(&c, 0x3FFF, &address));
    CHECK_INT(bl_chip_strays(&c, 1, image, &test_sink), 0);
    bl_image_put(image, 0xBFFE, "xy", 2, (bl_origin){0, 0});
    CHECK_INT(bl_chip_strays(&c, 1, image, &test_sink), 2);
    CHECK_CONTAINS(test_messages(), "2 bytes at $BFFE lie in no chip");
    bl_image_close(image);
}

/* Cutting images onto chips. */
#include "harness.h"

#include <string.h>

static bl_chip upper_half(void)
{
    bl_chip c = {
        .name = "U5", .part = bl_part_named((bl_text){"28c256", 6}), .map_count = 1, .fill = 0xEE};
    c.maps[0] = (bl_chip_map){.cpu = {0xC000, 0x4000}, .offset = 0x4000};
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
    CHECK(bl_chip_address(&c, 0x7FFF, 0, &address) && address == 0xFFFF);
    CHECK(!bl_chip_address(&c, 0x3FFF, 0, &address));
    CHECK_INT(bl_chip_strays(&c, 1, image, &test_sink), 0);
    bl_image_put(image, 0xBFFE, "xy", 2, (bl_origin){0, 0});
    CHECK_INT(bl_chip_strays(&c, 1, image, &test_sink), 2);
    CHECK_CONTAINS(test_messages(), "2 bytes at $BFFE lie in no chip");
    bl_image_close(image);
}

/* ---- lanes, nibbles, mirrors ---- */

static const bl_part *part(const char *name)
{
    return bl_part_named((bl_text){name, strlen(name)});
}

static bl_image *random_image(uint32_t first, uint32_t count)
{
    bl_image *image;
    uint8_t bytes[256];
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    for (uint32_t at = 0; at < count; at += sizeof bytes) {
        for (size_t i = 0; i < sizeof bytes; i++)
            bytes[i] = (uint8_t)test_random();
        uint32_t n = count - at < sizeof bytes ? count - at : (uint32_t)sizeof bytes;
        bl_image_put(image, first + at, bytes, n, (bl_origin){0, 0});
    }
    return image;
}

/* What a board reads from chips with these contents. */
static uint8_t board_reads(const bl_chip *chips, size_t count, uint8_t (*contents)[65536],
                           uint32_t address)
{
    uint8_t value = 0, bits;
    uint32_t offset;
    for (size_t i = 0; i < count; i++)
        for (size_t k = 0; k < chips[i].map_count; k++)
            if (bl_chip_map_holds(&chips[i], &chips[i].maps[k], address, &offset, &bits)) {
                uint8_t cell = contents[i][offset];
                value |= (uint8_t)((bits == 0xF0 ? cell << 4 : cell) & bits);
            }
    return value;
}

/* Cut onto the chips and read by the board again, every byte is itself. */
static void check_round_trip(const bl_chip *chips, size_t count, uint32_t first, uint32_t bytes)
{
    static uint8_t contents[4][65536];
    bl_image *image = random_image(first, bytes);
    for (size_t i = 0; i < count; i++) {
        uint32_t used;
        bl_chip_contents(&chips[i], image, contents[i], &used);
        CHECK_INT(bl_chip_conflicts(&chips[i], image, contents[i], &test_sink), 0);
    }
    CHECK_INT(bl_chip_strays(chips, count, image, &test_sink), 0);
    for (uint32_t at = first; at < first + bytes; at++) {
        uint8_t byte = 0, found = board_reads(chips, count, contents, at);
        CHECK(bl_image_get(image, at, &byte));
        if (found != byte)
            test_fail(__FILE__, __LINE__, "$%04lX: %02X for %02X", (unsigned long)at, found, byte);
    }
    bl_image_close(image);
}
#define check_round_trip(...) TEST_CALL(check_round_trip(__VA_ARGS__))

TEST(a_plan_of_any_kind_gives_the_image_back)
{
    for (unsigned n = 0; n < 60; n++) {
        uint32_t lanes = 1 + test_below(4), first = 0x8000 + test_below(3), size = 0x3000;
        bl_chip chips[4];
        for (uint32_t i = 0; i < lanes; i++) {
            chips[i] = (bl_chip){.name = "U", .part = part("27256"), .fill = 0xFF};
            chips[i].maps[chips[i].map_count++] = (bl_chip_map){.cpu = {first, size},
                                                                .offset = test_below(0x1000),
                                                                .lanes = (uint8_t)lanes,
                                                                .lane = (uint8_t)i};
        }
        check_round_trip(chips, lanes, first, size);
    }
    bl_chip pair[2] = {{.name = "U1", .part = part("2732"), .map_count = 1, .fill = 0xFF},
                       {.name = "U2", .part = part("2732"), .map_count = 1, .fill = 0xFF}};
    pair[0].maps[0] = (bl_chip_map){.cpu = {0xC000, 0x1000}, .nibble = 1};
    pair[1].maps[0] = (bl_chip_map){.cpu = {0xC000, 0x1000}, .nibble = 2};
    check_round_trip(pair, 2, 0xC000, 0x1000);
    CHECK_INT(bl_chip_bits(pair, 1, 0xC123), 0x0F);
    CHECK_INT(bl_chip_bits(pair, 2, 0xC123), 0xFF);
    CHECK_INT(bl_chip_bits(pair, 2, 0xD000), 0);
}

TEST(a_run_is_what_a_map_takes_of_a_piece)
{
    static const uint8_t bytes[0x1000];
    bl_chip odd = {.name = "U2", .part = part("27256"), .map_count = 1, .fill = 0xFF};
    bl_chip_map *m = &odd.maps[0];
    bl_chip_run run;
    *m = (bl_chip_map){.cpu = {0xC000, 0x1000}, .offset = 0x100, .lanes = 2, .lane = 1};
    CHECK(bl_chip_map_run(&odd, m, &(bl_piece){0xBFF0, 0x31, bytes}, &run));
    CHECK_INT(run.first, 0xC000);
    CHECK_INT(run.last, 0xC020);
    CHECK_INT(run.offset, 0x100);
    CHECK_INT(run.highest, 0x10F);
    CHECK_INT(run.count, 16);
    CHECK(!bl_chip_map_run(&odd, m, &(bl_piece){0xD000, 16, bytes}, &run));
    CHECK(!bl_chip_map_run(&odd, m, &(bl_piece){0xC000, 1, bytes}, &run)); /* even */
}

TEST(half_a_byte_without_a_chip_is_a_stray)
{
    bl_chip low = {.name = "U1", .part = part("2732"), .map_count = 1, .fill = 0xFF};
    low.maps[0] = (bl_chip_map){.cpu = {0xC000, 0x1000}, .nibble = 1};
    bl_image *image = random_image(0xC010, 3);
    CHECK_INT(bl_chip_strays(&low, 1, image, &test_sink), 3);
    bl_image_close(image);
}

TEST(a_mirrored_chip_is_seen_at_several_addresses)
{
    bl_chip c = {.name = "U7", .part = part("28C16"), .map_count = 1, .fill = 0xFF};
    c.maps[0] = (bl_chip_map){.cpu = {0xE000, 0x2000}, .mirrored = true};
    static uint8_t bytes[2048];
    uint32_t used, address;
    bl_image *image;
    CHECK_INT(bl_chip_map_size(&c, &c.maps[0]), 2048);
    for (size_t n = 0; n < 4; n++)
        CHECK(bl_chip_address(&c, 0x123, n, &address) && address == 0xE123 + n * 0x800);
    CHECK(!bl_chip_address(&c, 0x123, 4, &address));
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    bl_image_put(image, 0xE000, "code", 4, (bl_origin){0, 0});
    bl_image_put(image, 0xFFFC, "\x00\xE0", 2, (bl_origin){0, 0});
    bl_chip_contents(&c, image, bytes, &used);
    CHECK_INT(bl_chip_conflicts(&c, image, bytes, &test_sink), 0);
    CHECK_BYTES(bytes + 0x7FC, 2, "\x00\xE0", 2);
    bl_image_put(image, 0xE800, "coat", 4, (bl_origin){0, 0});
    bl_chip_contents(&c, image, bytes, &used);
    CHECK_INT(bl_chip_conflicts(&c, image, bytes, &test_sink), 2);
    CHECK_CONTAINS(test_messages(),
                   "two sources for offset $0002 of U7: $E002 wants 64, $E802 wants 61");
    bl_image_close(image);
}

/* ---- access time ---- */

TEST(access_time_is_what_the_clock_leaves)
{
    CHECK_INT(bl_access_left(2000000, 2, 50, 20), 430);
    CHECK_INT(bl_access_left(3072000, 5, 225, 0), 588); /* 2.5 clocks of 325.5 ns */
    CHECK_INT(bl_access_left(8000000, 3, 120, 80), -13);
}

/* The sparse image against a plain array. */
#include "harness.h"

#include <stdlib.h>
#include <string.h>

static bl_image *fresh(void)
{
    bl_image *image = NULL;
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    return image;
}

TEST(random_puts_match_a_plain_array)
{
    enum { SPACE = 400 };
    for (unsigned round = 0; round < 200; round++) {
        uint8_t bytes[SPACE] = {0};
        bool there[SPACE] = {false};
        uint32_t lines[SPACE] = {0};
        uint32_t file;
        bl_image *image = fresh();
        bl_image_file(image, (bl_text){"a.asm", 5}, &file);
        for (uint32_t step = 1; step < 60; step++) {
            uint8_t data[24];
            uint32_t at = test_below(SPACE - 24), count = test_below(24) + 1, conflict = 0;
            bool free = true;
            for (uint32_t i = 0; i < count; i++) {
                data[i] = (uint8_t)test_random();
                free = free && !there[at + i];
            }
            bl_status status = bl_image_put(image, at, data, count, (bl_origin){file, step});
            CHECK_INT(status, free ? BL_OK : BL_E_OVERLAP);
            CHECK_INT(bl_image_conflict(image, (bl_range){at, count}, &conflict), true);
            if (!free) {
                CHECK(there[conflict] && conflict >= at && conflict < at + count);
                continue;
            }
            for (uint32_t i = 0; i < count; i++)
                there[at + i] = true, bytes[at + i] = data[i], lines[at + i] = step;
        }
        uint64_t size = 0;
        for (uint32_t i = 0; i < SPACE; i++) {
            uint8_t byte = 0;
            CHECK_INT(bl_image_get(image, i, &byte), there[i]);
            if (!there[i]) continue;
            size++;
            CHECK_INT(byte, bytes[i]);
            CHECK_INT(bl_image_origin(image, i).line, lines[i]);
        }
        CHECK_INT(bl_image_size(image), size);
        bl_range some = {test_below(SPACE), test_below(SPACE) + 1};
        uint64_t within = 0;
        for (uint32_t i = some.first; i < SPACE && i < some.first + some.count; i++)
            within += there[i];
        CHECK_INT(bl_image_count(image, some), within);
        for (size_t i = 1; i < bl_image_pieces(image); i++) {
            bl_piece before = bl_image_piece(image, i - 1), p = bl_image_piece(image, i);
            CHECK(before.first + before.count < p.first); /* sorted, never touching */
        }
        bl_image_close(image);
    }
}

TEST(the_top_of_the_address_space)
{
    bl_image *image = fresh();
    CHECK_INT(bl_image_put(image, 0xFFFFFFFE, "ab", 2, (bl_origin){0, 0}), BL_OK);
    CHECK_INT(bl_image_put(image, 0xFFFFFFFF, "abc", 3, (bl_origin){0, 0}), BL_E_RANGE);
    uint8_t byte;
    CHECK(bl_image_get(image, 0xFFFFFFFF, &byte) && byte == 'b');
    CHECK_INT(bl_image_size(image), 2);
    bl_image_close(image);
}

TEST(one_line_may_make_many_bytes)
{
    enum { COUNT = 200000 };
    bl_image *image = fresh();
    uint8_t *bytes = calloc(COUNT, 1);
    uint32_t file;
    CHECK_INT(bl_image_file(image, (bl_text){"a.asm", 5}, &file), BL_OK);
    CHECK_INT(bl_image_put(image, 0x10000, bytes, COUNT, (bl_origin){file, 7}), BL_OK);
    CHECK_INT(bl_image_put(image, 0x10000 + COUNT, "x", 1, (bl_origin){file, 7}), BL_OK);
    CHECK_INT(bl_image_put(image, 0x10001 + COUNT, "y", 1, (bl_origin){file, 8}), BL_OK);
    for (uint32_t at = 0; at <= COUNT; at += 5000)
        CHECK_INT(bl_image_origin(image, 0x10000 + at).line, 7);
    CHECK_INT(bl_image_origin(image, 0x10000 + COUNT + 1).line, 8);
    CHECK_INT(bl_image_origin(image, 0x10000 + COUNT + 2).line, 0);
    free(bytes);
    bl_image_close(image);
}

TEST(copy_fills_gaps)
{
    bl_image *image = fresh();
    uint8_t b[6];
    bl_image_put(image, 10, "AB", 2, (bl_origin){0, 0});
    bl_image_put(image, 14, "C", 1, (bl_origin){0, 0});
    CHECK_INT(bl_image_copy(image, 9, 6, '.', b), 3);
    CHECK_BYTES(b, 6, ".AB..C", 6);
    bl_image_close(image);
}

TEST(merge_keeps_origins_and_refuses_overlap)
{
    bl_image *a = fresh(), *b = fresh();
    uint32_t file, conflict = 0, entry;
    bl_image_file(a, (bl_text){"one.asm", 7}, &file);
    bl_image_put(a, 100, "abc", 3, (bl_origin){file, 7});
    bl_image_file(b, (bl_text){"two.asm", 7}, &file);
    bl_image_put(b, 103, "d", 1, (bl_origin){file, 9});
    bl_image_set_entry(b, 103);
    CHECK_INT(bl_image_merge(a, b, &conflict), BL_OK);
    CHECK_INT(bl_image_pieces(a), 1);
    CHECK_TEXT(bl_image_file_name(a, bl_image_origin(a, 103).file), "two.asm");
    CHECK_INT(bl_image_origin(a, 103).line, 9);
    CHECK_INT(bl_image_origin(a, 100).line, 7);
    CHECK(bl_image_entry(a, &entry) && entry == 103);
    CHECK_INT(bl_image_merge(a, b, &conflict), BL_E_OVERLAP);
    CHECK_INT(conflict, 103);
    CHECK_INT(bl_image_size(a), 4);
    bl_image_close(a);
    bl_image_close(b);
}

TEST(every_allocation_may_fail)
{
    for (long nth = 1;; nth++) {
        bl_image *image = NULL;
        test_memory_fail_at(nth);
        bl_status status = bl_image_open(&test_memory, &image);
        uint32_t file = 0;
        if (status == BL_OK) status = bl_image_file(image, (bl_text){"x", 1}, &file);
        for (uint32_t i = 0; i < 40 && status == BL_OK; i++)
            status = bl_image_put(image, i * 7 % 40 * 3, "xyz", 3, (bl_origin){file, i});
        bl_image_close(image);
        if (!test_memory_failed()) {
            CHECK_INT(status, BL_OK);
            break;
        }
        CHECK_INT(status, BL_E_MEMORY);
    }
}

/* Thousands of pieces, put in any order, grown at either end, joined; memory that runs out now and
 * then leaves everything as it was. */
TEST(many_pieces_in_any_order)
{
    enum { SPACE = 6000 };
    static uint8_t model[SPACE];
    static bool there[SPACE];
    for (unsigned round = 0; round < 6; round++) {
        bl_image *image = fresh();
        memset(there, 0, sizeof there);
        for (unsigned k = 0; k < 12000; k++) {
            uint32_t at = round == 0   ? SPACE - 2 - k % (SPACE / 2) * 2 /* falling, with gaps */
                          : round == 1 ? SPACE - 1 - k % SPACE
                                       : test_below(SPACE);
            size_t count = round < 2 ? 1 : 1 + test_below(3);
            uint8_t bytes[3] = {(uint8_t)test_random(), (uint8_t)k, 7};
            if (at + count > SPACE) continue;
            bool taken = false;
            for (size_t i = 0; i < count; i++)
                taken |= there[at + i];
            if (round > 3 && k % 7 == 0) test_memory_fail_at(1 + (long)test_below(3));
            bl_status status = bl_image_put(image, at, bytes, count, (bl_origin){0, 0});
            bool failed = test_memory_failed();
            test_memory_fail_at(0);
            CHECK_INT(status, taken ? BL_E_OVERLAP : failed ? BL_E_MEMORY : BL_OK);
            for (size_t i = 0; i < count && status == BL_OK; i++)
                there[at + i] = true, model[at + i] = bytes[i];
        }
        size_t pieces = 0, size = 0;
        for (uint32_t at = 0; at < SPACE; at++) {
            uint8_t byte;
            CHECK_INT(bl_image_get(image, at, &byte), there[at]);
            if (there[at]) CHECK_INT(byte, model[at]);
            pieces += there[at] && (at == 0 || !there[at - 1]);
            size += there[at];
        }
        CHECK_INT(bl_image_pieces(image), pieces);
        CHECK_INT(bl_image_size(image), size);
        for (size_t i = 0; i < pieces; i++) {
            bl_piece p = bl_image_piece(image, i);
            CHECK_BYTES(p.bytes, p.count, model + p.first, p.count);
            CHECK(p.first == 0 || !there[p.first - 1]);
        }
        CHECK_INT(bl_image_piece(image, pieces).count, 0);
        bl_image_close(image);
    }
}

TEST(an_origin_ends_at_the_last_address)
{
    bl_image *image = fresh();
    uint32_t file;
    CHECK_INT(bl_image_file(image, (bl_text){"a", 1}, &file), BL_OK);
    CHECK_INT(bl_image_put(image, 0xFFFFFFFE, "\x01\x02", 2, (bl_origin){file, 9}), BL_OK);
    CHECK_INT(bl_image_put(image, 0, "\x03\x04", 2, (bl_origin){file, 9}), BL_OK);
    CHECK_INT(bl_image_origin(image, 0).line, 9);
    CHECK_INT(bl_image_origin(image, 1).line, 9);
    CHECK_INT(bl_image_origin(image, 0xFFFFFFFF).line, 9);
    CHECK_INT(bl_image_origin(image, 2).line, 0);
    bl_image_close(image);
}

/* Heads and feet around programs: made, checked, taken off; every byte of them counts. */
#include <stdlib.h>
#include <string.h>

#include "harness.h"

static const bl_wrap loader = {
    .name = "loader",
    .field = {{.kind = BL_WRAP_TEXT_FIELD, .size = 4, .text = "SKR", .pad = ' '},
              {.kind = BL_WRAP_FILE, .size = 8, .pad = ' '},
              {.kind = BL_WRAP_LOAD, .size = 2},
              {.kind = BL_WRAP_LENGTH, .size = 2, .big = true},
              {.kind = BL_WRAP_ENTRY, .size = 3},
              {.kind = BL_WRAP_LAST, .size = 2},
              {.kind = BL_WRAP_SUM8, .size = 1, .over = BL_WRAP_OVER_HEAD},
              {.kind = BL_WRAP_CRC16, .size = 2, .big = true},
              {.kind = BL_WRAP_MINUS8, .size = 1, .over = BL_WRAP_OVER_ALL},
              {.kind = BL_WRAP_NUMBER, .size = 1, .value = 0x1A}},
    .head = 7,
    .foot = 3,
};

static const bl_wrapped horn = {.bytes = (const uint8_t *)"\x01\x02\x03\x04\x05",
                                .size = 5,
                                .has_load = true,
                                .load = 0x8000,
                                .has_entry = true,
                                .entry = 0x8001,
                                .name = "horn"};

static size_t make(const bl_wrap *w, const bl_wrapped *p, uint8_t *to)
{
    uint8_t head[BL_WRAP_MOST], foot[BL_WRAP_MOST];
    CHECK_INT(bl_wrap_make(w, p, &test_sink, head, foot), BL_OK);
    size_t h = bl_wrap_head_bytes(w), f = bl_wrap_foot_bytes(w);
    memcpy(to, head, h);
    memcpy(to + h, p->bytes, p->size);
    memcpy(to + h + p->size, foot, f);
    return h + p->size + f;
}

TEST(wraps_are_as_described)
{
    uint8_t file[100];
    size_t count = make(&loader, &horn, file);
    static const uint8_t head[21] = {'S', 'K',  'R',  ' ',  'h',  'o',  'r',  'n',  ' ',  ' ', ' ',
                                     ' ', 0x00, 0x80, 0x00, 0x05, 0x01, 0x80, 0x00, 0x04, 0x80};
    CHECK_INT(count, 22 + 5 + 4);
    CHECK_BYTES(file, 21, head, 21);
    unsigned sum = 0;
    for (unsigned i = 0; i < 21; i++)
        sum += file[i];
    CHECK_INT(file[21], sum & 0xFF);
    CHECK_INT(file[27] << 8 | file[28], bl_crc16(0, horn.bytes, 5));
    sum = 0;
    for (unsigned i = 0; i < 30; i++)
        sum += file[i];
    CHECK_INT(sum & 0xFF, 0);
    CHECK_INT(file[30], 0x1A);
}

TEST(wraps_are_taken_off_and_every_changed_byte_is_noticed)
{
    uint8_t file[200];
    bl_wrapped back;
    size_t count = make(&loader, &horn, file);
    CHECK_INT(bl_wrap_take(&loader, file, (uint32_t)count, 0, &test_sink, &back), BL_OK);
    CHECK_BYTES(back.bytes, back.size, horn.bytes, horn.size);
    CHECK_TEXT(back.name, "horn");
    CHECK_INT(back.load, 0x8000);
    CHECK_INT(back.entry, 0x8001);
    for (size_t i = 0; i < count; i++) {
        file[i] ^= 0x40;
        CHECK(bl_wrap_take(&loader, file, (uint32_t)count, 0, &test_sink, &back) != BL_OK);
        file[i] ^= 0x40;
    }
    memset(file + count, 0x1A, 97);
    CHECK_INT(bl_wrap_take(&loader, file, (uint32_t)count + 97, 127, &test_sink, &back), BL_OK);
    CHECK_INT(bl_wrap_take(&loader, file, (uint32_t)count + 97, 0, &test_sink, &back), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "97 bytes follow behind what wrapper loader describes");
    CHECK_INT(bl_wrap_take(&loader, file, 10, 0, &test_sink, &back), BL_E_SYNTAX);
    CHECK_INT(bl_wrap_take(&loader, file, (uint32_t)count - 1, 0, &test_sink, &back), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "its head says that the program has 5 bytes; there are 4");
}

TEST(wraps_of_any_shape_go_round)
{
    for (unsigned turn = 0; turn < 400; turn++) {
        bl_wrap w = {.name = "any", .head = test_below(7), .foot = test_below(4)};
        static uint8_t bytes[2000], file[4000];
        bl_wrapped p = {.bytes = bytes,
                        .size = test_below(2000),
                        .has_load = true,
                        .load = 0x1000,
                        .has_entry = true,
                        .entry = 0x1234,
                        .name = "tide"};
        for (size_t i = 0; i < w.head + w.foot; i++) {
            bl_wrap_field *f = &w.field[i];
            f->kind = (bl_wrap_kind)test_below(BL_WRAP_CRC32 + 1);
            f->size = (uint8_t)(f->kind == BL_WRAP_FILE || f->kind == BL_WRAP_TEXT_FIELD
                                    ? 4 + test_below(20)
                                    : 2 + test_below(3));
            f->big = test_below(2) != 0, f->plus = (int32_t)test_below(300);
            f->over = (bl_wrap_over)test_below(3), f->pad = (uint8_t)(test_below(2) ? ' ' : 0);
            f->value = test_below(1000);
            memcpy(f->text, "MARK", 5);
            if (i >= w.head && f->over == BL_WRAP_OVER_HEAD) f->over = BL_WRAP_OVER_ALL;
        }
        for (size_t i = 0; i < p.size; i++)
            bytes[i] = (uint8_t)test_random();
        size_t count = make(&w, &p, file);
        bl_wrapped back;
        bl_status status = bl_wrap_take(&w, file, (uint32_t)count, 0, &test_sink, &back);
        /* What the head does not say cannot be made anew, and so is not checked. */
        bool told_load = false, told_entry = false, told_name = false, asks = false;
        for (size_t i = 0; i < w.head + w.foot; i++) {
            bl_wrap_kind k = w.field[i].kind;
            if (i < w.head && k == BL_WRAP_LOAD) told_load = true;
            if (i < w.head && k == BL_WRAP_ENTRY) told_entry = true;
            if (i < w.head && k == BL_WRAP_FILE) told_name = true;
        }
        for (size_t i = 0; i < w.head + w.foot; i++) {
            bl_wrap_kind k = w.field[i].kind;
            if ((k == BL_WRAP_LOAD || k == BL_WRAP_LAST || k == BL_WRAP_END) && !told_load)
                asks = true;
            if (k == BL_WRAP_ENTRY && !told_entry) asks = true;
            if (k == BL_WRAP_FILE && !told_name) asks = true;
        }
        if (asks) continue;
        CHECK_INT(status, BL_OK);
        CHECK_BYTES(back.bytes, back.size, bytes, p.size);
    }
}

TEST(wraps_that_want_what_a_program_has_not_are_refused)
{
    uint8_t head[BL_WRAP_MOST], foot[BL_WRAP_MOST];
    bl_wrapped p = horn;
    p.has_load = false;
    CHECK_INT(bl_wrap_make(&loader, &p, &test_sink, head, foot), BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "wrapper loader wants its load address, and it has none");
    p = horn, p.load = 0x12345;
    CHECK_INT(bl_wrap_make(&loader, &p, &test_sink, head, foot), BL_E_RANGE);
    CHECK_CONTAINS(test_messages(),
                   "its load address is $12345, and wrapper loader has 2 bytes for it");
}

/* Packed bytes come back, whatever they are; what was not packed does no harm. */
#include "bootlace/pack.h"

#include <stdlib.h>
#include <string.h>

#include "recording.h"

enum { MOST = 9000 };

/* Bytes of some kind: 0 chance, 1 zeros, 2 short repeats, 3 like a program, 4 a mixture. */
static void fill(uint8_t *bytes, size_t count, unsigned kind)
{
    static const uint8_t words[][4] = {{0x20, 0x12, 0xF8, 0xA9},
                                       {0x8D, 0x00, 0x80, 0x60},
                                       {0xA2, 0x00, 0xBD, 0x00},
                                       {0xC9, 0x0D, 0xD0, 0xF9}};
    for (size_t i = 0; i < count; i++) {
        unsigned use = kind == 4 ? (unsigned)(i / 700 % 4) : kind;
        if (use == 0) bytes[i] = (uint8_t)chance();
        if (use == 1) bytes[i] = 0;
        if (use == 2) bytes[i] = (uint8_t)(i % 5);
        if (use == 3)
            bytes[i] = chance() % 4 ? words[i / 4 % 8 % 4][i % 4] : (uint8_t)(chance() % 16);
    }
}

/* Packs all of it in blocks, unpacks them one after the other; returns how many bytes they are. */
static size_t there_and_back(const uint8_t *bytes, size_t count, size_t room)
{
    static uint8_t back[MOST];
    size_t packed_bytes = 0;
    for (size_t done = 0, taken, made, unpacked; done < count; done += taken) {
        uint8_t packed[256];
        CHECK_INT(
            bl_pack(&test_memory, bytes + done, done, count - done, packed, room, &taken, &made),
            BL_OK);
        CHECK(taken > 0 && made <= room);
        CHECK_INT(bl_unpack(packed, made, back + done, done, count - done, &unpacked), BL_OK);
        CHECK_INT(unpacked, taken);
        packed_bytes += made;
    }
    CHECK_BYTES(back, count, bytes, count);
    return packed_bytes;
}

TEST(packed_bytes_come_back)
{
    static uint8_t bytes[MOST];
    chance_from(21);
    for (unsigned kind = 0; kind < 5; kind++)
        for (unsigned turn = 0; turn < 12; turn++) {
            size_t count = turn == 0 ? MOST : chance() % 1500 + 1;
            fill(bytes, count, kind);
            size_t packed = there_and_back(bytes, count, turn % 3 == 0 ? 256 : 8 + chance() % 249);
            if (count < 1000) continue;
            if (kind == 1) CHECK(packed < count / 20);
            if (kind == 2) CHECK(packed < count / 10);
            if (kind == 0) CHECK(packed < count * 9 / 8 + 80);
        }
}

/* Each form once: 1 'a', 1 'b', 0 1 and 1, 1 (distance 2, two bytes), 0 0 and 1 (one more); then
 * 1s. */
TEST(the_bits_are_as_described)
{
    static const uint8_t packed[] = {0xDC, 'a', 'b', 1, 0xFF};
    uint8_t bytes[16];
    size_t made;
    CHECK_INT(bl_unpack(packed, sizeof packed, bytes, 0, sizeof bytes, &made), BL_OK);
    CHECK_BYTES(bytes, made, "ababa", 5);
    CHECK_INT(bl_unpack(packed, sizeof packed, bytes, 0, 4, &made), BL_E_RANGE);
    CHECK_INT(bl_unpack((const uint8_t[]){0x20}, 1, bytes, 0, 16, &made), BL_E_SYNTAX);
}

TEST(what_was_not_packed_does_no_harm)
{
    uint8_t room[600], packed[64];
    size_t made;
    chance_from(22);
    for (unsigned turn = 0; turn < 20000; turn++) {
        size_t count = chance() % sizeof packed, before = chance() % 100;
        for (size_t i = 0; i < count; i++)
            packed[i] = (uint8_t)chance();
        memset(room, 0x5A, sizeof room);
        bl_status status = bl_unpack(packed, count, room + 100, before, 300, &made);
        CHECK(status == BL_OK || status == BL_E_SYNTAX || status == BL_E_RANGE);
        CHECK(made <= 300);
        for (size_t i = 0; i < 100; i++)
            CHECK(room[i] == 0x5A && room[100 + made + i] == 0x5A);
    }
}

TEST(packing_without_memory_or_room)
{
    uint8_t bytes[100] = {0}, packed[256];
    size_t taken, made;
    CHECK_INT(bl_pack(&test_memory, bytes, 0, sizeof bytes, packed, 7, &taken, &made), BL_E_RANGE);
    CHECK_INT(bl_pack(&test_memory, bytes, 0, sizeof bytes, packed, 257, &taken, &made),
              BL_E_RANGE);
    test_memory_fail_at(1);
    CHECK_INT(bl_pack(&test_memory, bytes, 0, sizeof bytes, packed, 256, &taken, &made),
              BL_E_MEMORY);
    CHECK(taken == 0 && made == 0);
    CHECK_INT(bl_pack(&test_memory, bytes, 0, 0, packed, 256, &taken, &made), BL_OK);
    CHECK(taken == 0 && made == 0);
}

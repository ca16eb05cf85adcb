/* The small printf against the C library's, checksums, messages. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

#define SAME(...)                                                                                  \
    do {                                                                                           \
        char mine[128], theirs[128];                                                               \
        size_t n = bl_format(mine, sizeof mine, __VA_ARGS__);                                      \
        CHECK_INT(n, snprintf(theirs, sizeof theirs, __VA_ARGS__));                                \
        CHECK_TEXT(mine, theirs);                                                                  \
    } while (0)

TEST(formats_like_the_c_library)
{
    SAME("plain");
    SAME("%d %u %x %X", -5, 5u, 0xBEEFu, 0xBEEFu);
    SAME("%ld %lu %lx %lld %llu", -5L, 5UL, 0xBEEFUL, -1LL, ~0ULL);
    SAME("%04X|%4d|%02x", 0xABCu, -7, 0xFu);
    SAME("%s|%10s|%.*s|%.2s", "abc", "right", 3, "cutoff", "xyz");
    SAME("%c%c%%", 'a', 'z');
    SAME("%0*X", 6, 0x12u);
    SAME("%*s", 5, "ab");
    SAME("%d %lld", -2147483647 - 1, -9223372036854775807LL - 1);
}

TEST(a_long_text_is_cut_and_counted)
{
    char small[5];
    CHECK_INT(bl_format(small, sizeof small, "%s", "abcdefgh"), 8);
    CHECK_TEXT(small, "abcd");
    CHECK_INT(bl_format(NULL, 0, "%d", 1234), 4);
}

TEST(addresses_in_both_radices)
{
    char b[16];
    CHECK_TEXT(bl_address_text(b, 0xC0, 16, BL_HEX), "$00C0");
    CHECK_TEXT(bl_address_text(b, 0x12345, 24, BL_HEX), "$012345");
    CHECK_TEXT(bl_address_text(b, 0xFFFF, 16, BL_OCTAL), "0o177777");
    CHECK_TEXT(bl_address_text(b, 8, 12, BL_OCTAL), "0o0010");
}

TEST(crc32_is_the_ethernet_one)
{
    CHECK_INT(bl_crc32(0, "123456789", 9), 0xCBF43926);
    CHECK_INT(bl_crc32(0, "", 0), 0);
    CHECK_INT(bl_crc32(bl_crc32(0, "12345", 5), "6789", 4), 0xCBF43926);
}

/* Bit by bit, from the polynomial. */
static uint16_t slow_crc16(uint16_t crc, uint8_t byte)
{
    crc = (uint16_t)(crc ^ byte << 8);
    for (unsigned i = 0; i < 8; i++)
        crc = (uint16_t)((crc & 0x8000) != 0 ? crc << 1 ^ 0x1021 : crc << 1);
    return crc;
}

TEST(crc16_and_sum16)
{
    CHECK_INT(bl_crc16(0, "123456789", 9), 0x31C3);
    CHECK_INT(bl_crc16(bl_crc16(0, "1234", 4), "56789", 5), 0x31C3);
    uint16_t crc = 0, slow = 0, sum = 0;
    uint32_t whole = 0;
    for (unsigned i = 0; i < 5000; i++) {
        uint8_t byte = (uint8_t)test_random();
        crc = bl_crc16(crc, &byte, 1);
        slow = slow_crc16(slow, byte);
        CHECK_INT(crc, slow);
        sum = bl_sum16(sum, &byte, 1);
        whole += byte;
    }
    CHECK_INT(sum, whole & 0xFFFF);
}

/* Bit by bit, from the polynomial. */
static uint16_t slow_fcs(uint16_t fcs, uint8_t byte)
{
    fcs ^= byte;
    for (int i = 0; i < 8; i++)
        fcs = (uint16_t)(fcs & 1 ? fcs >> 1 ^ 0x8408 : fcs >> 1);
    return fcs;
}

TEST(fcs16_is_that_of_rfc_1662)
{
    for (unsigned fcs = 0; fcs < 0x10000; fcs += 97)
        for (unsigned byte = 0; byte < 256; byte++)
            CHECK_INT(bl_fcs16((uint16_t)fcs, (uint8_t)byte),
                      slow_fcs((uint16_t)fcs, (uint8_t)byte));
    uint16_t fcs = BL_FCS16_START;
    const char *text = "Skerry";
    for (size_t i = 0; i < 6; i++)
        fcs = bl_fcs16(fcs, (uint8_t)text[i]);
    uint16_t sent = (uint16_t)~fcs;
    fcs = bl_fcs16(bl_fcs16(fcs, (uint8_t)sent), (uint8_t)(sent >> 8));
    CHECK_INT(fcs, BL_FCS16_GOOD);
}

static unsigned distance(const char *a, const char *b)
{
    return bl_name_distance((bl_text){a, strlen(a)}, (bl_text){b, strlen(b)}, 9);
}

TEST(name_distances)
{
    CHECK_INT(distance("flash", "flash"), 0);
    CHECK_INT(distance("flash", "FLASH"), 0);
    CHECK_INT(distance("flsh", "flash"), 1);
    CHECK_INT(distance("flahs", "flash"), 1);
    CHECK_INT(distance("flashes", "flash"), 2);
    CHECK_INT(distance("x", "flash"), 5);
    CHECK_INT(bl_name_distance((bl_text){"abc", 3}, (bl_text){"abcdefgh", 8}, 2), 3);
    for (unsigned i = 0; i < 2000; i++) {
        char a[6], b[6];
        for (size_t k = 0; k < 5; k++)
            a[k] = (char)('a' + test_below(3)), b[k] = (char)('a' + test_below(3));
        a[test_below(6)] = '\0', b[test_below(6)] = '\0', a[5] = b[5] = '\0';
        CHECK_INT(distance(a, b), distance(b, a));
        CHECK((distance(a, b) == 0) == (strcmp(a, b) == 0));
    }
}

TEST(a_message_marks_the_exact_place)
{
    bl_diag d = {BL_ERROR,
                 "lamp.asm",
                 12,
                 14,
                 4,
                 {"        lda #flsh", 17},
                 "undefined name 'flsh'",
                 "did you mean 'flash'?"};
    bl_diag_render(&d, &test_writer, false);
    CHECK_TEXT(test_written(NULL), "lamp.asm:12:14: error: undefined name 'flsh'\n"
                                   "            lda #flsh\n"
                                   "                 ~~~~\n"
                                   "    -> did you mean 'flash'?\n");
}

TEST(a_message_far_right_in_a_long_line_stays_in_sight)
{
    static char line[5000];
    memset(line, 'x', sizeof line);
    memcpy(line + 4000, "HERE", 4);
    bl_diag d = {BL_WARNING, "a", 1, 4001, 4, {line, sizeof line}, "m", NULL};
    bl_diag_render(&d, &test_writer, false);
    CHECK_CONTAINS(test_written(NULL), "HERE");
    CHECK(strlen(test_written(NULL)) < 300);
    const char *mark = strstr(test_written(NULL), "~~~~"),
               *here = strstr(test_written(NULL), "HERE");
    const char *second = strchr(here, '\n') + 1, *first = strchr(test_written(NULL), '\n') + 1;
    CHECK_INT(mark - second, here - first);
}

TEST(control_characters_do_not_reach_the_terminal)
{
    bl_diag d = {BL_ERROR, "a", 1, 1, 1, {"\x1b[2Jabc", 7}, "m", NULL};
    bl_diag_render(&d, &test_writer, false);
    CHECK_NOT_CONTAINS(test_written(NULL), "\x1b");
}

TEST(marks_stand_under_characters_not_bytes)
{
    bl_diag d = {BL_ERROR, "k", 1, 12, 3, {"\xC3\xA9\xE2\x82\xAC\xFF: \t ab XYZ", 16}, "m", NULL};
    d.column = 14;
    bl_diag_render(&d, &test_writer, false);
    CHECK_CONTAINS(test_written(NULL), "    \xC3\xA9\xE2\x82\xAC?:   ab XYZ\n              ~~~\n");
}

TEST(every_status_has_a_text)
{
    for (int s = BL_E_BUSY; s <= BL_OK; s++)
        CHECK(strcmp(bl_status_text((bl_status)s), "unknown status") != 0);
    CHECK_TEXT(bl_status_text((bl_status)-99), "unknown status");
}

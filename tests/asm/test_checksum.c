/* A program that carries its own checksum and version. */
#include "asm_support.h"

#include <string.h>

#include "bootlace/crc.h"

static bl_program *build(const char *cpu, const char *source, const char *version)
{
    bl_sheet *sheet = NULL;
    bl_program *p = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){cpu, strlen(cpu)}, &test_sink, &sheet), BL_OK);
    bl_asm_options o = {
        .memory = test_memory, .sheet = sheet, .sink = &test_sink, .version = version};
    test_messages_clear();
    bl_assemble_text(&o, "c", (bl_text){source, strlen(source)}, &p);
    bl_sheet_close(sheet);
    return p;
}

static void check_bytes(bl_program *p, uint32_t at, const void *bytes, size_t count)
{
    uint8_t found[64];
    CHECK_INT(bl_image_copy(bl_program_image(p), at, count, 0, found), count);
    CHECK_BYTES(found, count, bytes, count);
}
#define check_bytes(...) TEST_CALL(check_bytes(__VA_ARGS__))

TEST(checksums_of_what_is_placed)
{
    static const char source[] = " .org $100\nfirst: .byte \"123456789\"\nlast = here - 1\n"
                                 " .checksum sum16, first, last\n .checksum crc16, first, last\n"
                                 " .checksum crc32, first, last\n .byte $77\n";
    uint16_t sum = bl_sum16(0, (const uint8_t *)"123456789", 9);
    uint16_t crc = bl_crc16(0, (const uint8_t *)"123456789", 9);
    uint8_t little[] = {(uint8_t)sum, (uint8_t)(sum >> 8),
                        (uint8_t)crc, (uint8_t)(crc >> 8),
                        0x26,         0x39,
                        0xF4,         0xCB,
                        0x77};
    uint8_t big[] = {(uint8_t)(sum >> 8),
                     (uint8_t)sum,
                     (uint8_t)(crc >> 8),
                     (uint8_t)crc,
                     0xCB,
                     0xF4,
                     0x39,
                     0x26,
                     0x77};
    bl_program *p = build("6502", source, NULL);
    CHECK_INT(test_error_count(), 0);
    check_bytes(p, 0x109, little, sizeof little);
    bl_program_close(p);
    p = build("6809", source, NULL);
    check_bytes(p, 0x109, big, sizeof big);
    bl_program_close(p);
}

/* A checksum before what it is of, code that changes size, and a gap that counts as blank. */
TEST(a_checksum_stands_anywhere)
{
    bl_program *p = build("6502",
                          "start = $1000\n .org $1000 - 2\n .checksum sum16, start, stop\n"
                          " .org start\n lda later\n .org start + 6\nstop: .byte 5\nlater = 3\n",
                          NULL);
    CHECK_INT(test_error_count(), 0);
    check_bytes(p, 0x1000, "\xA5\x03", 2);
    uint16_t sum = (uint16_t)(0xA5 + 3 + 4 * 0xFF + 5);
    uint8_t bytes[] = {(uint8_t)sum, (uint8_t)(sum >> 8)};
    check_bytes(p, 0xFFE, bytes, 2);
    bl_program_close(p);
}

static void reject(const char *cpu, const char *source, const char *said)
{
    bl_program_close(build(cpu, source, NULL));
    CHECK_CONTAINS(test_messages(), said);
}

TEST(checksums_that_cannot_be)
{
    reject("6502", "at: .checksum sum16, at, at + 9\n", "cannot lie in its own range");
    reject("6502", " .checksum sum16, 9, 5\n", "ends before it begins");
    reject("6502", " .checksum sum17, 1, 2\n", "sum16, crc16 or crc32 is expected");
    reject("6502", " .checksum crc32, 1\n", "the last address is missing");
    reject("6502", " .checksum crc32, here - 5, there\n", "undefined name 'there'");
    reject("6502", " .checksum crc32, 0 - 5, 1\n", "this is no address");
    reject("gannet", " .checksum crc32, 0, 1\n", "checksums are of bytes");
    reject("6502", " .org $200\n .byte 1\n .org $200\n .checksum sum16, 0, 1\n", "filled twice");
}

TEST(the_version_is_a_text)
{
    bl_program *p = build("6502", " .org 0\n .text \"v\", board.version counted\n", "1.7b");
    check_bytes(p, 0, "\x05v1.7b", 6);
    bl_program_close(p);
    reject("6502", " .text board.version\n", "board.version");
}

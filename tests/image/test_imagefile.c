/* HEX, S-record and binary: round trips, the standards' corners, and exact complaints. */
#include "harness.h"

#include <string.h>

static bl_image *fresh(void)
{
    bl_image *image = NULL;
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    return image;
}

static bl_status read_text(bl_filetype type, const char *text, bl_image **image)
{
    test_messages_clear();
    *image = fresh();
    return bl_imagefile_read(type, "f", text, strlen(text), 0, *image, &test_sink);
}

static void expect_bytes(const bl_image *image, uint32_t at, const void *bytes, size_t count)
{
    uint8_t found[64];
    CHECK_INT(bl_image_copy(image, at, count, 0, found), count);
    CHECK_BYTES(found, count, bytes, count);
}
#define expect_bytes(...) TEST_CALL(expect_bytes(__VA_ARGS__))

/* A malformed file: status, and what must be said. */
static void refuse(bl_filetype type, const char *text, bl_status status, const char *said)
{
    bl_image *image;
    CHECK_INT(read_text(type, text, &image), status);
    CHECK_CONTAINS(test_messages(), said);
    bl_image_close(image);
}
#define refuse(...) TEST_CALL(refuse(__VA_ARGS__))

TEST(hex_reads_every_record_type)
{
    bl_image *image;
    uint32_t entry;
    CHECK_INT(read_text(BL_FILE_HEX,
                        ":0300300002337A1E\r\n:020000021200EA\n:02000000AABB99\n:020000040001F9\n:"
                        "01FFFF00CC35\n"
                        ":0400000500012345"
                        "8E\n:00000001FF\n",
                        &image),
              BL_OK);
    expect_bytes(image, 0x30, "\x02\x33\x7A", 3);
    expect_bytes(image, 0x12000, "\xAA\xBB", 2);
    expect_bytes(image, 0x1FFFF, "\xCC", 1);
    CHECK(bl_image_entry(image, &entry) && entry == 0x12345);
    CHECK_INT(bl_image_origin(image, 0x12001).line, 3);
    bl_image_close(image);
    CHECK_INT(read_text(BL_FILE_HEX, ":0400000312340008AB\n:00000001ff\n\n", &image), BL_OK);
    CHECK(bl_image_entry(image, &entry) && entry == 0x12348);
    bl_image_close(image);
}

TEST(hex_addresses_wrap_as_the_specification_says)
{
    bl_image *image;
    /* in a segment, at 64 KiB; linear, at 4 GiB */
    CHECK_INT(read_text(BL_FILE_HEX, ":020000021000EC\n:02FFFF00AABB9B\n:00000001FF\n", &image),
              BL_OK);
    expect_bytes(image, 0x1FFFF, "\xAA", 1);
    expect_bytes(image, 0x10000, "\xBB", 1);
    bl_image_close(image);
    CHECK_INT(read_text(BL_FILE_HEX, ":02000004FFFFFC\n:02FFFF00AABB9B\n:00000001FF\n", &image),
              BL_OK);
    expect_bytes(image, 0xFFFFFFFF, "\xAA", 1);
    expect_bytes(image, 0, "\xBB", 1);
    bl_image_close(image);
}

TEST(hex_complains_exactly)
{
    refuse(BL_FILE_HEX, ":0300300002337A1F\n:00000001FF\n", BL_E_CHECKSUM,
           "f:1:16: error: checksum is 1F, the bytes give 1E");
    refuse(BL_FILE_HEX, ":00000001FF\n:00000001FF\n", BL_E_SYNTAX,
           "f:2: error: record after the end record");
    refuse(BL_FILE_HEX, ":0300300002337A1E\n", BL_E_SYNTAX, "no end record");
    refuse(BL_FILE_HEX, "", BL_E_SYNTAX, "no end record");
    refuse(BL_FILE_HEX, ":0400300002337A1E\n:00000001FF\n", BL_E_SYNTAX,
           "announces 4 data bytes and has 3");
    refuse(BL_FILE_HEX, ":03003000G2337A1E\n:00000001FF\n", BL_E_SYNTAX,
           "f:1:10: error: not a hexadecimal digit");
    refuse(BL_FILE_HEX, ":0300300002337A1\n:00000001FF\n", BL_E_SYNTAX, "a byte needs two digits");
    refuse(BL_FILE_HEX, "hello\n:00000001FF\n", BL_E_SYNTAX, "a record begins with ':'");
    refuse(BL_FILE_HEX, ":\n:00000001FF\n", BL_E_SYNTAX, "announces");
    refuse(BL_FILE_HEX, ":00000006FA\n:00000001FF\n", BL_E_SYNTAX, "record type 06");
    refuse(BL_FILE_HEX, ":0100000400FB\n:00000001FF\n", BL_E_SYNTAX,
           "type 04 has 2 data bytes, not 1");
    refuse(BL_FILE_HEX,
           ":01001000AA45\n:0200"
           "0F00BBCC68\n:00000001FF\n",
           BL_E_OVERLAP, "f:2: error: address $0010 already has a byte, from line 1");
}

TEST(all_faults_of_a_file_are_told)
{
    refuse(BL_FILE_HEX, ":0300300002337A1F\nx\n:00000001FF\n", BL_E_CHECKSUM, "f:2:1: error");
    CHECK_INT(test_error_count(), 2);
}

TEST(srec_reads_every_width)
{
    bl_image *image;
    uint32_t entry;
    CHECK_INT(read_text(BL_FILE_SREC,
                        "S00600004844521B\r\nS1051000AABB85\nS206012345AABB"
                        "2B\nS30712345678AABB"
                        "7F\n"
                        "S5030003F9\nS70512345678E6\n",
                        &image),
              BL_OK);
    expect_bytes(image, 0x1000, "\xAA\xBB", 2);
    expect_bytes(image, 0x12345, "\xAA\xBB", 2);
    expect_bytes(image, 0x12345678, "\xAA\xBB", 2);
    CHECK(bl_image_entry(image, &entry) && entry == 0x12345678);
    bl_image_close(image);
    CHECK_INT(read_text(BL_FILE_SREC, "s1041000aa41\ns9030000fc\n", &image), BL_OK);
    CHECK(!bl_image_entry(image, &entry)); /* 0 stands for none */
    bl_image_close(image);
    CHECK_INT(read_text(BL_FILE_SREC, "S1041000AA41\nS604000001FA\nS804001000EB\n", &image), BL_OK);
    bl_image_close(image);
}

TEST(srec_complains_exactly)
{
    refuse(BL_FILE_SREC, "S1041000AA42\nS9030000FC\n", BL_E_CHECKSUM,
           "f:1:11: error: checksum is 42, the bytes give 41");
    refuse(BL_FILE_SREC, "S1041000AA41\n", BL_E_SYNTAX, "no end record");
    refuse(BL_FILE_SREC, "S1051000AA41\nS9030000FC\n", BL_E_SYNTAX, "announces 5 bytes and has 4");
    refuse(BL_FILE_SREC, "S4041000AA41\nS9030000FC\n", BL_E_SYNTAX, "S4 is reserved");
    refuse(BL_FILE_SREC, "S1041000AA41\nS5030002FA\nS9030000FC\n", BL_E_SYNTAX,
           "says 2 data records, the file has 1");
    refuse(BL_FILE_SREC, "S9030000FC\nS1041000AA41\n", BL_E_SYNTAX, "record after the end record");
    refuse(BL_FILE_SREC, "T1041000AA41\nS9030000FC\n", BL_E_SYNTAX,
           "a record begins with S0 to S9");
    refuse(BL_FILE_SREC, "S1\nS9030000FC\n", BL_E_SYNTAX, "announces");
    refuse(BL_FILE_SREC, "S1041000AA41\nS1041000BB30\nS9030000FC\n", BL_E_OVERLAP,
           "f:2: error: address $1000 already");
}

static bl_image *random_image(uint32_t space)
{
    bl_image *image = fresh();
    for (unsigned i = 0; i < 12; i++) {
        uint8_t data[200];
        size_t count = test_below(200) + 1;
        uint32_t at = test_below(space);
        for (size_t k = 0; k < count; k++)
            data[k] = (uint8_t)test_random();
        bl_image_put(image, at, data, count, (bl_origin){0, 0});
    }
    bl_image_set_entry(image, 1 + test_below(space - 1));
    return image;
}

static void same_images(const bl_image *a, const bl_image *b)
{
    CHECK_INT(bl_image_pieces(b), bl_image_pieces(a));
    for (size_t i = 0; i < bl_image_pieces(a); i++) {
        bl_piece p = bl_image_piece(a, i), q = bl_image_piece(b, i);
        CHECK_INT(q.first, p.first);
        CHECK_BYTES(q.bytes, q.count, p.bytes, p.count);
    }
    uint32_t x = 0, y = 0;
    CHECK(bl_image_entry(a, &x) && bl_image_entry(b, &y) && x == y);
}

TEST(round_trips)
{
    static const uint32_t spaces[] = {0x1000, 0xFF00, 0x20000, 0xFFFF00, 0xFFFFFF00};
    static const bl_filetype types[] = {BL_FILE_HEX, BL_FILE_SREC};
    for (unsigned i = 0; i < 200; i++) {
        bl_image *a = random_image(spaces[i % 5]), *b = fresh();
        test_written_clear();
        CHECK_INT(bl_imagefile_write(types[i % 2], a, 0, "skerry", &test_writer), BL_OK);
        size_t count;
        const char *text = test_written(&count);
        CHECK_INT(bl_imagefile_read(types[i % 2], "f", text, count, 0, b, &test_sink), BL_OK);
        same_images(a, b);
        bl_image_close(a);
        bl_image_close(b);
    }
}

TEST(one_wrong_character_never_passes)
{
    bl_image *a = random_image(0x3000);
    CHECK_INT(bl_imagefile_write(BL_FILE_HEX, a, 0, NULL, &test_writer), BL_OK);
    size_t count;
    char *text = (char *)(uintptr_t)test_written(&count);
    for (unsigned i = 0; i < 2000; i++) {
        size_t at = test_below((uint32_t)count);
        char was = text[at];
        if (was == '\n' || was == ':') continue;
        text[at] = "0123456789ABCDEF"[test_below(16)];
        bl_image *b = fresh();
        bl_status status = bl_imagefile_read(BL_FILE_HEX, "f", text, count, 0, b, NULL);
        CHECK((status == BL_OK) == (text[at] == was));
        bl_image_close(b);
        text[at] = was;
    }
    bl_image_close(a);
}

TEST(binary_fills_gaps_and_knows_its_place)
{
    bl_image *a = fresh(), *b = fresh();
    bl_image_put(a, 0x100, "AB", 2, (bl_origin){0, 0});
    bl_image_put(a, 0x104, "C", 1, (bl_origin){0, 0});
    bl_imagefile_write(BL_FILE_BIN, a, 0xEE, NULL, &test_writer);
    size_t count;
    const char *bytes = test_written(&count);
    CHECK_BYTES(bytes, count,
                "AB\xEE\xEE"
                "C",
                5);
    CHECK_INT(bl_imagefile_read(BL_FILE_BIN, "f", bytes, count, 0x200, b, NULL), BL_OK);
    CHECK_INT(bl_image_piece(b, 0).first, 0x200);
    CHECK_INT(bl_imagefile_read(BL_FILE_BIN, "f", bytes, count, 0xFFFFFFFE, b, &test_sink),
              BL_E_RANGE);
    bl_image_put(a, 0xF0000000, "x", 1, (bl_origin){0, 0});
    CHECK_INT(bl_imagefile_write(BL_FILE_BIN, a, 0, NULL, &test_writer), BL_E_RANGE);
    bl_image_close(a);
    bl_image_close(b);
}

TEST(endings_name_formats)
{
    CHECK_INT(bl_filetype_of((bl_text){"a/b.HEX", 7}), BL_FILE_HEX);
    CHECK_INT(bl_filetype_of((bl_text){"x.s19", 5}), BL_FILE_SREC);
    CHECK_INT(bl_filetype_of((bl_text){"x.bin", 5}), BL_FILE_BIN);
    CHECK_INT(bl_filetype_of((bl_text){"hex", 3}), BL_FILE_UNKNOWN);
    CHECK_INT(bl_filetype_of((bl_text){"a.hex/b", 7}), BL_FILE_UNKNOWN);
    CHECK_INT(bl_filetype_named((bl_text){"srec", 4}), BL_FILE_SREC);
    CHECK_INT(bl_filetype_named((bl_text){"elf", 3}), BL_FILE_UNKNOWN);
}

TEST(what_is_written_is_exactly_the_standard)
{
    bl_image *a = fresh();
    bl_image_put(a, 0xFFFE, "\x01\x02\x03", 3, (bl_origin){0, 0});
    bl_image_set_entry(a, 0x10000);
    bl_imagefile_write(BL_FILE_HEX, a, 0, NULL, &test_writer);
    CHECK_TEXT(
        test_written(NULL),
        ":02FFFE000102FE\n:020000040001F9\n:0100000003FC\n:0400000500010000F6\n:00000001FF\n");
    test_written_clear();
    bl_imagefile_write(BL_FILE_SREC, a, 0, "U5", &test_writer);
    CHECK_TEXT(test_written(NULL), "S0050000553570"
                                   "\n"
                                   "S20700FFFE010203F5\nS5030001FB\nS804010000FA\n");
    bl_image_close(a);
}

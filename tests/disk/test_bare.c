/* The disk of ours for bare machines: as docs/disk.md describes it, byte by byte; what it promises
 * when the power fails. */
#include <string.h>

#include "medium.h"

static void bare_begin(medium *m, uint32_t count)
{
    medium_begin(m, count, 512);
    CHECK_INT(bl_bare_format(&m->sectors, "SKERRY", 0), BL_OK);
}

static const bl_disk_file program = {.bytes = (const uint8_t *)"\xA9\x01\x60",
                                     .size = 3,
                                     .has_load = true,
                                     .load = 0x0300,
                                     .has_entry = true,
                                     .entry = 0x0301,
                                     .starts = true};

TEST(bare_disks_are_as_described)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    bare_begin(&m, 100);
    medium_open(&m, &d, true);
    CHECK_INT(bl_disk_kind_of(&d), BL_DISK_BARE);
    CHECK_INT(bl_disk_put(&d, "lamp", &program, &e), BL_OK);
    CHECK(e.starts && e.has_entry);
    CHECK_INT(e.entry, 0x0301);
    static const uint8_t head[14] = {'B', 'A', 'R', 'E', 'D', 'I', 'S', 'K', 1, 1, 100, 0, 1, 0};
    CHECK_BYTES(m.bytes, 14, head, 14);
    CHECK_BYTES(m.bytes + 16, 7, "SKERRY", 7);
    /* a: 1 + $A9 + $01 + $60 = $10B, b: $AA + $AB + $10B = $260 */
    static const uint8_t entry[32] = {'l', 'a', 'm', 'p', 0, 0, 0, 0, 0, 0, 0, 0, 0,    0,    0, 0,
                                      1,   0,   3,   0,   0, 3, 0, 3, 0, 1, 3, 0, 0x0B, 0x60, 0, 0};
    CHECK_BYTES(m.bytes + 32, 32, entry, 32);
    unsigned a = 1, b = 0;
    for (unsigned i = 0; i < 512; i++) {
        a = (a + (i == 14 || i == 15 ? 0 : m.bytes[i])) & 0xFF;
        b = (b + a) & 0xFF;
    }
    CHECK_INT(m.bytes[14], a);
    CHECK_INT(m.bytes[15], b);
    CHECK_BYTES(m.bytes + 512, 3, "\xA9\x01\x60", 3);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(bare_files_come_back_and_fill_all_places)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    bl_disk_space s;
    static uint8_t bytes[20000];
    bare_begin(&m, 200);
    medium_open(&m, &d, true);
    for (unsigned i = 0; i < 15; i++) {
        char name[20];
        bl_format(name, sizeof name, "file-%u", i);
        medium_fill(bytes, i * 400, i);
        CHECK_INT(medium_put(&d, name, bytes, i * 400), BL_OK);
    }
    CHECK_INT(medium_put(&d, "one-more", "x", 1), BL_E_FULL);
    CHECK_CONTAINS(test_messages(), "the directory has its 15 files already");
    CHECK_INT(bl_disk_delete(&d, "FILE-3", false), BL_OK);
    CHECK_INT(bl_disk_delete(&d, "file-5", false), BL_OK);
    CHECK_INT(bl_disk_rename(&d, "file-4", "buoy"), BL_OK);
    CHECK_INT(bl_disk_rename(&d, "file-6", "BUOY"), BL_E_EXISTS);
    CHECK_INT(bl_disk_rename(&d, "file-6", "a name"), BL_E_SYNTAX);
    bl_disk_close(&d);
    medium_open(&m, &d, true);
    for (unsigned i = 0; i < 15; i++) {
        char name[20];
        if (i == 3 || i == 5) continue;
        bl_format(name, sizeof name, i == 4 ? "buoy" : "file-%u", i);
        medium_fill(bytes, i * 400, i);
        medium_same(&d, name, bytes, i * 400);
    }
    CHECK_INT(medium_check(&d, false, &r), BL_OK);
    CHECK_INT(r.files, 13);
    CHECK_INT(bl_disk_space_of(&d, &s), BL_OK);
    CHECK_INT(s.entries_free, 2);
    CHECK_INT(bl_disk_folder(&d, "x"), BL_E_UNSUPPORTED);
    bl_disk_close(&d);
    medium_end(&m);
}

/* Room in pieces: an image is put in order, a live disk is not touched. */
TEST(bare_room_in_pieces_is_put_together_unless_the_disk_is_live)
{
    for (unsigned live = 0; live < 2; live++) {
        medium m;
        bl_disk d;
        bl_disk_report r = {0};
        static uint8_t bytes[5000], other[1500];
        bare_begin(&m, 17);
        medium_open(&m, &d, live != 0);
        medium_fill(other, sizeof other, 6);
        medium_fill(bytes, sizeof bytes, 7);
        for (unsigned i = 0; i < 5; i++)
            CHECK_INT(medium_put(&d,
                                 i == 0   ? "a"
                                 : i == 1 ? "b"
                                 : i == 2 ? "c"
                                 : i == 3 ? "d"
                                          : "e",
                                 other, sizeof other),
                      BL_OK);
        bl_disk_delete(&d, "a", false);
        bl_disk_delete(&d, "c", false);
        bl_disk_delete(&d, "e", false);
        bl_status status = medium_put(&d, "big", bytes, sizeof bytes); /* 10 of 10 sectors */
        CHECK_INT(status, live ? BL_E_FULL : BL_OK);
        if (live) CHECK_CONTAINS(test_messages(), "10 are free, at most 4 together");
        medium_same(&d, "b", other, sizeof other);
        medium_same(&d, "d", other, sizeof other);
        if (!live) medium_same(&d, "big", bytes, sizeof bytes);
        CHECK_INT(medium_check(&d, false, &r), BL_OK);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

TEST(bare_power_cuts_leave_old_or_new)
{
    static uint8_t old_bytes[3000], new_bytes[4000];
    medium_fill(old_bytes, sizeof old_bytes, 1);
    medium_fill(new_bytes, sizeof new_bytes, 2);
    for (uint32_t cut = 0;; cut++) {
        medium m;
        bl_disk d;
        bl_disk_report r = {0};
        bare_begin(&m, 60);
        medium_open(&m, &d, true);
        CHECK_INT(medium_put(&d, "lamp", old_bytes, sizeof old_bytes), BL_OK);
        CHECK_INT(medium_put(&d, "other", old_bytes, 10), BL_OK);
        m.cut_after = m.writes + cut;
        bl_status status = medium_put(&d, "lamp", new_bytes, sizeof new_bytes);
        bl_disk_close(&d);
        m.cut_after = UINT32_MAX;
        medium_open(&m, &d, true);
        CHECK_INT(medium_check(&d, false, &r), BL_OK);
        medium_same(&d, "other", old_bytes, 10);
        unsigned which =
            medium_either(&d, "lamp", old_bytes, sizeof old_bytes, new_bytes, sizeof new_bytes);
        if (status == BL_OK) CHECK_INT(which, 1);
        bl_disk_close(&d);
        medium_end(&m);
        if (status == BL_OK) break;
    }
}

TEST(bare_bytes_that_change_are_noticed)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    static uint8_t bytes[1000];
    bare_begin(&m, 60);
    medium_open(&m, &d, true);
    CHECK_INT(medium_put(&d, "lamp", bytes, sizeof bytes), BL_OK);
    m.bytes[512 + 700] ^= 1;
    bl_writer writer = test_writer;
    CHECK_INT(bl_disk_get(&d, "lamp", &writer), BL_E_CHECKSUM);
    CHECK_INT(medium_check(&d, true, &r), BL_E_DAMAGED);
    CHECK_CONTAINS(test_messages(), "lamp: its check is not right");
    m.bytes[512 + 700] ^= 1;
    bl_disk_close(&d);
    /* The directory itself: nothing is written to it until it is repaired. */
    m.bytes[20] ^= 1;
    medium_open(&m, &d, true);
    CHECK_INT(medium_put(&d, "new", bytes, 10), BL_E_DAMAGED);
    CHECK_INT(medium_check(&d, false, &r), BL_E_DAMAGED);
    CHECK_INT(medium_check(&d, true, &r), BL_OK);
    CHECK_INT(medium_put(&d, "new", bytes, 10), BL_OK);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(bare_what_starts_must_be_a_program)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    bl_disk_file no_entry = program;
    no_entry.has_entry = false;
    bare_begin(&m, 60);
    medium_open(&m, &d, true);
    CHECK_INT(bl_disk_put(&d, "a", &no_entry, NULL), BL_E_REFUSED);
    CHECK_CONTAINS(test_messages(), "it cannot start at power-up");
    no_entry.starts = false;
    CHECK_INT(bl_disk_put(&d, "a", &no_entry, NULL), BL_OK);
    CHECK_INT(bl_bare_start(&d, "a"), BL_E_REFUSED);
    CHECK_INT(bl_disk_put(&d, "b", &program, NULL), BL_OK);
    CHECK_INT(bl_bare_start(&d, NULL), BL_OK);
    CHECK_INT(bl_disk_find(&d, "b", &e), BL_OK);
    CHECK(!e.starts);
    CHECK_INT(bl_bare_start(&d, "b"), BL_OK);
    CHECK_INT(bl_disk_delete(&d, "b", false), BL_OK);
    CHECK_INT(m.bytes[9], 0);
    CHECK_INT(medium_put(&d, "a-name-of-17-char", "x", 1), BL_E_SYNTAX);
    bl_disk_close(&d);
    medium_end(&m);
}

/* After a write that failed the disk that is open is what is on the medium. */
TEST(bare_failures_leave_what_is_on_the_disk)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    bare_begin(&m, 60);
    medium_open(&m, &d, true);
    CHECK_INT(bl_disk_put(&d, "lamp", &program, NULL), BL_OK);
    m.cut_after = m.writes;
    CHECK_INT(bl_disk_delete(&d, "lamp", false), BL_E_NOT_READY);
    CHECK_INT(bl_disk_rename(&d, "lamp", "horn"), BL_E_NOT_READY);
    CHECK_INT(bl_bare_start(&d, NULL), BL_E_NOT_READY);
    CHECK_INT(medium_put(&d, "lamp", "x", 1), BL_E_NOT_READY);
    m.cut_after = UINT32_MAX;
    CHECK_INT(medium_put(&d, "other", "x", 1), BL_OK);
    bl_disk_close(&d);
    medium_open(&m, &d, true);
    CHECK(bl_disk_has(&d, "lamp", &e) && e.starts && e.size == 3);
    CHECK(!bl_disk_has(&d, "horn", &e));
    bl_disk_close(&d);
    medium_end(&m);
}

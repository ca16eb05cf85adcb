/* The classic layout: every shipped layout, extents, exact lengths, user areas, skew, and power
 * cuts. What is on the disk is looked at byte by byte here, as the layout's description says. */
#include <stdlib.h>
#include <string.h>

#include "medium.h"

static void open_as(medium *m, bl_disk *d, const bl_classic *l, bool live)
{
    bl_disk_setup setup = {
        .sink = test_sink, .layouts = l, .layout_count = 1, .live = live, .kind = BL_DISK_CLASSIC};
    CHECK_INT(bl_disk_open(d, &m->sectors, &test_memory, &setup), BL_OK);
}

static void classic_begin(medium *m, const bl_classic *l, uint16_t drive_sector)
{
    medium_begin(m, (bl_classic_bytes(l) + drive_sector - 1) / drive_sector, drive_sector);
    CHECK_INT(bl_classic_format(&m->sectors, l), BL_OK);
}

TEST(classic_shipped_layouts_hold_files_of_all_sizes)
{
    const bl_classic *l;
    for (size_t i = 0; (l = bl_classic_shipped(i)) != NULL; i++) {
        medium m;
        bl_disk d;
        bl_disk_space s;
        bl_disk_report r = {0};
        static const size_t sizes[] = {0, 1, 127, 128, 129, 1024, 16384, 16385, 40000, 70001};
        const char *why;
        CHECK_INT(bl_classic_check_layout(l, &why), BL_OK);
        bool small = bl_classic_bytes(l) % 512 != 0;
        classic_begin(&m, l, small ? 128 : 512);
        medium_open(&m, &d, false); /* found out by itself */
        CHECK_TEXT(bl_classic_of(&d)->name, l->name);
        for (size_t k = 0; k < sizeof sizes / sizeof sizes[0]; k++) {
            static uint8_t bytes[70001];
            char name[16];
            bl_format(name, sizeof name, "F%u.DAT", (unsigned)k);
            medium_fill(bytes, sizes[k], (unsigned)k);
            CHECK_INT(medium_put(&d, name, bytes, sizes[k]), BL_OK);
            medium_same(&d, name, bytes, sizes[k]);
        }
        bl_disk_close(&d);
        medium_open(&m, &d, true);
        CHECK_INT(medium_check(&d, false, &r), BL_OK);
        CHECK_INT(r.files, sizeof sizes / sizeof sizes[0]);
        CHECK_INT(r.broken + r.remarks, 0);
        CHECK_INT(bl_disk_space_of(&d, &s), BL_OK);
        uint32_t used = 0;
        for (size_t k = 0; k < sizeof sizes / sizeof sizes[0]; k++)
            used += (uint32_t)(sizes[k] + l->block - 1) / l->block;
        CHECK_INT(s.units - s.free, used);
        bl_disk_close(&d);
        medium_end(&m);
    }
    CHECK_INT(test_blocks(), 0);
}

/* A file of 20,000 bytes on the 250k layout: two entries, of 128 and 29 records, where the
 * description of the layout has them. */
TEST(classic_entries_are_as_described)
{
    static uint8_t bytes[20000];
    medium m;
    bl_disk d;
    const bl_classic *l = bl_classic_shipped(0);
    medium_fill(bytes, sizeof bytes, 1);
    classic_begin(&m, l, 128);
    open_as(&m, &d, l, false);
    bl_disk_file file = {.bytes = bytes, .size = sizeof bytes, .attributes = BL_DISK_READ_ONLY};
    CHECK_INT(bl_disk_put(&d, "5:buoy.com", &file, NULL), BL_OK);
    static const uint8_t first[] = {5,   'B', 'U', 'O', 'Y', ' ', ' ', ' ', ' ', 'C' | 0x80, 'O',
                                    'M', 0,   0,   0,   128, 2,   3,   4,   5,   6,          7,
                                    8,   9,   10,  11,  12,  13,  14,  15,  16,  17};
    static const uint8_t second[] = {5,   'B', 'U', 'O', 'Y', ' ', ' ', ' ', ' ', 'C' | 0x80, 'O',
                                     'M', 1,   32,  0,   29,  18,  19,  20,  21,  0,          0,
                                     0,   0,   0,   0,   0,   0,   0,   0,   0,   0};
    const uint8_t *directory = m.bytes + 2 * 26 * 128; /* behind the system tracks */
    CHECK_BYTES(directory, 32, first, 32);
    CHECK_BYTES(directory + 32, 32, second, 32);
    /* Record 0 of block 2 is logical sector 16 of the data: with a skew of 6 the 22nd of the track.
     */
    static const uint8_t skew[26] = {1, 7, 13, 19, 25, 5, 11, 17, 23, 3, 9,  15, 21,
                                     2, 8, 14, 20, 26, 6, 12, 18, 24, 4, 10, 16, 22};
    for (unsigned record = 0; record < 157; record++) {
        unsigned linear = 16 + record, track = 2 + linear / 26, sector = skew[linear % 26] - 1u;
        size_t count = record == 156 ? 32 : 128;
        CHECK_BYTES(m.bytes + (track * 26 + sector) * 128, count, bytes + record * 128, count);
    }
    const uint8_t *last = m.bytes + ((2 + 172 / 26) * 26 + skew[172 % 26] - 1u) * 128;
    for (unsigned i = 32; i < 128; i++)
        CHECK_INT(last[i], 0x1A);
    CHECK_INT(medium_put(&d, "5:BUOY.COM", bytes, 1), BL_E_PROTECTED);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(classic_large_disks_have_wide_block_numbers)
{
    static uint8_t bytes[40000];
    medium m;
    bl_disk d;
    const bl_classic *l = bl_classic_shipped(6); /* 8 MiB, blocks of 4 KiB */
    medium_fill(bytes, sizeof bytes, 1);
    classic_begin(&m, l, 512);
    open_as(&m, &d, l, true);
    CHECK_INT(medium_put(&d, "A", bytes, sizeof bytes), BL_OK);
    const uint8_t *e = m.bytes + 32 * 512; /* behind one system track */
    /* 313 records: two entries of 32 KiB; the first is of extent 1 */
    CHECK_INT(e[12], 1);
    CHECK_INT(e[15], 128);
    CHECK_INT(e[16] | e[17] << 8, 4); /* 512 entries fill four blocks */
    CHECK_INT(e[30] | e[31] << 8, 11);
    CHECK_INT(e[32 + 12], 2);
    CHECK_INT(e[32 + 15], 313 - 256);
    CHECK_INT(e[32 + 13], 40000 % 128);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(classic_user_areas_are_apart)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    const bl_classic *l = bl_classic_shipped(3);
    classic_begin(&m, l, 512);
    open_as(&m, &d, l, false);
    CHECK_INT(medium_put(&d, "A.TXT", "zero", 4), BL_OK);
    CHECK_INT(medium_put(&d, "3:A.TXT", "three", 5), BL_OK);
    medium_same(&d, "0:a.txt", "zero", 4);
    medium_same(&d, "3:a.txt", "three", 5);
    CHECK_TEXT(medium_names(&d, "3:"), "A.TXT(5)");
    CHECK_INT(bl_disk_find(&d, "3:A.TXT", &e), BL_OK);
    CHECK_INT(e.user, 3);
    CHECK_INT(bl_disk_rename(&d, "3:A.TXT", "B.TXT"), BL_OK); /* it stays in its area */
    CHECK_INT(bl_disk_rename(&d, "3:B.TXT", "7:A.TXT"), BL_OK);
    CHECK_INT(bl_disk_rename(&d, "7:A.TXT", "0:A.TXT"), BL_E_EXISTS);
    medium_same(&d, "7:A.TXT", "three", 5);
    CHECK_INT(medium_put(&d, "16:A.TXT", "x", 1), BL_E_RANGE);
    CHECK_INT(medium_put(&d, "B/A.TXT", "x", 1), BL_E_UNSUPPORTED);
    CHECK_INT(bl_disk_folder(&d, "B"), BL_E_UNSUPPORTED);
    CHECK_INT(bl_disk_delete(&d, "7:A.TXT", false), BL_OK);
    CHECK_INT(bl_disk_find(&d, "7:A.TXT", &e), BL_E_NOT_FOUND);
    bl_disk_close(&d);
    medium_end(&m);
}

/* Where only records are counted a file is as long as they are. */
TEST(classic_lengths_that_nobody_recorded_are_whole_records)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    const bl_classic *l = bl_classic_shipped(3);
    uint8_t padded[128];
    classic_begin(&m, l, 512);
    open_as(&m, &d, l, false);
    CHECK_INT(medium_put(&d, "A", "text", 4), BL_OK);
    bl_disk_close(&d);
    m.bytes[20 * 512 + 13] = 0;
    open_as(&m, &d, l, false);
    CHECK_INT(bl_disk_find(&d, "A", &e), BL_OK);
    CHECK(e.rounded);
    memset(padded, 0x1A, sizeof padded);
    memcpy(padded, "text", 4);
    medium_same(&d, "A", padded, 128);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(classic_full_disks_say_what_is_missing)
{
    static uint8_t bytes[260000];
    medium m;
    bl_disk d;
    const bl_classic *l = bl_classic_shipped(0);
    classic_begin(&m, l, 128);
    open_as(&m, &d, l, true);
    CHECK_INT(medium_put(&d, "BIG", bytes, sizeof bytes), BL_E_FULL);
    CHECK_CONTAINS(test_messages(), "the disk is full: it needs 254 blocks of 1024 bytes");
    CHECK_INT(medium_put(&d, "BIG", bytes, 200000), BL_OK);
    CHECK_INT(medium_put(&d, "BIG", bytes, 100000), BL_E_FULL);
    CHECK_CONTAINS(test_messages(), "delete it first");
    bl_disk_close(&d);
    open_as(&m, &d, l, false); /* where nothing can be lost it needs no room besides */
    medium_fill(bytes, 100000, 2);
    CHECK_INT(medium_put(&d, "BIG", bytes, 100000), BL_OK);
    medium_same(&d, "BIG", bytes, 100000);
    bl_status status = BL_OK;
    for (unsigned i = 0; status == BL_OK; i++) {
        char name[16];
        bl_format(name, sizeof name, "N%u", i);
        status = medium_put(&d, name, "", 0);
        CHECK(i < 64);
    }
    CHECK_INT(status, BL_E_FULL);
    CHECK_CONTAINS(test_messages(), "its directory is full");
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(classic_layouts_that_cannot_be_are_refused)
{
    static const struct {
        bl_classic layout;
        const char *why;
    } all[] = {
        {{.sector = 100, .track = 9, .tracks = 40, .block = 1024, .entries = 32}, "sectors have"},
        {{.sector = 512, .track = 9, .tracks = 40, .block = 1000, .entries = 32}, "blocks have"},
        {{.sector = 512, .track = 0, .tracks = 40, .block = 1024, .entries = 32}, "a track has"},
        {{.sector = 512, .track = 9, .tracks = 2, .system = 2, .block = 1024, .entries = 32},
         "no tracks besides"},
        {{.sector = 512, .track = 9, .tracks = 40, .block = 1024, .entries = 33}, "whole sectors"},
        {{.sector = 512, .track = 18, .tracks = 160, .block = 1024, .entries = 64},
         "one must have 2048 bytes"},
        {{.sector = 512, .track = 9, .tracks = 40, .block = 1024, .entries = 32, .extents = 2},
         "no room for so many extents"},
        {{.sector = 512,
          .track = 3,
          .tracks = 400,
          .block = 2048,
          .entries = 32,
          .order = {1, 2, 2}},
         "names each sector of a track once"},
        {{.sector = 512, .track = 1, .tracks = 2, .block = 1024, .entries = 32},
         "no block besides"},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        const char *why = NULL;
        CHECK_INT(bl_classic_check_layout(&all[i].layout, &why), BL_E_RANGE);
        CHECK_CONTAINS(why, all[i].why);
    }
}

TEST(classic_an_order_of_sectors_is_kept)
{
    medium m;
    bl_disk d;
    static uint8_t bytes[3000];
    bl_classic l = {.sector = 512,
                    .track = 5,
                    .tracks = 30,
                    .system = 1,
                    .block = 1024,
                    .entries = 32,
                    .order = {3, 5, 2, 4, 1}};
    medium_fill(bytes, sizeof bytes, 8);
    classic_begin(&m, &l, 512);
    open_as(&m, &d, &l, false);
    CHECK_INT(medium_put(&d, "A", bytes, sizeof bytes), BL_OK);
    /* Block 1 is logical sectors 2 and 3 of the first data track: the 2nd and the 4th. */
    CHECK_BYTES(m.bytes + (5 + 1) * 512, 512, bytes, 512);
    CHECK_BYTES(m.bytes + (5 + 3) * 512, 512, bytes + 512, 512);
    medium_same(&d, "A", bytes, sizeof bytes);
    bl_disk_close(&d);
    medium_end(&m);
}

/* ---- power ---- */

static void cut_put(uint32_t old_size, uint32_t new_size)
{
    static uint8_t old_bytes[90000], new_bytes[90000];
    const bl_classic *l = bl_classic_shipped(0);
    medium_fill(old_bytes, sizeof old_bytes, 1);
    medium_fill(new_bytes, sizeof new_bytes, 2);
    for (uint32_t cut = 0;; cut++) {
        medium m;
        bl_disk d;
        bl_disk_entry e;
        bl_disk_report r = {0};
        classic_begin(&m, l, 128);
        open_as(&m, &d, l, true);
        CHECK_INT(medium_put(&d, "OTHER", "x", 1), BL_OK);
        if (old_size > 0) CHECK_INT(medium_put(&d, "LAMP.COM", old_bytes, old_size), BL_OK);
        m.cut_after = m.writes + cut;
        bl_status status = medium_put(&d, "LAMP.COM", new_bytes, new_size);
        bl_disk_close(&d);
        m.cut_after = UINT32_MAX;
        open_as(&m, &d, l, true);
        medium_check(&d, true, &r);
        CHECK_INT(r.left, 0);
        medium_same(&d, "OTHER", "x", 1);
        bool there = bl_disk_find(&d, "LAMP.COM", &e) == BL_OK;
        if (there) {
            medium_either(&d, "LAMP.COM", new_bytes, new_size, old_bytes, old_size);
        } else if (old_size > 0) {
            CHECK_INT(bl_disk_find(&d, "LAMP.$$$", &e), BL_OK); /* as the remark said */
            CHECK_CONTAINS(test_messages(), "rename this to its name");
            CHECK_INT(bl_disk_rename(&d, "LAMP.$$$", "LAMP.COM"), BL_OK);
            medium_same(&d, "LAMP.COM", new_bytes, new_size);
        }
        CHECK_INT(medium_put(&d, "LAMP.COM", new_bytes, new_size), BL_OK);
        medium_same(&d, "LAMP.COM", new_bytes, new_size);
        bl_disk_close(&d);
        medium_end(&m);
        if (status == BL_OK) return;
    }
}

TEST(classic_power_cuts_leave_old_or_new)
{
    cut_put(3000, 5000);
    cut_put(0, 5000);
    cut_put(20000, 40000); /* two entries, three: together in one sector of the directory */
}

TEST(classic_power_cuts_of_files_over_several_sectors_can_be_finished)
{
    cut_put(30000, 80000);
    cut_put(80000, 75000);
    cut_put(0, 75000);
}

/* After a write that failed the disk that is open says what is on the medium, not what was meant.
 */
TEST(classic_failures_leave_what_is_on_the_disk)
{
    static uint8_t bytes[90000];
    const bl_classic *l = bl_classic_shipped(0);
    medium m;
    bl_disk d;
    bl_disk_entry e;
    medium_fill(bytes, sizeof bytes, 3);
    classic_begin(&m, l, 128);
    open_as(&m, &d, l, true);
    CHECK_INT(medium_put(&d, "A", bytes, 1000), BL_OK);
    for (uint32_t cut = 0; cut < 20; cut++) {
        m.cut_after = m.writes + cut;
        bl_status status = medium_put(&d, "B", bytes, 2000);
        m.cut_after = UINT32_MAX;
        CHECK_INT(status, cut < 17 ? BL_E_NOT_READY : BL_OK);
        if (status == BL_OK) break;
        CHECK_INT(medium_put(&d, "C", bytes, 10), BL_OK); /* it is on again */
        CHECK(!bl_disk_has(&d, "B", &e));
        medium_same(&d, "A", bytes, 1000);
        CHECK_INT(bl_disk_delete(&d, "C", false), BL_OK);
    }
    medium_same(&d, "B", bytes, 2000);
    m.cut_after = m.writes;
    CHECK_INT(bl_disk_delete(&d, "B", false), BL_E_NOT_READY);
    CHECK_INT(bl_disk_rename(&d, "B", "D"), BL_E_NOT_READY);
    m.cut_after = UINT32_MAX;
    medium_same(&d, "B", bytes, 2000);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(classic_checks_tell_of_damage)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    static uint8_t bytes[5000];
    const bl_classic *l = bl_classic_shipped(3);
    classic_begin(&m, l, 512);
    open_as(&m, &d, l, true);
    CHECK_INT(medium_put(&d, "A", bytes, sizeof bytes), BL_OK);
    CHECK_INT(medium_put(&d, "B", bytes, sizeof bytes), BL_OK);
    bl_disk_close(&d);
    uint8_t *e = m.bytes + 20 * 512;
    e[32 + 16] = e[16];         /* B has a block of A */
    e[17] = 0;                  /* A has a hole */
    e[19] = 9;                  /* and a block behind its end */
    e[18] = 250;                /* and one that does not exist */
    memcpy(e + 64, e + 32, 32); /* a part of B twice */
    open_as(&m, &d, l, true);
    CHECK_INT(medium_check(&d, true, &r), BL_E_DAMAGED);
    CHECK_CONTAINS(test_messages(), "A shares block 2 with another");
    CHECK_CONTAINS(test_messages(), "B shares block 2 with another");
    CHECK_CONTAINS(test_messages(), "A has a hole of 1 block");
    CHECK_CONTAINS(test_messages(), "A has 1 block behind its end");
    CHECK_CONTAINS(test_messages(), "A: block 250 is none of a file");
    CHECK_CONTAINS(test_messages(), "B: part 0 of it is there twice");
    bl_writer writer = test_writer;
    CHECK_INT(bl_disk_get(&d, "A", &writer), BL_E_DAMAGED);
    CHECK_INT(bl_disk_get(&d, "B", &writer), BL_E_DAMAGED);
    bl_disk_close(&d);
    medium_end(&m);
}

/* Two layouts of one size whose directories are in different places: with one entry spoilt, the
 * disk is still that which has files, and not the other, whose directory would be empty. */
static const bl_classic own_layouts[] = {
    {"far", 512, 10, 80, 4, 2048, 128, 0, {0}, 0},
    {"near", 512, 10, 80, 2, 2048, 128, 0, {0}, 0},
};

static bl_status open_own(medium *m, bl_disk *d, size_t count)
{
    bl_disk_setup setup = {.sink = test_sink, .layouts = own_layouts, .layout_count = count};
    test_messages_clear();
    return bl_disk_open(d, &m->sectors, &test_memory, &setup);
}

TEST(classic_one_bad_entry_is_no_other_layout)
{
    static uint8_t bytes[5000];
    for (unsigned turn = 0; turn < 200; turn++) {
        medium m;
        bl_disk d;
        size_t which = turn % 2;
        const bl_classic *l = &own_layouts[which];
        classic_begin(&m, l, 512);
        open_as(&m, &d, l, false);
        medium_fill(bytes, sizeof bytes, turn);
        unsigned files = 3 + test_below(20);
        for (unsigned i = 0; i < files; i++) {
            char name[16];
            bl_format(name, sizeof name, "F%u.DAT", i);
            CHECK_INT(medium_put(&d, name, bytes, 1000 + test_below(4000)), BL_OK);
        }
        bl_disk_close(&d);
        uint8_t *entry = m.bytes + (size_t)l->system * l->track * 512 + 32 * test_below(files);
        for (unsigned i = 0; i < 6; i++)
            entry[test_below(16)] = (uint8_t)test_random();
        CHECK_INT(open_own(&m, &d, 2), BL_OK);
        CHECK_TEXT(bl_classic_of(&d)->name, l->name);
        bl_disk_close(&d);
        CHECK_INT(open_own(&m, &d, which == 0 ? 1 : 2), BL_OK);
        CHECK_TEXT(bl_classic_of(&d)->name, l->name);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

/* An empty directory proves nothing: where blocks hold something, or two layouts are possible, the
 * layout must be said. */
TEST(classic_an_empty_directory_is_no_proof)
{
    medium m;
    bl_disk d;
    classic_begin(&m, &own_layouts[0], 512);
    CHECK_INT(open_own(&m, &d, 2), BL_E_UNSUPPORTED);
    CHECK_CONTAINS(test_messages(), "more than one layout fits what is on it, 'near' too");
    CHECK_INT(open_own(&m, &d, 1), BL_OK); /* the only one, and blank */
    bl_disk_close(&d);
    size_t first = (size_t)own_layouts[0].system * 10 * 512 + 2 * 2048;
    medium_fill(m.bytes + first, 4096, 1);
    CHECK_INT(open_own(&m, &d, 1), BL_E_UNSUPPORTED);
    CHECK_CONTAINS(test_messages(), "its directory does not look like one");
    CHECK_CONTAINS(test_messages(), "--layout NAME");
    medium_end(&m);
}

TEST(classic_entries_that_lie_are_told)
{
    static uint8_t bytes[40000];
    const bl_classic *l = bl_classic_shipped(0);
    for (unsigned kind = 0; kind < 3; kind++) {
        medium m;
        bl_disk d;
        bl_disk_report r = {0};
        bl_disk_entry e;
        classic_begin(&m, l, 128);
        open_as(&m, &d, l, false);
        CHECK_INT(medium_put(&d, "A.DAT", bytes, sizeof bytes), BL_OK);
        CHECK_INT(medium_put(&d, "B.DAT", bytes, 3000), BL_OK);
        bl_disk_close(&d);
        uint8_t *entry = m.bytes + 2 * 26 * 128;
        if (kind == 0) entry[0] = 0xE5;         /* the first part of A is missing */
        if (kind == 1) entry[2 * 32 + 14] = 13; /* A has 6.8 MB */
        if (kind == 2) entry[3 * 32 + 3] = 7;   /* a bell in B's name */
        open_as(&m, &d, l, false);
        CHECK_INT(medium_check(&d, false, &r), BL_E_DAMAGED);
        if (kind < 2) {
            CHECK_CONTAINS(test_messages(), "A.DAT: its entries give it");
            CHECK_INT(bl_disk_find(&d, "A.DAT", &e), BL_OK);
            CHECK(e.damaged);
            CHECK_INT(bl_disk_get(&d, "A.DAT", &test_writer), BL_E_DAMAGED);
            size_t count;
            test_written(&count);
            CHECK_INT(count, 0);
        } else {
            CHECK_CONTAINS(test_messages(), "its name has a control character");
        }
        bl_disk_close(&d);
        medium_end(&m);
        test_messages_clear();
    }
}

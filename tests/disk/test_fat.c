/* FAT12 and FAT16: made, written and read, as a peer that shares no code sees it. */
#include <stdlib.h>
#include <string.h>

#include "fat_disk.h"

enum { FLOPPY = 2880 };

TEST(fat_of_every_floppy_size_is_as_usual)
{
    static const struct {
        uint32_t total;
        uint8_t media, cluster;
        uint32_t clusters;
    } all[] = {
        {320, 0xFE, 1, 313},  {360, 0xFC, 1, 351},   {640, 0xFF, 2, 315},   {720, 0xFD, 2, 354},
        {1440, 0xF9, 2, 713}, {2400, 0xF9, 1, 2371}, {2880, 0xF0, 1, 2847}, {5760, 0xF0, 2, 2863},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        medium m;
        bl_disk d;
        bl_disk_space s;
        fat_disk_begin(&m, all[i].total, false);
        fat_disk_good(&m);
        medium_open(&m, &d, false);
        CHECK_INT(bl_disk_kind_of(&d), BL_DISK_FAT12);
        CHECK_INT(bl_disk_space_of(&d, &s), BL_OK);
        CHECK_INT(s.units, all[i].clusters);
        CHECK_INT(s.free, s.units);
        CHECK_INT(s.largest, s.units);
        CHECK_INT(m.bytes[21], all[i].media);
        CHECK_INT(s.unit, all[i].cluster * 512);
        bl_disk_close(&d);
        medium_end(&m);
    }
    CHECK_INT(test_blocks(), 0);
}

/* Any size between: either a volume that the peer finds good, or a reason. */
TEST(fat_of_any_size_is_good_or_refused)
{
    unsigned made = 0, refused = 0;
    for (unsigned turn = 0; turn < 300; turn++) {
        medium m;
        const char *why = NULL;
        bl_fat_plan plan = {.wide = turn % 2 != 0, .label = "SKERRY"};
        plan.total = turn % 5 == 0 ? 1 + test_below(64) : 1 + test_below(80000);
        if (turn % 7 == 0) plan.cluster = (uint8_t)(1u << test_below(7));
        if (turn % 11 == 0) plan.hidden = 63;
        uint32_t total = plan.total;
        if (bl_fat_plan_complete(&plan, &why) != BL_OK) {
            CHECK(why != NULL && why[0] != '\0');
            refused++;
            continue;
        }
        CHECK(plan.total <= total);
        medium_begin(&m, total, BL_FAT_SECTOR);
        CHECK_INT(bl_fat_format(&m.sectors, &plan), BL_OK);
        fat_disk_good(&m);
        medium_end(&m);
        made++;
    }
    CHECK(made > 150 && refused > 20);
}

/* Every size of whole mebibytes has a FAT12 up to 127 MiB, and a FAT16 from 3 MiB on. */
TEST(fat_of_every_mebibyte_can_be_planned)
{
    for (uint32_t mib = 1; mib <= 2048; mib = mib < 200 ? mib + 1 : mib + 37) {
        const char *why = NULL;
        for (unsigned wide = 0; wide < 2; wide++) {
            bl_fat_plan plan = {.wide = wide != 0, .total = mib * 2048};
            bool can = wide ? mib >= 3 : mib <= 127;
            CHECK_INT(bl_fat_plan_complete(&plan, &why) == BL_OK, can);
            if (!can) continue;
            uint32_t before = 1 + 2u * plan.table_sectors + plan.root_entries / 16u;
            uint32_t clusters = (plan.total - before) / plan.cluster;
            CHECK(wide ? clusters >= 4085 && clusters <= 65524 : clusters <= 4084);
        }
    }
}

TEST(fat16_up_to_two_gib_is_planned)
{
    static const uint32_t mebibytes[] = {8, 16, 31, 32, 64, 128, 256, 512, 1024, 2047, 2048};
    for (size_t i = 0; i < sizeof mebibytes / sizeof mebibytes[0]; i++) {
        const char *why = NULL;
        bl_fat_plan plan = {.wide = true, .total = mebibytes[i] * 2048};
        CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_OK);
        uint32_t before = 1 + 2u * plan.table_sectors + plan.root_entries / 16u;
        uint32_t clusters = (plan.total - before) / plan.cluster;
        CHECK(clusters >= 4085 && clusters <= 65524);
        CHECK(plan.table_sectors * 256u >= clusters + 2);
        CHECK(plan.total > mebibytes[i] * 2048 / 1000 * 999); /* hardly anything is given away */
        CHECK_INT(plan.total % plan.track, 0);
    }
    const char *why = NULL;
    bl_fat_plan plan = {.wide = true, .total = 2100u * 2048};
    CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_E_RANGE);
    CHECK_CONTAINS(why, "2 GiB");
    plan = (bl_fat_plan){.wide = true, .total = FLOPPY};
    CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_E_RANGE);
    CHECK_CONTAINS(why, "use fat12");
}

TEST(fat_files_come_back_and_the_peer_reads_them)
{
    static const size_t sizes[] = {0, 1, 511, 512, 513, 1024, 40000, 300000};
    for (unsigned wide = 0; wide < 2; wide++) {
        medium m;
        bl_disk d;
        fat_disk_begin(&m, wide ? 20000 : FLOPPY, wide != 0);
        medium_open(&m, &d, false);
        for (size_t i = 0; i < sizeof sizes / sizeof sizes[0]; i++) {
            char name[16];
            size_t peers;
            uint8_t *bytes = malloc(sizes[i] + 1);
            bl_format(name, sizeof name, "FILE%u.BIN", (unsigned)i);
            medium_fill(bytes, sizes[i], (unsigned)i);
            CHECK_INT(medium_put(&d, name, bytes, sizes[i]), BL_OK);
            medium_same(&d, name, bytes, sizes[i]);
            uint8_t *read = fat_peer_read(m.bytes, (size_t)m.sectors.count * 512, name, &peers);
            CHECK(read != NULL);
            CHECK_BYTES(read, peers, bytes, sizes[i]);
            free(read);
            free(bytes);
        }
        fat_disk_good(&m);
        bl_disk_close(&d);
        medium_end(&m);
    }
    CHECK_INT(test_blocks(), 0);
}

/* ---- anything, against a model ---- */

enum { NAMES = 40 };
typedef struct model {
    char path[NAMES][64];
    unsigned number[NAMES];
    size_t size[NAMES];
    bool there[NAMES];
} model;

static void model_begin(model *f)
{
    memset(f, 0, sizeof *f);
    for (unsigned i = 0; i < NAMES; i++)
        bl_format(f->path[i], sizeof f->path[i], "%s%s%u.D", i % 3 == 1 ? "LIGHT/" : "",
                  i % 3 == 2 ? "LIGHT/KEEPER/N" : "F", i);
}

static void model_compare(const model *f, bl_disk *d, const medium *m)
{
    static uint8_t bytes[60000];
    for (unsigned i = 0; i < NAMES; i++) {
        bl_disk_entry e;
        bool there = bl_disk_find(d, f->path[i], &e) == BL_OK;
        CHECK_INT(there, f->there[i]);
        if (!there) continue;
        medium_fill(bytes, f->size[i], f->number[i]);
        medium_same(d, f->path[i], bytes, f->size[i]);
    }
    fat_disk_good(m);
}

static void random_step(model *f, bl_disk *d, unsigned step)
{
    static uint8_t bytes[60000];
    unsigned i = test_below(NAMES), k = test_below(NAMES);
    switch (test_below(5)) {
    case 0: {
        bl_status status = bl_disk_delete(d, f->path[i], false);
        CHECK_INT(status, f->there[i] ? BL_OK : BL_E_NOT_FOUND);
        f->there[i] = false;
        break;
    }
    case 1: {
        if (!f->there[i] || i % 3 != k % 3) break; /* only within a folder */
        bl_status status = bl_disk_rename(
            d, f->path[i],
            strrchr(f->path[k], '/') != NULL ? strrchr(f->path[k], '/') + 1 : f->path[k]);
        CHECK_INT(status, i == k || !f->there[k] ? BL_OK : BL_E_EXISTS);
        if (status != BL_OK || i == k) break;
        f->there[k] = true, f->number[k] = f->number[i], f->size[k] = f->size[i];
        f->there[i] = false;
        break;
    }
    default: {
        size_t size = test_below(4) == 0 ? test_below(sizeof bytes) : test_below(3000);
        medium_fill(bytes, size, step);
        bl_status status = medium_put(d, f->path[i], bytes, size);
        CHECK(status == BL_OK || status == BL_E_FULL);
        if (status == BL_OK) f->there[i] = true, f->number[i] = step, f->size[i] = size;
    }
    }
}

TEST(fat_whatever_is_done_files_stay_what_they_are)
{
    for (unsigned round = 0; round < 6; round++) {
        medium m;
        bl_disk d;
        model f;
        fat_disk_begin(&m, round % 2 ? 9000 : 720, round % 2 != 0);
        medium_open(&m, &d, round % 3 == 0);
        model_begin(&f);
        CHECK_INT(bl_disk_folder(&d, "LIGHT"), BL_OK);
        CHECK_INT(bl_disk_folder(&d, "light/Keeper"), BL_OK);
        for (unsigned step = 0; step < 300; step++) {
            random_step(&f, &d, round * 1000 + step);
            if (step % 60 != 59) continue;
            model_compare(&f, &d, &m);
            bl_disk_close(&d); /* what was in memory is on the disk, too */
            medium_open(&m, &d, round % 3 == 0);
            model_compare(&f, &d, &m);
        }
        bl_disk_close(&d);
        medium_end(&m);
    }
    CHECK_INT(test_blocks(), 0);
}

/* ---- folders ---- */

TEST(fat_folders_grow_and_the_root_does_not)
{
    medium m;
    bl_disk d;
    bl_status status = BL_OK;
    unsigned n = 0;
    fat_disk_begin(&m, FLOPPY, false);
    medium_open(&m, &d, true);
    CHECK_INT(bl_disk_folder(&d, "LOG"), BL_OK);
    for (unsigned i = 0; i < 700; i++) {
        char name[24];
        bl_format(name, sizeof name, "LOG/DAY%u.TXT", i);
        CHECK_INT(medium_put(&d, name, "calm\n", 5), BL_OK);
    }
    fat_disk_good(&m);
    for (; status == BL_OK; n++) {
        char name[24];
        bl_format(name, sizeof name, "R%u", n);
        status = medium_put(&d, name, "", 0);
    }
    CHECK_INT(status, BL_E_FULL);
    CHECK_INT(n, 224); /* LOG has one of 224 entries */
    CHECK_CONTAINS(test_messages(), "the main folder is full: it has room for 224 entries");
    CHECK_CONTAINS(test_messages(), "put it into a folder");
    fat_disk_good(&m);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(fat_folders_are_refused_where_a_file_is_meant)
{
    medium m;
    bl_disk d;
    fat_disk_begin(&m, FLOPPY, false);
    medium_open(&m, &d, false);
    CHECK_INT(bl_disk_folder(&d, "A"), BL_OK);
    CHECK_INT(medium_put(&d, "A/X", "1", 1), BL_OK);
    CHECK_INT(bl_disk_folder(&d, "a"), BL_E_EXISTS);
    CHECK_INT(bl_disk_folder(&d, "A/X"), BL_E_EXISTS);
    CHECK_INT(medium_put(&d, "A", "1", 1), BL_E_EXISTS);
    CHECK_INT(bl_disk_delete(&d, "A", false), BL_E_EXISTS);
    CHECK_CONTAINS(test_messages(), "the folder is not empty");
    CHECK_INT(bl_disk_delete(&d, "/", false), BL_E_ARGUMENT);
    CHECK_INT(medium_put(&d, "B/X", "1", 1), BL_E_NOT_FOUND);
    CHECK_CONTAINS(test_messages(), "B/X: there is no such folder");
    CHECK_INT(bl_disk_rename(&d, "A/X", "Y"), BL_OK);
    CHECK_INT(bl_disk_rename(&d, "A/Y", "/Y"), BL_E_UNSUPPORTED);
    CHECK_INT(bl_disk_rename(&d, "A", "LIGHTS"), BL_OK);
    CHECK_TEXT(medium_names(&d, "lights"), "Y(1)");
    CHECK_INT(bl_disk_delete(&d, "LIGHTS/Y", false), BL_OK);
    CHECK_INT(bl_disk_delete(&d, "LIGHTS", false), BL_OK);
    CHECK_TEXT(medium_names(&d, ""), "");
    fat_disk_good(&m);
    bl_disk_close(&d);
    medium_end(&m);
}

/* ---- names ---- */

TEST(names_that_do_not_fit_become_8_3_the_same_each_time)
{
    static const struct {
        const char *name, *text;
        bool fits;
    } all[] = {
        {"lamp.asm", "LAMP.ASM", true},     {"LAMP", "LAMP", true},
        {"a-b_c~1.x$", "A-B_C~1.X$", true}, {"12345678.123", "12345678.123", true},
        {"123456789.123", "123~", false},   {"keeper's log.text", "KEE~", false},
        {"two.dots.txt", "TWO~", false},    {".hidden", "HID~", false},
        {"a+b.c", "A_B~", false},           {"Leuchtt\xC3\xBCrme", "LEU~", false},
        {"\xC3\xBC.txt", "_~", false},      {"end.", "END~", false},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        char text[13], again[13];
        uint8_t raw[11];
        bl_status status;
        bl_text name = {all[i].name, strlen(all[i].name)};
        CHECK_INT(bl_disk_short_name(name, text, raw, &status), all[i].fits);
        CHECK_INT(status, BL_OK);
        if (all[i].fits)
            CHECK_TEXT(text, all[i].text);
        else
            CHECK(strncmp(text, all[i].text, strlen(all[i].text)) == 0);
        bl_disk_short_name(name, again, raw, &status);
        CHECK_TEXT(again, text);
    }
    char text[13], other[13];
    bl_status status;
    bl_disk_short_name((bl_text){"keepers-message-1.txt", 21}, text, NULL, &status);
    bl_disk_short_name((bl_text){"keepers-message-2.txt", 21}, other, NULL, &status);
    CHECK(strcmp(text, other) != 0);
    static const char *const none[] = {"", ".", "..", " "};
    for (size_t i = 0; i < 4; i++) {
        bl_disk_short_name((bl_text){none[i], strlen(none[i])}, text, NULL, &status);
        CHECK_INT(status, BL_E_SYNTAX);
    }
}

TEST(fat_long_named_sources_replace_themselves)
{
    medium m;
    bl_disk d;
    fat_disk_begin(&m, FLOPPY, false);
    medium_open(&m, &d, false);
    CHECK_INT(medium_put(&d, "tide-table-1.text", "one", 3), BL_OK);
    CHECK_INT(medium_put(&d, "tide-table-2.text", "two", 3), BL_OK);
    CHECK_INT(medium_put(&d, "tide-table-1.text", "three", 5), BL_OK);
    const char *names = medium_names(&d, "");
    CHECK_INT(strchr(strchr(names, ' ') + 1, ' ') == NULL, true); /* two of them */
    CHECK_CONTAINS(names, "(5)");
    CHECK_CONTAINS(names, "(3)");
    char text[13];
    bl_status status;
    bl_disk_short_name((bl_text){"tide-table-1.text", 17}, text, NULL, &status);
    medium_same(&d, text, "three", 5);
    medium_same(&d, "tide-table-1.text", "three", 5); /* by the name that it was given, too */
    medium_same(&d, "TIDE-table-2.text", "two", 3);
    fat_disk_good(&m);
    bl_disk_close(&d);
    medium_end(&m);
}

/* ---- attributes, times, faults of the medium ---- */

TEST(fat_attributes_and_times_are_kept)
{
    medium m;
    bl_disk d;
    bl_disk_entry e;
    bl_disk_file file = {.bytes = (const uint8_t *)"x",
                         .size = 1,
                         .attributes = BL_DISK_READ_ONLY | BL_DISK_HIDDEN,
                         .changed = {2027, 2, 28, 23, 59, 58}};
    fat_disk_begin(&m, FLOPPY, false);
    medium_open(&m, &d, false);
    CHECK_INT(bl_disk_put(&d, "KEEP", &file, &e), BL_OK);
    CHECK_INT(bl_disk_find(&d, "keep", &e), BL_OK);
    CHECK_INT(e.attributes, BL_DISK_READ_ONLY | BL_DISK_HIDDEN);
    CHECK_INT(e.changed.year, 2027);
    CHECK_INT(e.changed.month, 2);
    CHECK_INT(e.changed.day, 28);
    CHECK_INT(e.changed.hour, 23);
    CHECK_INT(e.changed.minute, 59);
    CHECK_INT(e.changed.second, 58);
    CHECK_INT(medium_put(&d, "KEEP", "y", 1), BL_E_PROTECTED);
    CHECK_INT(bl_disk_delete(&d, "KEEP", false), BL_E_PROTECTED);
    CHECK_INT(bl_disk_delete(&d, "KEEP", true), BL_OK);
    CHECK_INT(medium_put(&d, "NOW", "y", 1), BL_OK);
    CHECK_INT(bl_disk_find(&d, "NOW", &e), BL_OK);
    CHECK_INT(e.changed.year, 2026); /* of the setup */
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(fat_faults_of_the_medium_are_told_and_spoil_nothing)
{
    medium m;
    bl_disk d;
    static uint8_t bytes[5000];
    medium_fill(bytes, sizeof bytes, 3);
    fat_disk_begin(&m, FLOPPY, false);
    medium_open(&m, &d, true);
    CHECK_INT(medium_put(&d, "A", bytes, 3000), BL_OK);
    m.weak = 33 + 6; /* the first free cluster of the data */
    CHECK_INT(medium_put(&d, "B", bytes, sizeof bytes), BL_E_DIFFERS);
    CHECK_CONTAINS(test_messages(), "what was read back from sector 39 differs");
    CHECK_TEXT(medium_names(&d, ""), "A(3000)");
    m.weak = UINT32_MAX, m.protected = true;
    CHECK_INT(medium_put(&d, "B", bytes, sizeof bytes), BL_E_PROTECTED);
    m.protected = false, m.bad = 33;
    bl_writer writer = test_writer;
    CHECK_INT(bl_disk_get(&d, "A", &writer), BL_E_IO);
    CHECK_CONTAINS(test_messages(), "sector 33 cannot be read");
    m.bad = UINT32_MAX;
    medium_same(&d, "A", bytes, 3000);
    bl_disk_close(&d);
    m.bad = 2; /* of the first table: the second serves */
    medium_open(&m, &d, true);
    CHECK_CONTAINS(test_messages(), "sector 1 of the first allocation table cannot be read");
    m.bad = UINT32_MAX;
    medium_same(&d, "A", bytes, 3000);
    bl_disk_close(&d);
    fat_disk_good(&m);
    medium_end(&m);
}

TEST(fat_a_full_disk_takes_a_new_copy_of_a_file_unless_it_is_live)
{
    for (unsigned live = 0; live < 2; live++) {
        medium m;
        bl_disk d;
        static uint8_t bytes[250000];
        medium_fill(bytes, sizeof bytes, 9);
        fat_disk_begin(&m, 720, false);
        medium_open(&m, &d, live != 0);
        CHECK_INT(medium_put(&d, "BIG", bytes, sizeof bytes), BL_OK);
        CHECK_INT(medium_put(&d, "BIG", bytes + 1, sizeof bytes - 1), live ? BL_E_FULL : BL_OK);
        if (live) CHECK_CONTAINS(test_messages(), "delete it first");
        medium_same(&d, "BIG", bytes + !live, sizeof bytes - !live);
        CHECK_INT(medium_put(&d, "BIG2", bytes, sizeof bytes), BL_E_FULL);
        fat_disk_good(&m);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

TEST(fat_out_of_memory_is_an_ordinary_error)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    bl_disk_setup setup = {.sink = test_sink};
    fat_disk_begin(&m, FLOPPY, false);
    for (long nth = 1;; nth++) {
        test_memory_fail_at(nth);
        bl_status status = bl_disk_open(&d, &m.sectors, &test_memory, &setup);
        if (status == BL_OK) {
            status = bl_disk_check(&d, false, &r);
            bl_disk_close(&d);
        }
        test_memory_fail_at(0);
        CHECK_INT(test_blocks(), 0);
        if (status == BL_OK) break;
        CHECK_INT(status, BL_E_MEMORY);
        CHECK(nth < 50);
    }
    medium_end(&m);
}

/* After a write that failed the volume that is open goes on with what is on the medium. */
TEST(fat_failures_leave_what_is_on_the_disk)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    static uint8_t bytes[5000];
    medium_fill(bytes, sizeof bytes, 3);
    for (uint32_t cut = 0; cut < 16; cut++) {
        fat_disk_begin(&m, 1440, false);
        medium_open(&m, &d, true);
        CHECK_INT(medium_put(&d, "A", bytes, 3000), BL_OK);
        CHECK_INT(medium_put(&d, "B", bytes, 3000), BL_OK);
        m.cut_after = m.writes + cut;
        medium_put(&d, "A", bytes, 5000);
        bl_disk_delete(&d, "B", false);
        m.cut_after = UINT32_MAX;
        bl_disk_entry e;
        for (unsigned i = 0; i < 40; i++) { /* what was given back is used again */
            char name[12];
            bl_format(name, sizeof name, "N%u", i);
            CHECK_INT(medium_put(&d, name, bytes, 3000), BL_OK);
        }
        medium_either(&d, "A", bytes, 3000, bytes, 5000);
        if (bl_disk_has(&d, "B", &e)) medium_same(&d, "B", bytes, 3000);
        CHECK_INT(medium_check(&d, true, &r), BL_OK);
        medium_either(&d, "A", bytes, 3000, bytes, 5000);
        for (unsigned i = 0; i < 40; i++) {
            char name[12];
            bl_format(name, sizeof name, "N%u", i);
            medium_same(&d, name, bytes, 3000);
        }
        fat_disk_good(&m);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

/* Damage of each kind is found, told with what to do, and mended where that is safe. */
#include <string.h>

#include "fat_disk.h"

enum { SECTORS = 2880, TABLE = 1, ROOT = 19, DATA = 33 };

/* A: clusters 2 to 5; B: 6 to 8; FOLDER: 9 with C: 10. */
static void make_sample(medium *m)
{
    static uint8_t bytes[2000];
    bl_disk d;
    medium_fill(bytes, sizeof bytes, 5);
    fat_disk_begin(m, SECTORS, false);
    medium_open(m, &d, true);
    CHECK_INT(medium_put(&d, "A", bytes, 2000), BL_OK);
    CHECK_INT(medium_put(&d, "B", bytes, 1500), BL_OK);
    CHECK_INT(bl_disk_folder(&d, "FOLDER"), BL_OK);
    CHECK_INT(medium_put(&d, "FOLDER/C", bytes, 100), BL_OK);
    bl_disk_close(&d);
}

static void set_cluster(medium *m, unsigned cluster, unsigned value)
{
    for (unsigned copy = 0; copy < 2; copy++) {
        uint8_t *p = m->bytes + (TABLE + copy * 9) * 512 + cluster / 2 * 3;
        uint32_t three = p[0] | (uint32_t)p[1] << 8 | (uint32_t)p[2] << 16;
        three = cluster % 2 ? (three & 0xFFF) | value << 12 : (three & 0xFFF000) | value;
        p[0] = (uint8_t)three, p[1] = (uint8_t)(three >> 8), p[2] = (uint8_t)(three >> 16);
    }
}

static uint8_t *root_entry(medium *m, unsigned index)
{
    return m->bytes + ROOT * 512 + index * 32;
}

/* Checks, repairs, checks again. left: findings that stay. */
static bool drops;

static void mend(medium *m, const char *message, unsigned left)
{
    bl_disk d;
    bl_disk_report r = {0};
    test_messages_clear();
    uint32_t writes = m->writes;
    medium_open(m, &d, true);
    CHECK_INT(medium_check(&d, false, &r), BL_E_DAMAGED);
    CHECK_CONTAINS(test_messages(), message);
    CHECK_INT(m->writes, writes); /* a check alone writes nothing */
    r.drop = drops;
    CHECK_INT(medium_check(&d, true, &r), left > 0 ? BL_E_DAMAGED : BL_OK);
    CHECK_INT(r.left, left);
    CHECK_INT(medium_check(&d, false, &r), left > 0 ? BL_E_DAMAGED : BL_OK);
    bl_disk_close(&d);
    if (left == 0) fat_disk_good(m);
}
#define mend(...) TEST_CALL(mend(__VA_ARGS__))

TEST(fat_check_counts_what_is_there)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    make_sample(&m);
    medium_open(&m, &d, false);
    CHECK_INT(medium_check(&d, false, &r), BL_OK);
    CHECK_INT(r.files, 3);
    CHECK_INT(r.folders, 1);
    CHECK_INT(r.broken + r.remarks, 0);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(fat_check_lost_clusters_are_kept_or_given_back)
{
    medium m;
    make_sample(&m);
    set_cluster(&m, 100, 101);
    set_cluster(&m, 101, 0xFFF);
    mend(&m, "2 clusters marked as used, and of no file", 0);
    CHECK(memcmp(root_entry(&m, 3), "LOST0001BIN", 11) == 0);
    set_cluster(&m, 110, 0xFFF);
    drops = true;
    mend(&m, "1 cluster marked as used, and of no file", 0);
    CHECK_INT(root_entry(&m, 4)[0], 0);
    medium_end(&m);
}

/* The first table damaged in one sector, the second in another, or in other entries of the same, or
 * all of one: what a whole chain of both together holds is read, and repaired into both. */
TEST(fat_check_takes_what_makes_files_whole)
{
    enum { FILES = 12, LENGTH = 9000 };
    static uint8_t bytes[FILES][LENGTH];
    for (unsigned turn = 0; turn < 300; turn++) {
        medium m;
        bl_disk d;
        char name[16];
        fat_disk_begin(&m, SECTORS, false);
        medium_open(&m, &d, true);
        for (unsigned i = 0; i < FILES; i++) {
            medium_fill(bytes[i], LENGTH, turn * 100 + i);
            bl_format(name, sizeof name, i % 3 == 0 ? "D/F%u" : "F%u", i);
            if (i == 0) CHECK_INT(bl_disk_folder(&d, "D"), BL_OK);
            CHECK_INT(medium_put(&d, name, bytes[i], LENGTH - 500 * i), BL_OK);
        }
        bl_disk_close(&d);
        unsigned bad = test_below(2), kind = turn % 4;
        uint8_t *table = m.bytes + (TABLE + bad * 9) * 512,
                *other = m.bytes + (TABLE + (1 - bad) * 9) * 512;
        if (kind == 0)
            memset(table, test_below(2) ? 0 : 0xFF, 9 * 512);
        else if (kind == 1)
            for (unsigned i = 0; i < 400; i++)
                table[test_below(512)] = (uint8_t)test_random();
        else
            /* an entry of three bytes belongs to two clusters: never the same in both tables */
            for (unsigned i = 0; i < 6; i++) {
                unsigned pair = 2 + test_below(60);
                uint8_t *p = (pair % 2 ? table : other) + pair * 3;
                p[test_below(3)] ^= (uint8_t)(1 + test_below(255));
            }
        for (unsigned repaired = 0; repaired < 2; repaired++) {
            medium_open(&m, &d, true);
            for (unsigned i = 0; i < FILES; i++) {
                bl_format(name, sizeof name, i % 3 == 0 ? "D/F%u" : "F%u", i);
                medium_same(&d, name, bytes[i], LENGTH - 500 * i);
            }
            bl_disk_report r = {0};
            CHECK_INT(medium_check(&d, true, &r), BL_OK);
            CHECK_INT(r.losses, 0);
            if (repaired == 1) CHECK_INT(r.broken, 0);
            bl_disk_close(&d);
            if (kind != 2) fat_disk_good(&m);
        }
        medium_end(&m);
    }
}

TEST(fat_check_chains_that_break_are_ended)
{
    static const struct {
        unsigned value;
        const char *message;
    } all[] = {
        {0, "A has 2000 bytes, and 2 clusters of 512 bytes: it leads to a cluster that is free"},
        {0xFF7, "it leads to a cluster that is marked as bad"},
        {0xB70, "it leads to a cluster that does not exist"},
        {3, "it is a loop"},
        {2, "it is a loop"},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        medium m;
        make_sample(&m);
        set_cluster(&m, 3, all[i].value);
        /* Without leave to drop anything the file stays as it is, and the rest of it is not given
         * back; then it keeps what it has, and the rest becomes a file of its own. */
        static uint8_t before[4096];
        memcpy(before, m.bytes + ROOT * 512, 512);
        bl_disk d;
        bl_disk_report r = {0};
        medium_open(&m, &d, true);
        CHECK_INT(medium_check(&d, true, &r), BL_E_DAMAGED);
        CHECK_INT(r.losses, 0);
        bl_disk_close(&d);
        CHECK_BYTES(m.bytes + ROOT * 512, 3 * 32, before, 3 * 32);
        drops = true;
        mend(&m, all[i].message, 0);
        CHECK_INT(root_entry(&m, 0)[28] | root_entry(&m, 0)[29] << 8, 1024);
        if (i < 4) {
            static uint8_t whole[2000];
            medium_fill(whole, sizeof whole, 5);
            medium_open(&m, &d, true);
            bl_disk_entry e;
            CHECK_INT(bl_disk_find(&d, "LOST0001.BIN", &e), BL_OK);
            CHECK_INT(e.size, 1024);
            CHECK_BYTES(m.bytes + (DATA + 2) * 512, 976, whole + 1024, 976);
            bl_disk_close(&d);
        }
        medium_end(&m);
    }
}

TEST(fat_check_sizes_that_lie)
{
    medium m;
    make_sample(&m);
    root_entry(&m, 0)[28] = 0, root_entry(&m, 0)[29] = 1; /* 256 of 2000 */
    mend(&m, "A needs 1 cluster for its 256 bytes, and has 4", 0);
    CHECK(memcmp(root_entry(&m, 3), "LOST0001BIN", 11) == 0); /* the rest of it */
    CHECK_INT(root_entry(&m, 3)[29], 1536 / 256);
    drops = true;
    root_entry(&m, 1)[30] = 0xFF;
    mend(&m, "its chain ends too early", 0);
    root_entry(&m, 1)[26] = 0; /* none at all, and 1536 bytes */
    mend(&m, "B has 1536 bytes, and 0 clusters", 0);
    medium_end(&m);
}

TEST(fat_check_cross_links_are_told_with_both_names)
{
    medium m;
    make_sample(&m);
    set_cluster(&m, 3, 7); /* A goes on in B */
    mend(&m, "A shares cluster 7 with another", 2);
    CHECK_CONTAINS(test_messages(), "B shares cluster 7 with another");
    CHECK_CONTAINS(test_messages(), "copy each of these files off");
    medium_end(&m);
}

/* What stands behind the end of one file is another: it must not be given back as room. */
TEST(fat_check_cuts_nothing_that_another_file_has)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    static uint8_t bytes[2000];
    make_sample(&m);
    medium_fill(bytes, sizeof bytes, 5);
    set_cluster(&m, 5, 6); /* A, which has all that it needs, goes on in B */
    set_cluster(&m, 100, 0xFFF);
    medium_open(&m, &d, true);
    CHECK_INT(medium_check(&d, true, &r), BL_E_DAMAGED);
    CHECK_CONTAINS(test_messages(), "A shares cluster 6 with another");
    CHECK_CONTAINS(test_messages(), "A needs 4 clusters for its 2000 bytes, and has 7");
    CHECK_CONTAINS(test_messages(), "settle first which file has the clusters that are shared");
    medium_same(&d, "A", bytes, 2000);
    medium_same(&d, "B", bytes, 1500);
    /* As it is told to: off, both away, and there again. */
    CHECK_INT(bl_disk_delete(&d, "A", false), BL_OK);
    CHECK_INT(bl_disk_delete(&d, "B", false), BL_OK);
    CHECK_INT(medium_check(&d, true, &r), BL_OK);
    CHECK_INT(medium_put(&d, "A", bytes, 2000), BL_OK);
    bl_disk_close(&d);
    fat_disk_good(&m);
    medium_end(&m);
}

TEST(fat_check_a_table_that_cannot_be_read_is_told)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    make_sample(&m);
    m.bad = TABLE + 9;
    medium_open(&m, &d, true);
    CHECK_INT(medium_check(&d, false, &r), BL_E_DAMAGED);
    CHECK_CONTAINS(test_messages(), "allocation table 2 cannot be read");
    CHECK_INT(r.files, 3);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(fat_check_folders_that_contain_themselves)
{
    medium m;
    make_sample(&m);
    uint8_t *entry = m.bytes + (DATA + 7) * 512 + 2 * 32; /* C becomes a folder */
    entry[11] = 0x10, entry[26] = 9;
    entry[28] = 0;
    bl_disk d;
    medium_open(&m, &d, false);
    CHECK_CONTAINS(medium_names(&d, "FOLDER/C/C/C/C"), "C/"); /* it ends, as deep as asked for */
    bl_disk_close(&d);
    mend(&m, "FOLDER/C/: the folder contains itself", 2); /* its name would be lost */
    drops = true;
    mend(&m, "FOLDER/C/: the folder contains itself", 1); /* C's cluster stays for now */
    CHECK_CONTAINS(test_messages(), "check again after it was repaired");
    medium_end(&m);
}

TEST(fat_check_folders_that_lead_nowhere)
{
    medium m;
    make_sample(&m);
    root_entry(&m, 2)[26] = 0;
    bl_disk d;
    medium_open(&m, &d, false);
    bl_disk_entry e;
    CHECK_INT(bl_disk_find(&d, "FOLDER/C", &e), BL_E_DAMAGED);
    CHECK_INT(bl_disk_delete(&d, "FOLDER", false), BL_E_DAMAGED);
    bl_disk_close(&d);
    mend(&m, "FOLDER/: it leads to no cluster", 2);
    drops = true;
    mend(&m, "FOLDER/: it leads to no cluster", 1);
    bl_disk_report r = {0};
    medium_open(&m, &d, false);
    CHECK_INT(medium_check(&d, true, &r), BL_OK); /* now its clusters are a file, and C's */
    CHECK_INT(bl_disk_find(&d, "LOST0002.BIN", &e), BL_OK);
    bl_disk_close(&d);
    fat_disk_good(&m);
    medium_end(&m);
}

TEST(fat_check_dots_tables_marks_and_labels)
{
    medium m;
    make_sample(&m);
    m.bytes[(DATA + 7) * 512 + 26] = 77;
    mend(&m, "FOLDER/: '.' leads to another folder", 0);
    m.bytes[(TABLE + 9) * 512 + 20] ^= 0x44;
    mend(&m, "allocation table 2: 1 sector is not as in the other copy", 0);
    m.bytes[TABLE * 512] = 0xF8;
    mend(&m, "allocation table 1: 1 sector is not as in the other copy", 0);
    m.bytes[TABLE * 512] = m.bytes[(TABLE + 9) * 512] = 0xF8;
    mend(&m, "does not begin with the medium's kind, $F0", 0);
    medium_end(&m);
}

TEST(fat_check_remarks_are_mended_and_break_nothing)
{
    medium m;
    bl_disk d;
    bl_disk_report r = {0};
    make_sample(&m);
    m.bytes[37] = 1;
    memcpy(m.bytes + 43, "OTHER      ", 11);
    medium_open(&m, &d, true);
    CHECK_INT(medium_check(&d, false, &r), BL_OK);
    CHECK_INT(r.remarks, 2);
    CHECK_INT(medium_check(&d, true, &r), BL_OK);
    CHECK_INT(r.mended, 2);
    bl_disk_close(&d);
    fat_disk_good(&m);
    medium_end(&m);
}

TEST(fat_check_two_of_one_name)
{
    medium m;
    make_sample(&m);
    root_entry(&m, 1)[0] = 'A';
    mend(&m, "A is there twice", 1);
    medium_end(&m);
}

TEST(fat_check_parts_of_long_names_without_a_file)
{
    medium m;
    make_sample(&m);
    uint8_t *e = root_entry(&m, 3);
    memset(e, 'x', 64);
    e[0] = 0x42, e[11] = 0x0F, e[12] = 0, e[13] = 9;
    e[32] = 0x01, e[43] = 0x0F, e[44] = 0, e[45] = 9;
    mend(&m, "/: 2 parts of a long name without a file", 0);
    medium_end(&m);
}

/* Volumes made elsewhere: long names, scattered files, folders of thousands, other geometries, old
 * floppies without a description, and what is no FAT12 or FAT16. Built here, entry by entry. */
#include <stdlib.h>
#include <string.h>

#include "fat_disk.h"

/* A volume whose numbers are all given. */
typedef struct build {
    medium m;
    unsigned bps, spc, reserved, nroot, fatsz, total, next;
    bool wide;
    uint8_t *root;
    unsigned entries;
} build;

static uint8_t *at_sector(build *b, unsigned sector)
{
    return b->m.bytes + (size_t)sector * b->bps;
}

static void fat_put(build *b, unsigned cluster, unsigned value)
{
    if (!b->wide) value &= 0xFFF;
    for (unsigned copy = 0; copy < 2; copy++) {
        uint8_t *t = at_sector(b, b->reserved + copy * b->fatsz);
        if (b->wide) {
            t[cluster * 2] = (uint8_t)value, t[cluster * 2 + 1] = (uint8_t)(value >> 8);
        } else if (cluster % 2 == 0) {
            t[cluster * 3 / 2] = (uint8_t)value;
            t[cluster * 3 / 2 + 1] = (uint8_t)((t[cluster * 3 / 2 + 1] & 0xF0) | value >> 8);
        } else {
            t[cluster * 3 / 2] = (uint8_t)((t[cluster * 3 / 2] & 0x0F) | (value & 0xF) << 4);
            t[cluster * 3 / 2 + 1] = (uint8_t)(value >> 4);
        }
    }
}

static void build_begin(build *b, unsigned device_sector)
{
    unsigned bytes = b->bps * b->total;
    medium_begin(&b->m, bytes / device_sector, (uint16_t)device_sector);
    memset(b->m.bytes, 0, bytes);
    uint8_t *s = b->m.bytes;
    s[11] = (uint8_t)b->bps, s[12] = (uint8_t)(b->bps >> 8), s[13] = (uint8_t)b->spc;
    s[14] = (uint8_t)b->reserved, s[16] = 2;
    s[17] = (uint8_t)b->nroot, s[18] = (uint8_t)(b->nroot >> 8);
    s[19] = (uint8_t)b->total, s[20] = (uint8_t)(b->total >> 8);
    s[21] = 0xF8, s[22] = (uint8_t)b->fatsz, s[24] = 1, s[26] = 1;
    s[510] = 0x55, s[511] = 0xAA;
    fat_put(b, 0, 0xFFF8), fat_put(b, 1, 0xFFFF);
    b->root = at_sector(b, b->reserved + 2 * b->fatsz);
    b->next = 2;
}

static uint8_t *cluster_of(build *b, unsigned cluster)
{
    unsigned data = b->reserved + 2 * b->fatsz + (b->nroot * 32 + b->bps - 1) / b->bps;
    return at_sector(b, data + (cluster - 2) * b->spc);
}

static uint8_t name_sum(const char *name)
{
    uint8_t sum = 0;
    for (int i = 0; i < 11; i++)
        sum = (uint8_t)((sum >> 1 | sum << 7) + name[i]);
    return sum;
}

/* An entry of the root with a long name of ASCII, or none. */
static uint8_t *add_entry(build *b, const char *name, const char *long_name)
{
    static const uint8_t places[13] = {1, 3, 5, 7, 9, 14, 16, 18, 20, 22, 24, 28, 30};
    size_t length = long_name != NULL ? strlen(long_name) : 0, parts = (length + 12) / 13;
    for (size_t p = parts; p > 0; p--) {
        uint8_t *e = b->root + b->entries++ * 32;
        memset(e, 0xFF, 32);
        e[0] = (uint8_t)(p | (p == parts ? 0x40u : 0));
        e[11] = 0x0F, e[12] = 0, e[13] = name_sum(name), e[26] = e[27] = 0;
        for (size_t k = 0; k < 13; k++) {
            size_t at = (p - 1) * 13 + k;
            if (at <= length) e[places[k]] = at < length ? (uint8_t)long_name[at] : 0;
            if (at <= length) e[places[k] + 1] = 0;
        }
    }
    uint8_t *e = b->root + b->entries++ * 32;
    memset(e, 0, 32);
    memcpy(e, name, 11);
    e[11] = 0x20, e[24] = 0x21, e[25] = 0x50;
    return e;
}

/* A file whose clusters lie 'step' apart. */
static void add_file(build *b, uint8_t *e, const uint8_t *bytes, unsigned count, unsigned step)
{
    unsigned each = b->bps * b->spc, done = 0, at = b->next;
    e[26] = (uint8_t)at, e[27] = (uint8_t)(at >> 8);
    e[28] = (uint8_t)count, e[29] = (uint8_t)(count >> 8), e[30] = (uint8_t)(count >> 16);
    while (done < count) {
        unsigned n = count - done < each ? count - done : each;
        memcpy(cluster_of(b, at), bytes + done, n);
        done += n;
        fat_put(b, at, done < count ? at + step : 0xFFFF);
        at += step;
    }
    b->next += step > 1 ? 1 : (count + each - 1) / each;
}

TEST(fat_long_names_are_read)
{
    build b = {.bps = 512, .spc = 1, .reserved = 1, .nroot = 112, .fatsz = 3, .total = 720};
    bl_disk d;
    bl_disk_entry e;
    build_begin(&b, 512);
    add_file(&b, add_entry(&b, "KEEPER~1TXT", "keeper's message of today.txt"),
             (const uint8_t *)"calm", 4, 1);
    add_file(&b, add_entry(&b, "EXACTL~1   ", "exactly 13 ch"), (const uint8_t *)"x", 1, 1);
    add_file(&b, add_entry(&b, "WRONGS~1   ", "of another file"), (const uint8_t *)"y", 1, 1);
    b.root[(b.entries - 2) * 32 + 13] ^= 1; /* the sum of the name is not that of the entry */
    uint8_t *lower = add_entry(&b, "LOWER   C  ", NULL);
    lower[12] = 0x18;
    uint8_t *special = add_entry(&b,
                                 "\x05"
                                 "\x81      C  ",
                                 NULL); /* $E5 is sigma, $81 ue */
    (void)special;
    medium_open(&b.m, &d, false);
    CHECK_TEXT(medium_names(&d, ""), "keeper's message of today.txt(4) exactly 13 ch(1) "
                                     "WRONGS~1(1) lower.c(0) \xCF\x83\xC3\xBC.C(0)");
    medium_same(&d, "KEEPER'S message of today.TXT", "calm", 4);
    medium_same(&d, "keeper~1.txt", "calm", 4);
    CHECK_INT(medium_put(&d, "keeper's message of today.txt", "gale", 4), BL_OK);
    CHECK_INT(bl_disk_find(&d, "KEEPER~1.TXT", &e), BL_OK);
    CHECK_TEXT(e.name, "keeper's message of today.txt"); /* it keeps its long name */
    CHECK_TEXT(e.short_name, "KEEPER~1.TXT");
    CHECK_INT(bl_disk_rename(&d, "exactly 13 ch", "SHORT"), BL_OK);
    CHECK_INT(bl_disk_delete(&d, "keeper~1.txt", false), BL_OK);
    bl_disk_report r = {0};
    CHECK_INT(medium_check(&d, true, &r), BL_OK);
    CHECK_INT(r.mended, 1); /* the long name of another file; those of files went with them */
    CHECK_TEXT(medium_names(&d, ""), "SHORT(1) WRONGS~1(1) lower.c(0) \xCF\x83\xC3\xBC.C(0)");
    bl_disk_close(&d);
    medium_end(&b.m);
}

TEST(fat_characters_beyond_the_first_plane_are_read)
{
    build b = {.bps = 512, .spc = 1, .reserved = 1, .nroot = 112, .fatsz = 3, .total = 720};
    bl_disk d;
    build_begin(&b, 512);
    add_entry(&b, "LIGHT~1    ", "abcd");
    uint8_t *part = b.root; /* U+1F6A8, then a half of a pair alone, then u-umlaut */
    part[1] = 0x3D, part[2] = 0xD8, part[3] = 0xA8, part[4] = 0xDE, part[5] = 0x00, part[6] = 0xD8;
    part[7] = 0xFC, part[8] = 0x00;
    medium_open(&b.m, &d, false);
    CHECK_TEXT(medium_names(&d, ""), "\xF0\x9F\x9A\xA8\xEF\xBF\xBD\xC3\xBC(0)");
    bl_disk_close(&d);
    medium_end(&b.m);
}

TEST(fat_scattered_files_and_odd_geometries_are_read)
{
    static const build all[] = {
        {.bps = 512, .spc = 2, .reserved = 1, .nroot = 16, .fatsz = 2, .total = 700},
        {.bps = 1024, .spc = 1, .reserved = 3, .nroot = 64, .fatsz = 2, .total = 400},
        {.bps = 2048, .spc = 4, .reserved = 1, .nroot = 100, .fatsz = 1, .total = 900},
        {.bps = 128, .spc = 8, .reserved = 5, .nroot = 32, .fatsz = 9, .total = 5000},
        {.bps = 256, .spc = 1, .reserved = 2, .nroot = 48, .fatsz = 70, .total = 8800, .wide = 1},
    };
    static uint8_t bytes[9000];
    medium_fill(bytes, sizeof bytes, 4);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        build b = all[i];
        bl_disk d;
        bl_disk_entry e;
        bl_disk_report r = {0};
        build_begin(&b, b.bps < 512 ? b.bps : 512);
        unsigned each = b.bps * b.spc;
        add_file(&b, add_entry(&b, "SCATTER    ", NULL), bytes, 9000, 3);
        add_file(&b, add_entry(&b, "ALSO       ", NULL), bytes + 1, 8000, 3);
        medium_open(&b.m, &d, false);
        CHECK_INT(bl_disk_kind_of(&d), b.wide ? BL_DISK_FAT16 : BL_DISK_FAT12);
        medium_same(&d, "SCATTER", bytes, 9000);
        medium_same(&d, "ALSO", bytes + 1, 8000);
        CHECK_INT(bl_disk_find(&d, "SCATTER", &e), BL_OK);
        CHECK_INT(e.pieces, (9000 + each - 1) / each);
        medium_check(&d, false, &r);
        CHECK_TEXT(test_messages(), "");
        CHECK_INT(medium_put(&d, "NEW", bytes + 7, 5000), BL_OK);
        medium_same(&d, "NEW", bytes + 7, 5000);
        medium_same(&d, "SCATTER", bytes, 9000);
        CHECK_INT(medium_check(&d, false, &r), BL_OK);
        bl_disk_close(&d);
        medium_end(&b.m);
    }
}

TEST(fat_floppies_without_a_description_are_known_by_their_size)
{
    static const struct {
        uint32_t total;
        uint8_t media, table;
    } all[] = {{320, 0xFE, 1}, {360, 0xFC, 2}, {640, 0xFF, 1}, {720, 0xFD, 2}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        medium m;
        bl_disk d;
        bl_disk_report r = {0};
        fat_disk_begin(&m, all[i].total, false);
        memset(m.bytes, 0xF6, 512);
        medium_open(&m, &d, false);
        CHECK_INT(medium_put(&d, "OLD.COM", "old", 3), BL_OK);
        medium_same(&d, "old.com", "old", 3);
        CHECK_INT(medium_check(&d, true, &r), BL_OK);
        CHECK_INT(r.broken + r.remarks, 0);
        for (unsigned k = 0; k < 512; k++)
            CHECK_INT(m.bytes[k], 0xF6);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

static void refused(medium *m, bl_status status, const char *message)
{
    bl_disk d;
    bl_disk_setup setup = {.sink = test_sink};
    test_messages_clear();
    CHECK_INT(bl_disk_open(&d, &m->sectors, &test_memory, &setup), status);
    CHECK_CONTAINS(test_messages(), message);
    CHECK_INT(test_blocks(), 0);
}
#define refused(...) TEST_CALL(refused(__VA_ARGS__))

TEST(fat_what_cannot_be_read_is_told)
{
    medium m;
    fat_disk_begin(&m, 2880, false);
    m.bytes[19] = 0x41, m.bytes[20] = 0x0B;
    refused(&m, BL_E_DAMAGED, "it says that it has 2881 sectors of 512 bytes; there are 2880");
    m.bytes[19] = 0x40;
    m.bytes[22] = 8;
    refused(&m, BL_E_DAMAGED, "its table has 8 sectors, and 2849 clusters need 9");
    m.bytes[22] = 9, m.bytes[14] = 0x50, m.bytes[15] = 0x0B;
    refused(&m, BL_E_DAMAGED, "there is no room for files between its table and its end");
    m.bytes[14] = 32, m.bytes[15] = 0, m.bytes[17] = 0, m.bytes[18] = 0, m.bytes[22] = 0;
    refused(&m, BL_E_UNSUPPORTED, "it is FAT32");
    memset(m.bytes, 0, 2880 * 512);
    refused(&m, BL_E_UNSUPPORTED, "no file system that is known is on it");
    medium_end(&m);
}

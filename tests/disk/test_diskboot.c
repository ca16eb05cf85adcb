/* Boot programs beside file systems, tables of partitions, tracks and sides. */
#include <string.h>

#include "fat_disk.h"

static const bl_boot_rule pc_rule = {.mark = {{510, 0x55}, {511, 0xAA}}, .mark_count = 2};

TEST(boot_programs_leave_the_description_alone)
{
    medium m;
    bl_disk d;
    uint8_t code[512] = {0xEB, 0x3C, 0x90};
    uint32_t written;
    fat_disk_begin(&m, 2880, false);
    uint8_t before[512];
    memcpy(before, m.bytes, 512);
    memset(code + 62, 0x77, 400);
    medium_open(&m, &d, true);
    bl_boot_program p = {.bytes = code, .size = 462};
    CHECK_INT(bl_disk_boot(&d, &p, &pc_rule, &written), BL_OK);
    CHECK_INT(written, 1);
    CHECK_BYTES(m.bytes + 11, 51, before + 11, 51);
    CHECK_BYTES(m.bytes + 62, 400, code + 62, 400);
    CHECK_INT(m.bytes[510] << 8 | m.bytes[511], 0x55AA);
    fat_disk_good(&m);
    CHECK_INT(bl_disk_boot_check(&d, &pc_rule), BL_OK);
    code[20] = 0x12;
    CHECK_INT(bl_disk_boot(&d, &p, &pc_rule, &written), BL_E_OVERLAP);
    CHECK_CONTAINS(test_messages(), "byte 20 of the boot program is 18; bytes 11 to 61 of the boot "
                                    "sector describe the file system");
    code[20] = before[20];
    memset(code + 500, 0x77, 12);
    p.size = 512;
    CHECK_INT(bl_disk_boot(&d, &p, &pc_rule, &written), BL_E_OVERLAP);
    CHECK_CONTAINS(test_messages(), "byte 510 must be $55 for the machine to boot, and it is used");
    p.size = 513;
    CHECK_INT(bl_disk_boot(&d, &p, NULL, &written), BL_E_FULL);
    m.bytes[511] = 0;
    CHECK_INT(bl_disk_boot_check(&d, &pc_rule), BL_E_DIFFERS);
    bl_disk_close(&d);
    medium_end(&m);
}

TEST(boot_sums_come_out_as_the_machine_wants_them)
{
    static const struct {
        bl_boot_sum kind;
        uint16_t total;
    } all[] = {{BL_BOOT_SUM8, 0x12},
               {BL_BOOT_XOR8, 0xA5},
               {BL_BOOT_WORDS, 0x1234},
               {BL_BOOT_WORDS_BIG, 0x1234}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        medium m;
        bl_disk d;
        uint32_t written;
        uint8_t code[400];
        bl_boot_rule rule = {
            .sum = all[i].kind, .sum_count = 512, .sum_at = 508, .total = all[i].total};
        medium_fill(code, sizeof code, (unsigned)i);
        memset(code + 11, 0, 51);
        fat_disk_begin(&m, 720, false);
        medium_open(&m, &d, true);
        CHECK_INT(bl_disk_boot(&d, &(bl_boot_program){code, NULL, 400}, &rule, &written), BL_OK);
        unsigned sum = 0;
        for (unsigned k = 0; k < 512; k++) {
            if (all[i].kind == BL_BOOT_SUM8) sum = (sum + m.bytes[k]) & 0xFF;
            if (all[i].kind == BL_BOOT_XOR8) sum ^= m.bytes[k];
            if (all[i].kind == BL_BOOT_WORDS) sum += (unsigned)m.bytes[k] << (k % 2 ? 8 : 0);
            if (all[i].kind == BL_BOOT_WORDS_BIG) sum += (unsigned)m.bytes[k] << (k % 2 ? 0 : 8);
        }
        CHECK_INT(sum & 0xFFFF, all[i].total);
        CHECK_INT(bl_disk_boot_check(&d, &rule), BL_OK);
        m.bytes[100] ^= 1;
        CHECK_INT(bl_disk_boot_check(&d, &rule), BL_E_DIFFERS);
        bl_disk_close(&d);
        medium_end(&m);
    }
}

TEST(boot_on_classic_disks_fills_the_system_tracks)
{
    medium m;
    bl_disk d;
    uint32_t written;
    static uint8_t code[6000];
    const bl_classic *l = bl_classic_shipped(0);
    medium_begin(&m, bl_classic_bytes(l) / 128, 128);
    CHECK_INT(bl_classic_format(&m.sectors, l), BL_OK);
    medium_open(&m, &d, true);
    medium_fill(code, sizeof code, 1);
    CHECK_INT(bl_disk_boot(&d, &(bl_boot_program){code, NULL, 6000}, NULL, &written), BL_OK);
    CHECK_INT(written, 47);
    CHECK_BYTES(m.bytes, 6000, code, 6000);
    CHECK_INT(m.bytes[6000], 0xE5);
    CHECK_INT(medium_put(&d, "A", "x", 1), BL_OK);
    CHECK_BYTES(m.bytes, 6000, code, 6000);
    bl_boot_program long_one = {code, NULL, 2 * 26 * 128 + 1};
    CHECK_INT(bl_disk_boot(&d, &long_one, NULL, &written), BL_E_FULL);
    bl_disk_close(&d);
    medium_end(&m);
}

/* ---- partitions ---- */

TEST(partitions_are_written_and_read)
{
    medium m;
    bl_partition list[BL_PARTITIONS];
    size_t count;
    medium_begin(&m, 65536, 512);
    bl_partition p = {.kind = 0x06, .active = true, .first = 2048, .count = 60000};
    CHECK_INT(bl_partition_make(&m.sectors, &p, 32, 64), BL_OK);
    CHECK_INT(bl_partitions_read(&m.sectors, list, &count), BL_OK);
    CHECK_INT(count, 1);
    CHECK_INT(list[0].first, 2048);
    CHECK_INT(list[0].count, 60000);
    CHECK(list[0].active && bl_partition_is_fat(&list[0]));
    /* 2048 = cylinder 1, head 0, sector 1 of 32 sectors and 64 heads */
    static const uint8_t row[8] = {0x80, 0, 1, 1, 6, 18, 32, 30};
    CHECK_BYTES(m.bytes + 446, 5, row, 5);
    bl_sectors_part part;
    bl_sectors s;
    CHECK_INT(bl_sectors_cut(&part, &m.sectors, 2048, 60000, &s), BL_OK);
    CHECK_INT(bl_sectors_cut(&part, &m.sectors, 6000, 60000, &s), BL_E_RANGE);
    p.count = 70000;
    CHECK_INT(bl_partition_make(&m.sectors, &p, 32, 64), BL_E_ARGUMENT);
    memset(m.bytes, 0, 512);
    CHECK_INT(bl_partitions_read(&m.sectors, list, &count), BL_E_NOT_FOUND);
    medium_end(&m);
}

static void put_row(medium *m, uint32_t table, unsigned row, uint8_t kind, uint32_t first,
                    uint32_t count)
{
    uint8_t *b = m->bytes + (size_t)table * 512, *r = b + 446 + row * 16;
    memset(r, 0, 16);
    r[4] = kind;
    for (unsigned i = 0; i < 4; i++)
        r[8 + i] = (uint8_t)(first >> 8 * i), r[12 + i] = (uint8_t)(count >> 8 * i);
    b[510] = 0x55, b[511] = 0xAA;
}

TEST(partitions_in_extended_ones_are_followed_and_circles_end)
{
    medium m;
    bl_partition list[BL_PARTITIONS];
    size_t count;
    medium_begin(&m, 10000, 512);
    memset(m.bytes, 0, 10000 * 512);
    put_row(&m, 0, 0, 0x83, 63, 900);
    put_row(&m, 0, 2, 0x05, 1000, 8000);
    put_row(&m, 1000, 0, 0x01, 63, 2000);
    put_row(&m, 1000, 1, 0x05, 3000, 4000);
    put_row(&m, 4000, 0, 0x04, 63, 3000);
    CHECK_INT(bl_partitions_read(&m.sectors, list, &count), BL_OK);
    CHECK_INT(count, 3);
    CHECK_INT(list[1].first, 1063);
    CHECK_INT(list[2].first, 4063);
    CHECK(list[2].logical && bl_partition_is_fat(&list[2]) && !bl_partition_is_fat(&list[0]));
    put_row(&m, 4000, 1, 0x05, 3000, 4000);
    CHECK_INT(bl_partitions_read(&m.sectors, list, &count), BL_E_DAMAGED);
    put_row(&m, 4000, 1, 0, 0, 0);
    put_row(&m, 4000, 0, 0x04, 63, 30000);
    CHECK_INT(bl_partitions_read(&m.sectors, list, &count), BL_E_DAMAGED);
    CHECK_INT(count, 2);
    for (unsigned turn = 0; turn < 3000; turn++) { /* whatever is in the tables, it ends */
        for (unsigned i = 0; i < 4; i++)
            m.bytes[(i % 2 ? 512000u : 0u) + 446 + test_below(64)] = (uint8_t)test_random();
        bl_partitions_read(&m.sectors, list, &count);
        CHECK(count <= BL_PARTITIONS);
    }
    medium_end(&m);
}

TEST(geometry_counts_tracks_sides_and_skew)
{
    bl_geometry g = {.tracks = 80, .sides = 2, .sectors = 9, .skew = 0};
    uint32_t n;
    CHECK(bl_geometry_sector(&g, 0, 0, 1, &n));
    CHECK_INT(n, 0);
    CHECK(bl_geometry_sector(&g, 3, 1, 9, &n));
    CHECK_INT(n, (3 * 2 + 1) * 9 + 8);
    CHECK(!bl_geometry_sector(&g, 80, 0, 1, &n));
    CHECK(!bl_geometry_sector(&g, 0, 2, 1, &n));
    CHECK(!bl_geometry_sector(&g, 0, 0, 0, &n));
    CHECK(!bl_geometry_sector(&g, 0, 0, 10, &n));
    g = (bl_geometry){.tracks = 77, .sides = 1, .sectors = 26, .skew = 6};
    CHECK(bl_geometry_sector(&g, 1, 0, 2, &n));
    CHECK_INT(n, 26 + 6);
    for (uint16_t sectors = 1; sectors <= 60; sectors++) /* each skew reaches each sector once */
        for (uint8_t skew = 0; skew < 20; skew++) {
            uint64_t seen = 0;
            for (uint16_t i = 0; i < sectors; i++)
                seen |= 1ull << bl_skewed(sectors, skew, i);
            CHECK(seen == (1ull << sectors) - 1);
        }
}

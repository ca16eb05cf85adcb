/* Images of disks in files: changed in a copy that takes their place, or sector by sector. */
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "disk/disk_build.h"
#include "disk/disk_compare.h"
#include "disk/disk_make.h"
#include "disk/disk_text.h"
#include "host_support.h"

static void put_byte(disk_image *i, uint32_t sector, uint8_t byte)
{
    uint8_t bytes[512];
    memset(bytes, byte, sizeof bytes);
    CHECK_INT(i->sectors.write(i->sectors.context, sector, bytes), BL_OK);
}

static uint8_t file_byte(const char *name, size_t at)
{
    size_t count;
    const char *all = test_read_file(name, &count);
    CHECK(at < count);
    return (uint8_t)all[at];
}

static void make_file(const char *name, size_t sectors)
{
    uint8_t *bytes = malloc(sectors * 512);
    memset(bytes, 0x11, sectors * 512);
    test_write_bytes(name, bytes, sectors * 512);
    free(bytes);
}

TEST(disk_images_change_all_at_once)
{
    disk_image i;
    uint8_t back[512];
    make_file("d.img", 20);
    CHECK_INT(disk_image_open(test_path("d.img"), 0, false, DISK_READS, &test_sink, &i), BL_OK);
    CHECK_INT(i.sectors.count, 20);
    put_byte(&i, 3, 0x22);
    CHECK_INT(i.sectors.read(i.sectors.context, 3, back), BL_OK);
    CHECK_INT(back[0], 0x22);
    CHECK_INT(file_byte("d.img", 3 * 512), 0x11); /* not yet */
    CHECK_INT(disk_image_commit(&i, test_path("d.img"), &test_sink), BL_OK);
    disk_image_close(&i);
    CHECK_INT(file_byte("d.img", 3 * 512), 0x22);
    CHECK_INT(file_byte("d.img", 4 * 512), 0x11);
    /* Given up: nothing has happened. */
    CHECK_INT(disk_image_open(test_path("d.img"), 0, false, DISK_READS, &test_sink, &i), BL_OK);
    put_byte(&i, 3, 0x33);
    disk_image_close(&i);
    CHECK_INT(file_byte("d.img", 3 * 512), 0x22);
}

TEST(disk_images_in_place_change_at_once)
{
    disk_image i;
    make_file("d.img", 20);
    CHECK_INT(disk_image_open(test_path("d.img"), 0, true, DISK_CHANGES, &test_sink, &i), BL_OK);
    put_byte(&i, 19, 0x22);
    CHECK_INT(file_byte("d.img", 19 * 512), 0x22);
    CHECK_INT(i.sectors.write(i.sectors.context, 20, (const uint8_t *)"x"), BL_E_RANGE);
    CHECK_INT(disk_image_commit(&i, test_path("d.img"), &test_sink), BL_OK);
    disk_image_close(&i);
    chmod(test_path("d.img"), 0444);
    if (geteuid() == 0) return; /* who may do anything is not refused */
    CHECK_INT(disk_image_open(test_path("d.img"), 0, true, DISK_CHANGES, &test_sink, &i), BL_OK);
    CHECK_INT(i.sectors.write(i.sectors.context, 2, (const uint8_t *)"x"), BL_E_PROTECTED);
    disk_image_close(&i);
}

TEST(disk_images_that_somebody_else_changed_are_left_alone)
{
    disk_image i;
    make_file("d.img", 20);
    CHECK_INT(disk_image_open(test_path("d.img"), 0, false, DISK_READS, &test_sink, &i), BL_OK);
    put_byte(&i, 3, 0x22);
    make_file("d.img", 21);
    CHECK_INT(disk_image_commit(&i, test_path("d.img"), &test_sink), BL_E_BUSY);
    CHECK_CONTAINS(test_messages(), "somebody else has changed this image meanwhile");
    disk_image_close(&i);
    CHECK_INT(file_byte("d.img", 3 * 512), 0x11);
}

TEST(disk_images_of_gibibytes_stay_holes)
{
    disk_image i;
    struct stat s;
    disk_wish w = {.kind = BL_DISK_FAT16, .bytes = (uint64_t)2 << 30, .partition = true};
    CHECK_INT(disk_make(&w, &test_sink, &i), BL_OK);
    CHECK_INT(disk_image_commit(&i, test_path("big.img"), &test_sink), BL_OK);
    disk_image_close(&i);
    CHECK_INT(stat(test_path("big.img"), &s), 0);
    CHECK_INT(s.st_size, (long long)2 << 30);
    CHECK(s.st_blocks < 8000);
    CHECK_INT(disk_image_open(test_path("big.img"), 0, false, DISK_READS, &test_sink, &i), BL_OK);
    put_byte(&i, 4000000, 9);
    CHECK_INT(disk_image_commit(&i, test_path("big.img"), &test_sink), BL_OK);
    disk_image_close(&i);
    CHECK_INT(stat(test_path("big.img"), &s), 0);
    CHECK(s.st_blocks < 8000);
}

TEST(disk_images_that_are_none_are_told)
{
    disk_image i;
    test_write_file("short.img", "no sectors");
    CHECK_INT(disk_image_open(test_path("short.img"), 0, false, DISK_READS, &test_sink, &i),
              BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "its 10 bytes are no whole sectors of 128 bytes");
    test_write_file("empty.img", "");
    CHECK_INT(disk_image_open(test_path("empty.img"), 0, false, DISK_READS, &test_sink, &i),
              BL_E_SYNTAX);
    CHECK_INT(disk_image_open(test_path("none.img"), 0, false, DISK_READS, &test_sink, &i),
              BL_E_NOT_FOUND);
    CHECK_INT(disk_image_open(test_folder(), 0, false, DISK_READS, &test_sink, &i), BL_E_IO);
}

TEST(disks_of_every_wish_are_made_or_refused)
{
    static const struct {
        disk_wish wish;
        const char *refused;
    } all[] = {
        {{.kind = BL_DISK_FAT12}, NULL},
        {{.kind = BL_DISK_FAT16}, NULL},
        {{.kind = BL_DISK_CLASSIC}, NULL},
        {{.kind = BL_DISK_BARE, .label = "SKERRY"}, NULL},
        {{.kind = BL_DISK_FAT12, .partition = true, .bytes = 8 << 20}, NULL},
        {{.kind = BL_DISK_CLASSIC, .bytes = 8 << 20}, NULL},
        {{.kind = BL_DISK_CLASSIC, .bytes = 100 << 10}, "no layout that is known has this size"},
        {{.kind = BL_DISK_CLASSIC, .label = "X"}, "a classic disk has no label"},
        {{.kind = BL_DISK_BARE, .partition = true}, "only FAT lies in partitions"},
        {{.kind = BL_DISK_BARE, .bytes = 512}, "too small for any file"},
        {{.kind = BL_DISK_BARE, .label = "A LABEL OF 17 CH."}, "at most 16 characters"},
        {{.kind = BL_DISK_FAT12, .label = "TWELVE CHARS"}, "at most 11 characters"},
        {{.kind = BL_DISK_FAT12, .bytes = 1000}, "no multiple of 512"},
        {{.kind = BL_DISK_FAT16, .bytes = 1 << 20}, "too small for FAT16"},
        {{.kind = BL_DISK_FAT16, .bytes = (uint64_t)4 << 30}, "FAT16, which ends at 2 GiB"},
    };
    for (size_t k = 0; k < BL_COUNT(all); k++) {
        disk_volume v = {.image = {.fd = -1}};
        disk_opening how = {.b = NULL};
        test_messages_clear();
        bl_status status = disk_make(&all[k].wish, &test_sink, &v.image);
        CHECK_INT(status == BL_OK, all[k].refused == NULL);
        if (status != BL_OK) {
            CHECK_CONTAINS(test_messages(), all[k].refused);
            continue;
        }
        CHECK_INT(disk_volume_of(&v, "new", &how, &test_sink), BL_OK);
        CHECK_INT(bl_disk_kind_of(&v.disk), all[k].wish.kind);
        disk_volume_close(&v);
    }
}

/* A table whose first partition is something else, and whose kinds need not be true. */
TEST(disk_partitions_are_found_by_what_is_in_them)
{
    static const uint8_t kinds[][2] = {{0x83, 0x06}, {0x83, 0x83}, {0x06, 0x83}};
    for (size_t k = 0; k < BL_COUNT(kinds); k++) {
        disk_volume v = {.image = {.fd = -1}};
        disk_opening how = {.b = NULL};
        bl_sectors_part part;
        bl_sectors s;
        bl_fat_plan plan = {.total = 2880};
        const char *why;
        uint8_t table[512] = {0};
        disk_image_new(4000 * 512, 512, &v.image);
        CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_OK);
        CHECK_INT(bl_sectors_cut(&part, &v.image.sectors, 500, 2880, &s), BL_OK);
        CHECK_INT(bl_fat_format(&s, &plan), BL_OK);
        static const uint32_t places[2][2] = {{100, 300}, {500, 2880}};
        for (unsigned i = 0; i < 2; i++) {
            uint8_t *row = table + 446 + i * 16;
            row[4] = kinds[k][i];
            for (unsigned n = 0; n < 4; n++)
                row[8 + n] = (uint8_t)(places[i][0] >> 8 * n),
                        row[12 + n] = (uint8_t)(places[i][1] >> 8 * n);
        }
        table[510] = 0x55, table[511] = 0xAA;
        v.image.sectors.write(v.image.sectors.context, 0, table);
        CHECK_INT(disk_volume_of(&v, "card", &how, &test_sink), BL_OK);
        CHECK_INT(v.partition, 1);
        CHECK_INT(bl_disk_kind_of(&v.disk), BL_DISK_FAT12);
        CHECK_INT(test_error_count(), 0);
        disk_volume_close(&v);
    }
}

/* ---- texts ---- */

static char *made_text(const char *text)
{
    static const bl_disk_file file = {
        .has_load = true, .load = 0x8000, .has_entry = true, .entry = 0x8003};
    disk_text_source source = {.name = "tide", .file = &file, .length = 0x123};
    test_messages_clear();
    return disk_text(text, &source, "bench.yaml", 12, &test_sink);
}

TEST(disk_texts_say_what_the_program_is)
{
    static const struct {
        const char *text, *made;
    } all[] = {
        {"LOAD {name} {load:x4}", "LOAD tide 8000"},
        {"{entry:X5} {last} {end:o6}", "08003 33058 100443"},
        {"{length + 1:d} {lo(entry):x2}", "292 03"},
        {"{{literal}", "{literal}"},
        {"", ""},
    };
    for (size_t i = 0; i < BL_COUNT(all); i++) {
        char *text = made_text(all[i].text);
        CHECK(text != NULL);
        CHECK_TEXT(text, all[i].made);
        g_free(text);
    }
    CHECK(made_text("{lamp}") == NULL);
    CHECK_CONTAINS(test_messages(), "bench.yaml:12: error: {lamp}: 'lamp' has no value");
    CHECK(made_text("{load:q4}") == NULL);
    CHECK_CONTAINS(test_messages(), "there is no such form");
    CHECK(made_text("{load") == NULL);
    CHECK_CONTAINS(test_messages(), "a brace is not closed");
}

/* ---- the bench file ---- */

static void bench_fault(const char *disk, const char *message)
{
    GString *text = g_string_new("bench: Skerry-D\ncpu: z80\nclock: 4 MHz\nareas:\n"
                                 "  - {name: ram, range: $8000..$FFFF, kind: ram}\ndisk:\n");
    bench *b;
    g_string_append(text, disk);
    test_write_file("bench.yaml", text->str);
    g_string_free(text, TRUE);
    test_messages_clear();
    CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b),
              BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), message);
}
#define bench_fault(...) TEST_CALL(bench_fault(__VA_ARGS__))

TEST(disk_faults_of_a_bench_file_are_told_at_their_lines)
{
    bench_fault("  kind: fat11\n", "bench.yaml:7:9: error: 'fat11' is no kind of disk");
    bench_fault("  kind: fat12\n  size: 12Q\n", "'12Q' is no size of a disk");
    bench_fault("  image: x.img\n", "the disk that is to be built has no kind");
    bench_fault("  kind: fat12\n  image: ../x.img\n", "a file in the folder of what is built");
    bench_fault("  kind: fat12\n  files:\n    - {to: X}\n", "made of a source, a file or lines");
    bench_fault("  kind: fat12\n  files:\n    - {file: x, wrap: none}\n", "no wrapper 'none'");
    bench_fault("  kind: fat12\n  files:\n    - {lines: [a]}\n", "a text needs a name on the disk");
    bench_fault("  kind: fat12\n  files:\n    - {file: x, of: y}\n", "belong to lines of text");
    bench_fault("  kind: classic\n  files:\n    - {file: x, user: 16}\n",
                "not a number from 0 to 15");
    bench_fault("  wraps:\n    - {name: w, head: [{field: nothing}]}\n",
                "'nothing' is none of those");
    bench_fault("  wraps:\n    - {name: w, head: [{field: text}]}\n", "a text field has a text");
    bench_fault("  wraps:\n    - {name: w, head: [{field: name}]}\n", "this field needs a size");
    bench_fault("  wraps:\n    - {name: w}\n", "a wrapper has a field at least");
    bench_fault("  wraps:\n    - {name: w, head: [{field: load, size: 5}]}\n", "from 0 to 4");
    bench_fault("  layouts:\n    - {name: l, sector: 512, track: 9, tracks: 40, block: 1000, "
                "entries: 64}\n",
                "there can be no such disk: blocks have");
    bench_fault("  layouts:\n    - {name: l, sector: 512, track: 3, tracks: 90, block: 1024, "
                "entries: 64, order: [1, 2]}\n",
                "a track has 3 sectors, and the order names 2");
    bench_fault("  boot_sum: {kind: sum9, over: 0..511, at: 511, total: 0}\n", "'sum9' is none");
    bench_fault("  boot_sum: {kind: sum8, over: 511..0, at: 511, total: 0}\n", "no range of bytes");
}

/* ---- what is built ---- */

TEST(disks_are_built_the_same_from_the_same_sources)
{
    bench *b;
    project *p;
    disk_contents c;
    guint files;
    uint32_t crc[2];
    test_write_file(
        "bench.yaml",
        "bench: Skerry-D\ncpu: z80\nclock: 4 MHz\nareas:\n"
        "  - {name: ram, range: $8000..$FFFF, kind: ram}\ndisk:\n"
        "  kind: classic\n  layout: five\n  layouts:\n"
        "    - {name: five, sector: 256, track: 16, tracks: 35, system: 3, block: 2048, "
        "entries: 64, skew: 3}\n"
        "  files:\n    - {source: a.asm, to: A.COM, user: 2}\n"
        "    - {file: t.txt}\n    - {to: GO.SUB, of: a, newline: cr, lines: "
        "[\"A {entry:X4}\", \"{here_it_is:x4}\"]}\n");
    test_write_file("a.asm", "        .place ram\n        .entry go\n        .word 7\n"
                             "go:     ret\nhere_it_is:\n");
    test_write_file("t.txt", "calm");
    for (unsigned i = 0; i < 2; i++) {
        CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b), BL_OK);
        CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_OK);
        if (disk_add_to_project(p, NULL, &test_sink, &files) != BL_OK)
            test_fail(__FILE__, __LINE__, "%s", test_messages());
        CHECK_INT(files, 3);
        const project_result *r = g_ptr_array_index(p->results, 0);
        crc[i] = bl_crc32(0, r->bytes->data, r->bytes->len);
        CHECK_INT(r->bytes->len, 256 * 16 * 35);
        project_close(p);
        bench_close(b);
    }
    CHECK_INT(crc[0], crc[1]);
    CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b), BL_OK);
    CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_OK);
    CHECK_INT(disk_contents_make(p, NULL, &test_sink, &c), BL_OK);
    const disk_content *text = g_ptr_array_index(c.files, 2);
    CHECK_BYTES(text->bytes->data, text->bytes->len, "A 8002\r8003\r", 12);
    /* On a disk that holds something else each difference is seen. */
    disk_volume v = {.image = {.fd = -1}};
    disk_opening how = {.b = b, .layout = "five"};
    CHECK_INT(disk_build(p, &c, &test_sink, &v.image), BL_OK);
    CHECK_INT(disk_volume_of(&v, "built", &how, &test_sink), BL_OK);
    uint32_t where;
    for (guint i = 0; i < c.files->len; i++)
        CHECK_INT(disk_compare(&v.disk, g_ptr_array_index(c.files, i), &where), DISK_SAME);
    bl_disk_file other = {.bytes = (const uint8_t *)"calx", .size = 4};
    CHECK_INT(bl_disk_put(&v.disk, "T.TXT", &other, NULL), BL_OK);
    CHECK_INT(disk_compare(&v.disk, g_ptr_array_index(c.files, 1), &where), DISK_DIFFERS);
    CHECK_INT(where, 3);
    CHECK_INT(bl_disk_delete(&v.disk, "2:A.COM", false), BL_OK);
    CHECK_INT(disk_compare(&v.disk, g_ptr_array_index(c.files, 0), &where), DISK_MISSING);
    disk_volume_close(&v);
    disk_contents_end(&c);
    project_close(p);
    bench_close(b);
}

/* A raw binary has no addresses unless it is said: none are made up for a wrapper. */
TEST(disks_make_up_no_addresses)
{
    static const struct {
        const char *file, *says;
    } all[] = {
        {"{file: raw.bin, wrap: w}", "wrapper w wants its load address, and it has none"},
        {"{file: raw.bin, wrap: w, at: 0x8000}", NULL},
        {"{file: raw.bin, wrap: w, at: nowhere}", "'nowhere' is no address"},
        {"{file: rec.hex, wrap: w}", NULL},
        {"{file: rec.hex, wrap: w, at: 0x8000}", "says itself where its bytes belong"},
        {"{file: rec.hex}", NULL},
        {"{file: none.bin}", "none.bin"},
    };
    test_write_file("raw.bin", "abc");
    test_write_file("rec.hex", ":0280000001027B\n:00000001FF\n");
    for (size_t i = 0; i < BL_COUNT(all); i++) {
        char text[700];
        bench *b;
        project *p;
        disk_contents c;
        snprintf(text, sizeof text,
                 "bench: Skerry-D\ncpu: z80\nclock: 4 MHz\nareas:\n"
                 "  - {name: ram, range: $8000..$FFFF, kind: ram}\ndisk:\n  kind: fat12\n"
                 "  wraps:\n    - {name: w, head: [{field: load}]}\n  files:\n    - %s\n",
                 all[i].file);
        test_write_file("bench.yaml", text);
        test_messages_clear();
        CHECK_INT(bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b), BL_OK);
        CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_OK);
        bl_status status = disk_contents_make(p, NULL, &test_sink, &c);
        CHECK_INT(status == BL_OK, all[i].says == NULL);
        if (all[i].says != NULL) CHECK_CONTAINS(test_messages(), all[i].says);
        if (i == 1 || i == 3) {
            const disk_content *one = g_ptr_array_index(c.files, 0);
            CHECK_BYTES(one->bytes->data, 2, "\x00\x80", 2);
        }
        disk_contents_end(&c);
        project_close(p);
        bench_close(b);
    }
}

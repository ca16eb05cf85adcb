/* Boards that boot from a disk in the simulated drive: our bare disk on three CPUs, and FAT12
 * through a boot sector on the Z80, with files that lie in pieces. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "disk/disk_build.h"
#include "host_support.h"

static bench *b;
static project *p;
static simulation *s;

/* A program of so many bytes that shows $5A on the lamps and stands; the rest is chance. */
static void write_program(const char *cpu, unsigned size)
{
    GString *text = g_string_new("        .place program\n        .entry start\n");
    bool zilog = strcmp(cpu, "z80") == 0;
    g_string_append(text, "        .byte 1, 2, 3\n");
    g_string_append(text,
                    zilog ? "start:  ld a,$5A\n        out (board.lamps.data),a\n_stop:  jr _stop\n"
                          : "start:  lda #$5A\n        sta board.lamps.data\n_stop:  bra _stop\n");
    g_string_append(text, "table:\n");
    for (unsigned i = 0; i < size; i++)
        g_string_append_printf(text, "        .byte %u\n", test_below(256));
    test_write_file("boot-me.asm", text->str);
    g_string_free(text, TRUE);
}

static void open_bench(const char *text)
{
    test_write_file("bench.yaml", text);
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
}

/* What differs between the boards. */
static const struct board {
    const char *cpu, *areas, *devices, *chip;
} boards[] = {
    {"65c02",
     "  - {name: disk_zero, range: $0010..$0023, kind: ram}\n"
     "  - {name: stack, range: $0100..$01FF, kind: ram}\n"
     "  - {name: io, range: $C000..$C0FF, kind: io}\n"
     "  - {name: disk_code, range: $E000..$E1FF, kind: rom, fill: $FF}\n"
     "  - {name: rom, range: $E200..$FFFF, kind: rom, fill: $FF}\n",
     "  - {name: lamps, kind: latch, at: $C010}\n  - {name: disk, kind: ata, at: $C020}\n",
     "$E000..$FFFF"},
    {"z80",
     "  - {name: disk_code, range: $0000..$01FF, kind: rom, fill: $FF}\n"
     "  - {name: rom, range: $0200..$1FFF, kind: rom, fill: $FF}\n"
     "  - {name: disk_data, range: $4000..$400F, kind: ram}\n"
     "  - {name: stack, range: $4100..$41FF, kind: ram}\n",
     "  - {name: lamps, kind: latch, port: $10}\n  - {name: disk, kind: ata, port: $20}\n",
     "$0000..$1FFF"},
    {"6809",
     "  - {name: disk_data, range: $0010..$001F, kind: ram}\n"
     "  - {name: stack, range: $0100..$01FF, kind: ram}\n"
     "  - {name: io, range: $C000..$C0FF, kind: io}\n"
     "  - {name: disk_code, range: $E000..$E1FF, kind: rom, fill: $FF}\n"
     "  - {name: rom, range: $E200..$FFFF, kind: rom, fill: $FF}\n",
     "  - {name: lamps, kind: latch, at: $C010}\n  - {name: disk, kind: ata, at: $C020}\n",
     "$E000..$FFFF"},
};

static void bare_bench(const struct board *board)
{
    char text[2000];
    snprintf(text, sizeof text,
             "bench: Skerry-Boot\ncpu: %s\nclock: 2 MHz\nareas:\n%s"
             "  - {name: disk_page, range: $4200..$43FF, kind: ram}\n"
             "  - {name: program, range: $9000..$BFFF, kind: ram}\n"
             "devices:\n%s"
             "chips:\n  - {name: U1, part: 28C64, fill: $FF, maps: [{cpu: %s}]}\n"
             "disk:\n  kind: bare\n  size: 64K\n  files:\n"
             "    - {source: boot-me.asm, to: boot-me, starts: yes}\n"
             "build:\n  - {firmware: disk-loader, for: chips}\n"
             "  - {source: reset.asm, for: chips}\n",
             board->cpu, board->areas, board->devices, board->chip);
    open_bench(text);
}

/* Builds, burns, puts the disk in. image: what a case wants done to it before; or NULL. */
static void power_up(void (*spoil)(disk_image *image))
{
    disk_contents c;
    disk_image image;
    if (project_build(b, PROJECT_ALL, NULL, &test_sink, &p) != BL_OK ||
        disk_contents_make(p, NULL, &test_sink, &c) != BL_OK ||
        disk_build(p, &c, &test_sink, &image) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    disk_contents_end(&c);
    if (spoil != NULL) spoil(&image);
    CHECK_INT(simulation_open(b, NULL, 1, NULL, &test_sink, &s), BL_OK);
    uint32_t used;
    bl_chip_contents(&b->chips[0], p->chips, s->cells[0], &used);
    CHECK_INT(simulation_insert_image(s, &image, &test_sink), BL_OK);
    disk_image_close(&image);
    simulation_power_on(s);
    sim_bench_run(&s->sim, s->sim.now + 3000000000u);
}

static uint8_t shown(void)
{
    for (size_t i = 0; i < s->sim.board.device_count; i++) {
        sim_device *d = &s->sim.board.devices[i];
        if (d->kind->lamps != NULL) return d->kind->lamps(d);
    }
    return 0;
}

static void put_away(void)
{
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

/* All of the program is in memory, and it runs. */
static void expect_booted(void)
{
    CHECK_INT(shown(), 0x5A);
    bl_program *program;
    char *path = host_path_in(b->folder, "boot-me.asm");
    CHECK_INT(project_assemble(p, path, NULL, &test_sink, &program), BL_OK);
    bl_image *image = bl_program_image(program);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        CHECK_BYTES(s->sim.board.ram + piece.first, piece.count, piece.bytes, piece.count);
    }
    bl_program_close(program);
    g_free(path);
}
#define expect_booted() TEST_CALL(expect_booted())

static void reset_source(const char *cpu)
{
    test_write_file("reset.asm", strcmp(cpu, "z80") == 0
                                     ? "        .place rom\n        .byte 0\n"
                                     : "        .use \"<disk-loader.sym>\" as loader\n"
                                       "        .vector RESET, loader.start\n");
}

TEST(bare_disks_boot_on_three_cpus)
{
    static const unsigned sizes[] = {0, 490, 506, 507, 2000, 9000};
    for (size_t i = 0; i < BL_COUNT(boards); i++)
        for (size_t k = 0; k < BL_COUNT(sizes); k++) {
            reset_source(boards[i].cpu);
            write_program(boards[i].cpu, sizes[k]);
            bare_bench(&boards[i]);
            power_up(NULL);
            expect_booted();
            bl_image *loader = bl_program_image(p->pieces[0].program);
            CHECK(bl_image_size(loader) <= 512);
            put_away();
        }
}

static void (*next_spoil)(uint8_t *sector);
static uint32_t spoiled;

static void change_sector(disk_image *image)
{
    uint8_t bytes[512];
    image->sectors.read(image->sectors.context, spoiled, bytes);
    next_spoil(bytes);
    image->sectors.write(image->sectors.context, spoiled, bytes);
}

static void turn_bit(uint8_t *sector)
{
    sector[100] ^= 4;
}

static void no_mark(uint8_t *sector)
{
    sector[0] = 'b';
}

/* The directory is right, and says that nothing starts. */
static void nothing_starts(uint8_t *sector)
{
    uint8_t check[2] = {1, 0};
    sector[9] = 0;
    sector[14] = sector[15] = 0;
    bl_bare_sum(check, sector, 512);
    memcpy(sector + 14, check, 2);
}

TEST(bare_disks_that_are_not_right_start_nothing)
{
    static const struct {
        uint32_t sector;
        void (*spoil)(uint8_t *sector);
        char shows;
    } all[] = {{0, no_mark, 'F'}, {0, turn_bit, 'C'}, {2, turn_bit, 'C'}, {0, nothing_starts, 'P'}};
    for (size_t i = 0; i < BL_COUNT(boards); i++)
        for (size_t k = 0; k < BL_COUNT(all); k++) {
            reset_source(boards[i].cpu);
            write_program(boards[i].cpu, 1200);
            bare_bench(&boards[i]);
            spoiled = all[k].sector, next_spoil = all[k].spoil;
            power_up(change_sector);
            CHECK_INT(shown(), all[k].shows);
            put_away();
        }
}

/* The bench is put away and taken out again in the middle of transfers: nothing of the drive is
 * forgotten. */
TEST(bare_disks_boot_though_the_bench_is_cut_again_and_again)
{
    for (size_t i = 0; i < BL_COUNT(boards); i++) {
        reset_source(boards[i].cpu);
        write_program(boards[i].cpu, 3000);
        bare_bench(&boards[i]);
        power_up(NULL);
        simulation_power_off(s);
        simulation_power_on(s);
        unsigned cuts = 0;
        for (; cuts < 300 && shown() != 0x5A; cuts++) {
            sim_bench_run(&s->sim, s->sim.now + 1000000 + test_below(3000000));
            CHECK_INT(simulation_save(s, &test_sink), BL_OK);
            simulation_close(s);
            if (simulation_open(b, NULL, 1, NULL, &test_sink, &s) != BL_OK)
                test_fail(__FILE__, __LINE__, "after %u cuts: %s", cuts, test_messages());
            CHECK(s->sim.powered);
        }
        CHECK(cuts > 20);
        expect_booted();
        put_away();
        CHECK_INT(test_command("rm -r state").code, 0); /* of another CPU than the next */
    }
}

/* ---- FAT12 ---- */

static const char fat_bench[] =
    "bench: Skerry-FAT\ncpu: z80\nclock: 4 MHz\nareas:\n"
    "  - {name: disk_code, range: $0000..$00FF, kind: rom, fill: $FF}\n"
    "  - {name: rom, range: $0100..$1FFF, kind: rom, fill: $FF}\n"
    "  - {name: boot, range: $8000..$81FF, kind: ram}\n"
    "  - {name: boot_page, range: $8200..$85FF, kind: ram}\n"
    "  - {name: disk_data, range: $8600..$861F, kind: ram}\n"
    "  - {name: program, range: $9000..$EFFF, kind: ram}\n"
    "  - {name: stack, range: $FC00..$FFFF, kind: ram}\n"
    "devices:\n  - {name: lamps, kind: latch, port: $20}\n  - {name: disk, kind: ata, port: $30}\n"
    "chips:\n  - {name: U3, part: 28C64, fill: $FF, maps: [{cpu: $0000..$1FFF}]}\n"
    "disk:\n  kind: fat12\n  size: %s\n  boot: boot.asm\n"
    "  boot_marks: [{at: 510, value: $55}, {at: 511, value: $AA}]\n"
    "  wraps:\n    - name: run\n      head: [{field: load}, {field: entry}, {field: length}]\n"
    "      foot: [{field: minus8}]\n"
    "%s"
    "  files:\n    - {source: boot-me.asm, to: %s, wrap: run}\n"
    "build:\n  - {firmware: disk-start, for: chips}\n";

static void fat_set_up(const char *size, const char *more, const char *name, unsigned bytes)
{
    char text[2500];
    snprintf(text, sizeof text, fat_bench, size, more, name);
    test_write_file("boot.asm", "        .include \"<z80/boot-fat12>\"\n"
                                "name:   .byte \"TIDE    RUN\"\n");
    write_program("z80", bytes);
    open_bench(text);
}

TEST(fat12_disks_boot_whatever_their_clusters_are)
{
    static const char *const sizes[] = {"160K", "360K", "720K", "1440K", "2880K", "8M", "31M"};
    for (size_t i = 0; i < BL_COUNT(sizes); i++) {
        fat_set_up(sizes[i], "", "TIDE.RUN", i % 2 ? 20000 : 300);
        power_up(NULL);
        expect_booted();
        put_away();
    }
}

/* Every other cluster belongs to somebody else: the boot sector follows the table, whose entries
 * of 12 bits lie over the ends of its sectors. */
TEST(fat12_files_in_pieces_boot)
{
    disk_image image;
    disk_volume v;
    disk_opening how = {.b = NULL};
    bl_disk_entry e;
    fat_set_up("1440K", "", "TIDE.RUN", 20000);
    bl_fat_plan plan = {.total = 2880};
    const char *why;
    disk_image_new(1440 * 1024, 512, &image);
    CHECK_INT(bl_fat_plan_complete(&plan, &why), BL_OK);
    CHECK_INT(bl_fat_format(&image.sectors, &plan), BL_OK);
    CHECK_INT(disk_image_commit(&image, test_path("template.img"), &test_sink), BL_OK);
    disk_image_close(&image);
    CHECK_INT(disk_volume_open(test_path("template.img"), &how, &test_sink, &v), BL_OK);
    bl_disk_file one = {.bytes = (const uint8_t *)"x", .size = 1};
    char name[24];
    CHECK_INT(bl_disk_folder(&v.disk, "D"), BL_OK);
    for (unsigned i = 0; i < 780; i++) {
        snprintf(name, sizeof name, "D/F%u", i);
        CHECK_INT(bl_disk_put(&v.disk, name, &one, NULL), BL_OK);
    }
    for (unsigned i = 300; i < 780; i += 2) {
        snprintf(name, sizeof name, "D/F%u", i);
        CHECK_INT(bl_disk_delete(&v.disk, name, false), BL_OK);
    }
    /* All that is behind them is used up, so that the program must lie between. */
    bl_disk_space space;
    CHECK_INT(bl_disk_space_of(&v.disk, &space), BL_OK);
    uint8_t *rest = g_malloc0(space.largest * space.unit);
    one.bytes = rest, one.size = space.largest * space.unit;
    CHECK_INT(bl_disk_put(&v.disk, "REST", &one, NULL), BL_OK);
    g_free(rest);
    CHECK_INT(disk_image_commit(&v.image, test_path("template.img"), &test_sink), BL_OK);
    disk_volume_close(&v);
    bench_close(b);
    char text[2500];
    snprintf(text, sizeof text, fat_bench, "1440K", "  from: template.img\n", "TIDE.RUN");
    open_bench(text);
    power_up(NULL);
    expect_booted();
    bl_disk d;
    bl_disk_setup setup = {.sink = test_sink};
    bl_sectors port = sim_drive_port(&s->drive);
    CHECK_INT(bl_disk_open(&d, &port, &test_memory, &setup), BL_OK);
    CHECK_INT(bl_disk_find(&d, "TIDE.RUN", &e), BL_OK);
    CHECK(e.pieces >= 38);
    bl_disk_close(&d);
    put_away();
}

TEST(fat12_disks_that_are_not_right_start_nothing)
{
    fat_set_up("720K", "", "OTHER.RUN", 300); /* the boot sector looks for another */
    power_up(NULL);
    CHECK_INT(shown(), 'P');
    put_away();
    fat_set_up("720K", "", "TIDE.RUN", 1200);
    spoiled = 14 + 1, next_spoil = turn_bit; /* the second sector of the file */
    power_up(change_sector);
    CHECK_INT(shown(), 'C');
    put_away();
    fat_set_up("720K", "", "TIDE.RUN", 300);
    spoiled = 0, next_spoil = NULL;
    disk_contents c;
    disk_image image;
    CHECK_INT(project_build(b, PROJECT_ALL, NULL, &test_sink, &p), BL_OK);
    CHECK_INT(disk_contents_make(p, NULL, &test_sink, &c), BL_OK);
    CHECK_INT(disk_build(p, &c, &test_sink, &image), BL_OK);
    uint8_t sector[512];
    image.sectors.read(image.sectors.context, 0, sector);
    CHECK_INT(sector[510] << 8 | sector[511], 0x55AA);
    CHECK_BYTES(sector + 54, 8, "FAT12   ", 8);
    disk_contents_end(&c);
    disk_image_close(&image);
    project_close(p);
    bench_close(b);
}

/* The power fails behind any sector write, whole or in the middle of it: each file is as it was or
 * as it shall be, and a check says what to do with the rest. */
#include <stdlib.h>
#include <string.h>

#include "fat_disk.h"

enum { OLD = 5000, NEW = 9000, OTHER = 3000 };

/* The volume: FAT12 on a floppy, FAT16 on a small card. */
static uint32_t sectors;
static bool wide;

static uint8_t old_bytes[OLD], new_bytes[NEW], other_bytes[OTHER];

/* What is done while the power fails; true: it may have been done already. */
typedef bl_status change(bl_disk *d);

static bl_status replace(bl_disk *d)
{
    return medium_put(d, "LOG/LAMP.COM", new_bytes, NEW);
}

static bl_status add(bl_disk *d)
{
    return medium_put(d, "LOG/HORN.COM", new_bytes, NEW);
}

/* The folder's cluster is full: it gets another one. */
static bl_status add_to_full(bl_disk *d)
{
    return medium_put(d, "FULL/NEW.COM", new_bytes, NEW);
}

static bl_status make_folder(bl_disk *d)
{
    return bl_disk_folder(d, "FULL/DEEPER");
}

static bl_status take_away(bl_disk *d)
{
    return bl_disk_delete(d, "LOG/LAMP.COM", false);
}

static bl_status give_name(bl_disk *d)
{
    return bl_disk_rename(d, "LOG/LAMP.COM", "LANTERN.COM");
}

static void prepare(medium *m)
{
    bl_disk d;
    fat_disk_begin(m, sectors, wide);
    medium_open(m, &d, true);
    CHECK_INT(bl_disk_folder(&d, "LOG"), BL_OK);
    CHECK_INT(bl_disk_folder(&d, "FULL"), BL_OK);
    CHECK_INT(medium_put(&d, "LOG/A.COM", other_bytes, OTHER), BL_OK);
    CHECK_INT(medium_put(&d, "LOG/LAMP.COM", old_bytes, OLD), BL_OK);
    CHECK_INT(medium_put(&d, "LOG/Z.COM", other_bytes, OTHER), BL_OK);
    for (unsigned i = 0; i < 30; i++) {
        char name[20];
        bl_format(name, sizeof name, "FULL/F%u", i);
        CHECK_INT(medium_put(&d, name, "x", 1), BL_OK);
    }
    bl_disk_close(&d);
}

/* The files that are there afterwards. */
static void check_files(bl_disk *d, change *done)
{
    bl_disk_entry e;
    medium_same(d, "LOG/A.COM", other_bytes, OTHER);
    medium_same(d, "LOG/Z.COM", other_bytes, OTHER);
    medium_same(d, "FULL/F29", "x", 1);
    bool lamp = bl_disk_find(d, "LOG/LAMP.COM", &e) == BL_OK;
    CHECK(lamp || done == take_away || done == give_name);
    if (!lamp && done == give_name) medium_same(d, "LOG/LANTERN.COM", old_bytes, OLD);
    if (lamp && done == replace)
        medium_either(d, "LOG/LAMP.COM", old_bytes, OLD, new_bytes, NEW);
    else if (lamp)
        medium_same(d, "LOG/LAMP.COM", old_bytes, OLD);
    if (bl_disk_find(d, "LOG/HORN.COM", &e) == BL_OK)
        medium_same(d, "LOG/HORN.COM", new_bytes, NEW);
    if (bl_disk_find(d, "FULL/NEW.COM", &e) == BL_OK)
        medium_same(d, "FULL/NEW.COM", new_bytes, NEW);
}

/* Cuts the power at one write after the other until the change gets through. */
static void cut_everywhere(change *apply, bool torn)
{
    for (uint32_t cut = 0;; cut++) {
        medium m;
        bl_disk d;
        bl_disk_report r = {0};
        prepare(&m);
        medium_open(&m, &d, true);
        m.cut_after = m.writes + cut, m.torn = torn;
        bl_status status = apply(&d);
        bl_disk_close(&d);
        CHECK(status == BL_OK || status == BL_E_NOT_READY);
        m.cut_after = UINT32_MAX;
        /* Others see no file that is broken either: what is left over is room that nobody has. */
        if (!torn) CHECK_TEXT(fat_peer_check_files(m.bytes, (size_t)sectors * 512), "");
        medium_open(&m, &d, true);
        check_files(&d, apply);
        bl_status found = medium_check(&d, false, &r);
        CHECK_INT(found, r.left > 0 ? BL_E_DAMAGED : BL_OK);
        CHECK_INT(medium_check(&d, true, &r), BL_OK);
        CHECK_INT(r.left, 0);
        check_files(&d, apply);
        CHECK_INT(medium_check(&d, false, &r), BL_OK);
        CHECK_INT(r.broken, 0);
        fat_disk_good(&m);
        bool once = apply == make_folder || apply == take_away || apply == give_name;
        CHECK(apply(&d) == BL_OK || once);
        fat_disk_good(&m);
        bl_disk_close(&d);
        medium_end(&m);
        if (status == BL_OK) {
            CHECK(cut >= 1);
            return;
        }
    }
}

static void every_change(bool torn)
{
    static change *const all[] = {replace, add, add_to_full, make_folder, take_away, give_name};
    medium_fill(old_bytes, OLD, 1);
    medium_fill(new_bytes, NEW, 2);
    medium_fill(other_bytes, OTHER, 3);
    for (unsigned kind = 0; kind < 2; kind++) {
        sectors = kind == 0 ? 1440 : 9000, wide = kind != 0;
        for (size_t i = 0; i < sizeof all / sizeof all[0]; i++)
            cut_everywhere(all[i], torn);
    }
}

TEST(fat_power_cut_behind_any_sector_leaves_old_or_new)
{
    every_change(false);
}

/* A drive that loses power within a sector leaves half of it: in the tables and folders that is an
 * entry that was written, or one that was not. */
TEST(fat_power_cut_within_any_sector_leaves_old_or_new)
{
    every_change(true);
}

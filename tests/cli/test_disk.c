/* bootlace disk: what is put on a disk comes back, what is wrong is told, and nothing is half done.
 */
#include "cli_support.h"

#include <jansson.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void random_bytes(const char *name, size_t count)
{
    uint8_t *bytes = malloc(count + 1);
    for (size_t i = 0; i < count; i++)
        bytes[i] = (uint8_t)test_random();
    test_write_bytes(name, bytes, count);
    free(bytes);
}

TEST(disk_every_kind_takes_a_file_and_gives_it_back)
{
    static const char *const kinds[] = {"fat12", "fat16", "classic", "bare"};
    random_bytes("lamp.bin", 5000);
    for (size_t i = 0; i < BL_COUNT(kinds); i++) {
        test_run r = expect_code(0, "bootlace disk create d.img --force --kind %s", kinds[i]);
        CHECK_CONTAINS(r.out, "verified: the new disk was checked: 0 files");
        r = expect_code(0, "bootlace disk put d.img lamp.bin");
        CHECK_CONTAINS(r.out, "verified: 1 file written to d.img and read back");
        r = expect_code(0, "bootlace disk list d.img");
        CHECK_CONTAINS(r.out, kinds[i]);
        CHECK_CONTAINS(r.out, "5000");
        expect_code(0, "bootlace disk get d.img LAMP.BIN -o back.bin && cmp lamp.bin back.bin");
        r = expect_code(0, "bootlace disk check d.img");
        CHECK_CONTAINS(r.out, "verified: d.img is whole: 1 file");
        expect_code(0, "bootlace disk rename d.img lamp.bin light.bin");
        expect_code(1, "bootlace disk get d.img lamp.bin -o none.bin");
        CHECK(!test_file_exists("none.bin"));
        expect_code(0, "bootlace disk delete d.img light.bin");
        r = expect_code(0, "bootlace disk list d.img");
        CHECK_CONTAINS(r.out, "0 files");
    }
}

TEST(disk_two_hundred_files_go_there_and_back)
{
    expect_code(0, "mkdir in");
    for (unsigned i = 0; i < 200; i++) {
        char name[40];
        snprintf(name, sizeof name, "in/part%u.dat", i);
        random_bytes(name, test_below(6000));
    }
    expect_code(0, "bootlace disk create d.img --kind fat12 --size 1.44M --label SKERRY");
    expect_code(0, "bootlace disk put d.img in/*");
    test_run r = expect_code(0, "bootlace disk list d.img --json");
    json_t *all = json_loads(r.out, 0, NULL);
    CHECK(all != NULL);
    CHECK_INT(json_array_size(json_object_get(all, "entries")), 200);
    CHECK_TEXT(json_string_value(json_object_get(all, "label")), "SKERRY");
    json_decref(all);
    expect_code(0, "bootlace disk get d.img / -o out");
    expect_code(0,
                "for f in in/*; do b=$(basename $f | tr a-z A-Z); cmp $f out/$b || exit 1; done");
}

TEST(disk_folders_attributes_and_names)
{
    test_write_file("notes.txt", "calm\n");
    test_write_file("a long name.text", "gale\n");
    expect_code(0, "bootlace disk create d.img --kind fat12");
    expect_code(0, "bootlace disk folder d.img LOG LOG/OLD");
    expect_code(0, "bootlace disk put d.img notes.txt 'a long name.text' --to LOG/OLD");
    expect_code(0, "bootlace disk put d.img notes.txt --to keep.txt --attributes r");
    test_run r = expect_code(0, "bootlace disk list d.img --all");
    CHECK_CONTAINS(r.out, "LOG/OLD/NOTES.TXT");
    CHECK_CONTAINS(r.out, "KEEP.TXT");
    CHECK_CONTAINS(r.out, "read-only");
    CHECK_CONTAINS(r.out, "LOG/OLD/ALO~");
    r = expect_code(1, "bootlace disk put d.img notes.txt --to keep.txt");
    CHECK_CONTAINS(r.err, "keep.txt is there, and read-only");
    r = expect_code(1, "bootlace disk delete d.img KEEP.TXT");
    CHECK_CONTAINS(r.err, "--force deletes it all the same");
    expect_code(0, "bootlace disk delete d.img KEEP.TXT --force");
    r = expect_code(1, "bootlace disk delete d.img LOG");
    CHECK_CONTAINS(r.err, "the folder is not empty");
    r = expect_code(1, "bootlace disk put d.img notes.txt --to NONE/X");
    CHECK_CONTAINS(r.err, "NONE/X: there is no such folder");
    r = expect_code(1, "mkdir other && cp notes.txt other/ && bootlace disk put d.img notes.txt "
                       "other/notes.txt");
    CHECK_CONTAINS(r.err, "another of these files would have the same name on the disk");
    r = expect_code(0, "bootlace disk put d.img notes.txt --to R.TXT && bootlace disk rename d.img "
                       "R.TXT 'a longer name.text'");
    CHECK_CONTAINS(r.err, "a longer name.text is stored as ALO~");
    CHECK_NOT_CONTAINS(r.out, "longer name.text is its name");
    CHECK_CONTAINS(r.out, ".TEX is its name now");
    expect_code(0, "bootlace disk get d.img LOG -o here && cmp notes.txt here/OLD/NOTES.TXT");
}

TEST(disk_templates_are_never_touched)
{
    test_write_file("notes.txt", "calm\n");
    expect_code(0, "bootlace disk create t.img --kind fat12 && bootlace disk put t.img notes.txt "
                   "--to BASE.TXT && chmod 444 t.img && cp t.img before.img");
    expect_code(0, "bootlace disk create d.img --from t.img");
    expect_code(0, "bootlace disk put d.img notes.txt");
    expect_code(0, "cmp t.img before.img");
    test_run r = expect_code(0, "bootlace disk list d.img");
    CHECK_CONTAINS(r.out, "2 files");
    r = expect_code(2, "bootlace disk create t.img --from t.img");
    CHECK_CONTAINS(r.err, "t.img is the template itself");
    r = expect_code(2, "bootlace disk create x.img --from t.img --kind fat12");
    CHECK_CONTAINS(r.err, "--from TEMPLATE copies all of it");
    expect_code(0, "cp t.img broken.img && chmod 644 broken.img && printf '\\377\\377' | dd "
                   "of=broken.img bs=1 seek=600 conv=notrunc 2>/dev/null");
    r = expect_code(1, "bootlace disk create x.img --from broken.img");
    CHECK_CONTAINS(r.err, "the template is not whole");
    CHECK(!test_file_exists("x.img"));
}

TEST(disk_what_fails_changes_nothing)
{
    random_bytes("big.bin", 1 << 20);
    random_bytes("more.bin", 1 << 19);
    expect_code(0, "bootlace disk create d.img --kind fat12 && bootlace disk put d.img big.bin && "
                   "cp d.img before.img");
    test_run r = expect_code(1, "bootlace disk put d.img more.bin");
    CHECK_CONTAINS(r.err, "the disk is full");
    expect_code(0, "cmp d.img before.img");
    r = expect_code(1, "bootlace disk put d.img nothing.bin");
    CHECK_CONTAINS(r.err, "nothing.bin");
    expect_code(1, "bootlace disk delete d.img big.bin none.bin");
    expect_code(0, "cmp d.img before.img");            /* the first was not deleted either */
    expect_code(0, "bootlace disk put d.img big.bin"); /* in its own place */
    expect_code(1, "bootlace disk put d.img big.bin --in-place");
    expect_code(0, "bootlace disk check d.img");
}

TEST(disk_power_cuts_in_place_are_found_and_mended)
{
    random_bytes("old.bin", 3000);
    random_bytes("new.bin", 4000);
    expect_code(0,
                "bootlace disk create t.img --kind fat12 && bootlace disk put t.img old.bin --to "
                "A.BIN");
    for (unsigned cut = 1; cut < 12; cut++) {
        test_run r = test_command("cp t.img d.img && bootlace disk put d.img new.bin --to A.BIN "
                                  "--in-place --fault %s=%u",
                                  cut % 2 ? "disk-cut" : "disk-cut-within", cut);
        if (r.code == 0) break;
        CHECK_CONTAINS(r.err, "the drive is not ready");
        expect_code(0, "bootlace disk get d.img A.BIN -o back.bin && (cmp -s back.bin old.bin || "
                       "cmp -s back.bin new.bin)");
        expect_code(0, "bootlace disk check d.img --repair");
        expect_code(0, "bootlace disk check d.img");
        expect_code(0, "bootlace disk get d.img A.BIN -o back.bin && (cmp -s back.bin old.bin || "
                       "cmp -s back.bin new.bin)");
    }
    test_run r =
        expect_code(1, "bootlace disk put t.img new.bin --in-place --fault disk-protected");
    CHECK_CONTAINS(r.err, "write protected");
    r = expect_code(1, "bootlace disk list t.img --fault disk-out");
    CHECK_CONTAINS(r.err, "the drive is not ready");
    r = expect_code(2, "bootlace disk list t.img --fault lose=1/5");
    CHECK_CONTAINS(r.err, "'lose=1/5' is no fault of a disk drive");
}

TEST(disk_check_mends_what_is_safe_and_says_what_is_not)
{
    random_bytes("a.bin", 3000);
    expect_code(0, "bootlace disk create d.img --kind fat12 && bootlace disk put d.img a.bin && "
                   "bootlace disk put d.img a.bin --to B.BIN");
    /* Cluster 200 is marked as used: an entry of 12 bits at byte 300 of the table. */
    expect_code(0, "for t in 512 5120; do printf '\\377\\017' | dd of=d.img bs=1 seek=$((t+300)) "
                   "conv=notrunc 2>/dev/null; done; cp d.img lost.img");
    test_run r = expect_code(1, "bootlace disk check d.img");
    CHECK_CONTAINS(r.out, "1 cluster marked as used, and of no file");
    CHECK_CONTAINS(r.out, "--repair mends it");
    CHECK_CONTAINS(r.out, "not verified: d.img is not whole: 1 fault");
    expect_code(0, "cmp d.img lost.img");
    r = expect_code(0, "bootlace disk check d.img --repair");
    CHECK_CONTAINS(r.out, "mended: 1 cluster marked as used");
    CHECK_CONTAINS(r.out, "1 fault mended; the file system is whole now");
    expect_code(0, "bootlace disk check d.img");
    /* B begins where A does. */
    expect_code(0, "printf '\\002' | dd of=d.img bs=1 seek=$((19*512+32+26)) conv=notrunc "
                   "2>/dev/null");
    r = expect_code(1, "bootlace disk check d.img --repair --json");
    CHECK_CONTAINS(r.out, "A.BIN shares cluster 2 with another");
    CHECK_CONTAINS(r.out, "B.BIN shares cluster 2 with another");
    CHECK_CONTAINS(r.out, "copy each of these files off");
    /* A file more would be written, or one replaced, at the cost of another. */
    expect_code(0, "cp d.img crossed.img");
    r = expect_code(1, "bootlace disk put d.img a.bin");
    CHECK_CONTAINS(r.err, "is damaged so that a change could harm other files");
    expect_code(1, "bootlace disk rename d.img a.bin c.bin");
    expect_code(0, "cmp d.img crossed.img");
    /* As it was told to: off, away, and there again. */
    expect_code(
        0, "bootlace disk get d.img A.BIN -o a.off && cmp a.off a.bin && bootlace disk delete "
           "d.img A.BIN B.BIN && bootlace disk check d.img --repair && bootlace disk put d.img "
           "a.off --to A.BIN && bootlace disk check d.img");
}

TEST(disk_programs_are_wrapped_checked_and_unwrapped)
{
    copy_example_named("skerry-disk");
    expect_code(0, "bootlace build");
    test_run r = expect_code(0, "bootlace disk check out/skerry.img --against bench.yaml");
    CHECK_CONTAINS(r.out, "verified: 4 parts are as built");
    r = expect_code(0, "bootlace disk get out/skerry.img START.TXT -o -");
    CHECK_CONTAINS(r.out, "tide: 103 bytes at 9000, begins at 9000\r\n");
    expect_code(0,
                "bootlace disk get out/skerry.img TIDE.RUN --wrap run -o tide.hex && bootlace "
                "assemble tide.asm -b bench.yaml -o direct.hex && bootlace image compare tide.hex "
                "direct.hex");
    expect_code(0,
                "bootlace disk put out/skerry.img tide.asm --wrap run --to AGAIN.RUN && bootlace "
                "disk get out/skerry.img AGAIN.RUN -o a && bootlace disk get out/skerry.img "
                "TIDE.RUN -o b && cmp a b");
    r = expect_code(1, "bootlace disk get out/skerry.img LOG/KEEPER.TXT --wrap run -o x.bin");
    CHECK_CONTAINS(r.err, "is not wrapped as 'run' says; nothing was written");
    r = expect_code(2, "bootlace disk put out/skerry.img tide.asm --wrap none");
    CHECK_CONTAINS(r.err, "describes no such wrapper");
    edit("tide.asm", "by the hour", "by the day!");
    r = expect_code(1, "bootlace disk check out/skerry.img --against bench.yaml");
    CHECK_CONTAINS(r.out, "differs: TIDE.RUN is not what was built");
}

TEST(disk_boards_boot_and_one_word_of_the_console_brings_a_change)
{
    static const char *const names[] = {"skerry-disk", "skerry-card"};
    static const char *const sources[] = {"tide.asm", "flash.asm"};
    static const char *const says[] = {"Skerry, from disk", "Skerry, from a bare card"};
    for (size_t i = 0; i < 2; i++) {
        copy_example_named(names[i]);
        expect_code(0, "rm -rf state && bootlace build && bootlace chip write -p sim");
        test_run r = expect_code(0, "bootlace board run --disk out/skerry.img --for 300ms");
        CHECK_CONTAINS(r.out, says[i]);
        edit(sources[i], "Skerry, from", "Tonight from");
        r = expect_code(0, "echo boot | bootlace console -p sim --commands -");
        CHECK_CONTAINS(r.out, "Tonight from");
        CHECK_CONTAINS(r.out, "1 of ");
        CHECK_CONTAINS(r.out, "files had changed");
        r = expect_code(0, "printf 'boot\\nboot anew\\n' | bootlace console -p sim --commands -");
        CHECK_CONTAINS(r.out, "verified: 0 of ");
        CHECK_CONTAINS(r.out, "verified: a new disk with ");
        expect_code(0, "bootlace disk check state/disk.img --against bench.yaml");
        r = expect_code(0, "bootlace board run --for 6s --power-cycle --fault disk-out");
        CHECK_CONTAINS(r.out, "?N");
    }
    copy_example();
    test_run r = expect_code(1, "echo boot | bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.err, "it builds no disk");
    test_write_file("x.img", "");
    r = expect_code(1, "bootlace board run --disk x.img");
    CHECK_CONTAINS(r.err, "the board has no device of kind ata");
}

TEST(disk_boot_programs_and_sectors)
{
    random_bytes("boot.bin", 300);
    random_bytes("sector.bin", 512);
    expect_code(0,
                "printf '\\353\\074\\220\\0\\0\\0\\0\\0\\0\\0\\0' > b && head -c 51 /dev/zero >> b "
                "&& cat boot.bin >> b && bootlace disk create d.img --kind fat12");
    expect_code(0,
                "mv b b.bin && bootlace disk boot d.img b.bin && bootlace disk sectors d.img 0 -o s"
                " && cmp -n 11 s b.bin && cmp -i 62 -n 300 s b.bin");
    test_run r = expect_code(0, "tail -c 2 s | od -An -tx1");
    CHECK_CONTAINS(r.out, "55 aa");
    expect_code(0, "cp b.bin boot.sec && bootlace disk boot d.img boot.sec");
    r = expect_code(
        2, "bootlace disk create bare.img --kind bare && bootlace disk boot bare.img b.bin");
    CHECK_CONTAINS(r.err, "a raw binary carries no address; give --at ADDRESS");
    r = expect_code(
        0, "bootlace disk boot bare.img b.bin --at 0x300 && bootlace disk get bare.img b -o "
           "b.hex && bootlace image show b.hex");
    CHECK_CONTAINS(r.err, "it has no entry point, and starts at its first byte, $0300");
    CHECK_CONTAINS(r.out, "0300");
    r = expect_code(1, "bootlace disk boot d.img sector.bin");
    CHECK_CONTAINS(r.err, "describe the file system");
    expect_code(0, "bootlace disk sectors d.img 2/1/5 --geometry 80x2x18 --write sector.bin && "
                   "bootlace disk sectors d.img 94 -o t && cmp t sector.bin");
    r = expect_code(0, "bootlace disk sectors d.img 0/0/1..0/0/18 --geometry 80x2x18 --skew 3 -o t "
                       "&& wc -c < t");
    CHECK_CONTAINS(r.out, "9216");
    r = expect_code(2, "bootlace disk sectors d.img 2880 -o t");
    CHECK_CONTAINS(r.err, "the disk has sectors 0 to 2879");
    r = expect_code(2, "bootlace disk sectors d.img 0/2/1 --geometry 80x2x18 -o t");
    CHECK_CONTAINS(r.err, "sides 0 to 1");
    expect_code(2, "bootlace disk sectors d.img 0/0/1 -o t");
    expect_code(2, "bootlace disk sectors d.img 0");
}

TEST(disk_folders_in_themselves_end)
{
    test_write_file("x", "x");
    expect_code(
        0, "bootlace disk create d.img --kind fat12 && bootlace disk folder d.img A A/B A/C && "
           "bootlace disk put d.img x --to A/X");
    for (unsigned entry = 2; entry < 4; entry++) /* B and C begin where A does */
        expect_code(0, "printf '\\002' | dd of=d.img bs=1 seek=%u conv=notrunc 2>/dev/null",
                    33 * 512 + entry * 32 + 26);
    test_run r = expect_code(1, "bootlace disk list d.img --all");
    CHECK_CONTAINS(r.err, "A/B was listed already: the disk is damaged");
    r = expect_code(1, "bootlace disk get d.img / -o out");
    CHECK_CONTAINS(r.err, "is a folder that was copied already");
    r = expect_code(1, "bootlace disk check d.img");
    CHECK_CONTAINS(r.out, "A/B/: the folder contains itself");
    expect_code(1, "bootlace disk plan d.img -o d.png; bootlace disk check d.img --repair");
    CHECK_CONTAINS(expect_code(2, "bootlace disk check d.img --drop").err, "--repair may do");
    r = expect_code(1, "bootlace disk check d.img --repair --drop");
    CHECK_CONTAINS(r.out, "loss: A/B/: the folder contains itself; the folder's name is lost");
    expect_code(0, "bootlace disk check d.img --repair && bootlace disk check d.img");
    r = expect_code(0, "bootlace disk list d.img --all");
    CHECK_CONTAINS(r.out, "A/X");
    CHECK_NOT_CONTAINS(r.out, "A/B");
}

/* Whatever is at the name of a new disk is somebody's: files, a text, a link. */
TEST(disk_create_replaces_nothing_unless_forced)
{
    test_write_file("notes.txt", "the keeper's only copy");
    expect_code(0, "cp notes.txt kept && ln -s notes.txt link && bootlace disk create d.img --kind "
                   "fat12 && bootlace disk put d.img notes.txt && cp d.img before.img");
    static const char *const all[] = {"notes.txt --kind fat12", "link --kind bare",
                                      "d.img --kind fat12", "d.img --kind fat12 --in-place",
                                      "notes.txt --from d.img"};
    for (size_t i = 0; i < BL_COUNT(all); i++) {
        test_run r = expect_code(1, "bootlace disk create %s", all[i]);
        CHECK_CONTAINS(r.err, "--force replaces it");
        expect_code(0, "cmp notes.txt kept && cmp d.img before.img && test -L link");
    }
    expect_code(0, "bootlace disk create d.img --kind fat12 --in-place --force");
}

/* Each put that is called verified is there afterwards, whole, however many there are at once. */
TEST(disk_several_at_once_lose_nothing)
{
    for (unsigned turn = 0; turn < 4; turn++) {
        const char *place = turn % 2 ? "--in-place" : "";
        test_run r = expect_code(
            0,
            "rm -rf d.img done; mkdir done; bootlace disk create d.img --kind %s -q; "
            "for i in 1 2 3 4 5 6 7 8; do head -c $((3000 + 700 * i)) /dev/urandom >f$i; "
            "(bootlace disk put d.img f$i %s >out$i 2>err$i && touch done/f$i) & done; wait; "
            "for f in done/*; do n=$(basename $f); bootlace disk get d.img $n -o back -q && "
            "cmp back $n || exit 7; done; bootlace disk check d.img || exit 8; ls done | wc -l",
            turn < 2 ? "fat12" : "bare", place);
        CHECK(strtoul(r.out + strlen(r.out) - 2, NULL, 10) > 0);
    }
    /* Who has it is said. */
    test_run r = test_command("bootlace disk create e.img --kind fat12 -q; exec 9<e.img; "
                              "flock -x 9; echo x >x; bootlace disk put e.img x");
    CHECK_INT(r.code, 1);
    CHECK_CONTAINS(r.err, "is changing this image");
    CHECK_CONTAINS(r.err, "process ");
}

TEST(disk_create_in_place_keeps_the_size)
{
    test_write_file("x", "x");
    expect_code(0, "truncate -s 3M d.img && bootlace disk create d.img --kind fat16 --in-place");
    test_run r = expect_code(0, "wc -c < d.img && bootlace disk put d.img x --in-place");
    CHECK_CONTAINS(r.out, "3145728");
    r = expect_code(2, "bootlace disk create d.img --kind fat16 --in-place --size 4M --force");
    CHECK_CONTAINS(r.err, "leave --size out");
    expect_code(0, "truncate -s 4M e.img && bootlace disk create e.img --from d.img --in-place && "
                   "bootlace disk list e.img && cmp -n 3145728 d.img e.img");
    r = expect_code(1,
                    "truncate -s 2M f.img && bootlace disk create f.img --from d.img --in-place");
    CHECK_CONTAINS(r.err, "it is smaller than the template");
    expect_code(1, "bootlace disk create none.img --kind fat12 --in-place");
}

TEST(disk_user_areas_lengths_and_layouts_of_classic_disks)
{
    random_bytes("a.bin", 20000);
    test_write_file(
        "bench.yaml",
        "bench: Skerry-C\ncpu: z80\nclock: 4 MHz\nareas:\n"
        "  - {name: ram, range: $8000..$FFFF, kind: ram}\ndisk:\n  layouts:\n"
        "    - {name: harbour, sector: 512, track: 9, tracks: 40, system: 1, block: 1024, "
        "entries: 64, skew: 2}\n");
    expect_code(0, "bootlace disk create d.img --kind classic");
    test_run r =
        expect_code(0, "bootlace disk put d.img a.bin --user 7 && bootlace disk list d.img");
    CHECK_CONTAINS(r.out, "layout harbour");
    CHECK_CONTAINS(r.out, "7:A.BIN");
    r = expect_code(0, "bootlace disk list d.img --user 3");
    CHECK_CONTAINS(r.out, "0 files");
    expect_code(0, "bootlace disk get d.img a.bin --user 7 -o - | cmp - a.bin");
    expect_code(0, "bootlace disk get d.img 7:a.bin -o - | cmp - a.bin");
    expect_code(0, "bootlace disk rename d.img a.bin b.bin --user 7");
    r = expect_code(1, "bootlace disk get d.img a.bin -o none");
    CHECK_CONTAINS(r.err, "there is no such file in user area 0");
    r = expect_code(0, "bootlace disk list d.img --json");
    CHECK_CONTAINS(r.out, "\"exact\": true");
    r = expect_code(2,
                    "bootlace disk create f.img --kind fat12 && bootlace disk list f.img --user 1");
    CHECK_CONTAINS(r.err, "--user is for classic disks; f.img is a fat12 disk");
    r = expect_code(1, "bootlace disk get d.img 7:B.BIN --layout 8-inch-250k -o none");
    CHECK(!test_file_exists("none"));
    r = expect_code(1, "bootlace disk list d.img --layout none");
    CHECK_CONTAINS(r.err, "there is no layout 'none'");
    r = expect_code(2, "echo x | bootlace disk put f.img -");
    CHECK_CONTAINS(r.err, "standard input has no name: --to PATH");
    expect_code(0,
                "echo x | bootlace disk put f.img - --to X.TXT && bootlace disk get f.img X.TXT -o "
                "- | grep -q x");
}

TEST(disk_bare_directories_that_changed_are_said_to)
{
    test_write_file("x", "x");
    expect_code(0, "bootlace disk create d.img --kind bare && bootlace disk put d.img x && printf "
                   "'Q' | dd of=d.img bs=1 seek=20 conv=notrunc 2>/dev/null");
    test_run r = expect_code(0, "bootlace disk list d.img");
    CHECK_CONTAINS(r.err, "warning: the check of its directory is not right");
    r = expect_code(1, "bootlace disk put d.img x --to y");
    CHECK_CONTAINS(r.err, "nothing is written to it");
    expect_code(0, "bootlace disk check d.img --repair && bootlace disk put d.img x --to y");
}

/* Images that chance has damaged, through the command: an answer or an error, and what looks
 * changes nothing. */
TEST(disk_damaged_images_end_in_answers_or_errors)
{
    static const char *const kinds[] = {"fat12 --size 160K", "classic", "bare --size 64K"};
    random_bytes("a.bin", 9000);
    random_bytes("b.bin", 3000);
    for (size_t k = 0; k < BL_COUNT(kinds); k++) {
        size_t size;
        expect_code(
            0,
            "bootlace disk create good.img --force --kind %s && bootlace disk put good.img a.bin "
            "b.bin",
            kinds[k]);
        const char *good = test_read_file("good.img", &size);
        uint8_t *bytes = malloc(size), *all = malloc(size);
        memcpy(all, good, size);
        size_t directory = k == 1 ? 2 * 26 * 128 : 0, area = k == 1 ? 2048 : 7 * 512;
        for (unsigned turn = 0; turn < 40; turn++) {
            memcpy(bytes, all, size);
            for (unsigned i = 0; i < 1 + turn % 7; i++)
                bytes[directory + test_below((uint32_t)area)] = (uint8_t)test_random();
            test_write_bytes("d.img", bytes, size);
            test_run r =
                test_command("bootlace disk list d.img --all >l 2>&1; a=$?; bootlace disk get "
                             "d.img / -o out >g 2>&1; b=$?; bootlace disk check d.img >c 2>&1; "
                             "c=$?; bootlace disk plan d.img >p 2>&1; d=$?; rm -rf out; test "
                             "$a -le 1 -a $b -le 1 -a $c -le 1 -a $d -le 1");
            CHECK_INT(r.code, 0);
            size_t now_size;
            CHECK(memcmp(test_read_file("d.img", &now_size), bytes, size) == 0 && now_size == size);
            r = test_command(
                "bootlace disk check d.img --repair >c 2>&1; a=$?; bootlace disk put d.img "
                "b.bin --to C.BIN >p 2>&1; b=$?; test $a -le 1 -a $b -le 1");
            CHECK_INT(r.code, 0);
        }
        free(bytes);
        free(all);
    }
}

TEST(disk_pictures_and_maps)
{
    random_bytes("a.bin", 30000);
    expect_code(0, "bootlace disk create d.img --kind fat12 --size 720K && bootlace disk put d.img "
                   "a.bin");
    test_run r = expect_code(0, "bootlace disk plan d.img");
    CHECK_CONTAINS(r.out, "4.2 % full");
    CHECK_CONTAINS(r.out, "A.BIN");
    CHECK_CONTAINS(r.out, "60 sectors, 14..73");
    expect_code(0, "bootlace disk plan d.img -o d.png && bootlace disk plan d.img -o d.svg && "
                   "bootlace disk plan d.img -o d.pdf");
    CHECK(test_file_exists("d.png") && test_file_exists("d.svg") && test_file_exists("d.pdf"));
    r = expect_code(0, "bootlace disk plan d.img --json");
    CHECK_CONTAINS(r.out, "\"path\": \"A.BIN\"");
    r = expect_code(2, "bootlace disk plan d.img -o d.gif");
    CHECK_CONTAINS(r.err, "a picture ends in .png, .svg or .pdf");
}

TEST(disk_wrong_calls_are_told)
{
    static const struct {
        const char *line, *says;
        int code;
    } all[] = {
        {"bootlace disk", "see bootlace disk --help", 2},
        {"bootlace disk create", "one disk", 2},
        {"bootlace disk create d.img", "what kind of disk?", 2},
        {"bootlace disk create d.img --kind fat13", "--kind fat13", 2},
        {"bootlace disk create d.img --kind fat12 --size 12Q", "--size 12Q", 2},
        {"bootlace disk create d.img --kind fat16 --size 1440K", "too small for FAT16", 1},
        {"bootlace disk create d.img --kind classic --layout none", "none of this name", 2},
        {"bootlace disk list none.img", "cannot open", 1},
        {"bootlace disk put good.img", "files for it", 2},
        {"bootlace disk put good.img good.img --attributes q", "letters of r, h and s", 2},
        {"bootlace disk put good.img x --starts", "--starts is for bare disks", 2},
        {"bootlace disk put good.img x --user 16", "user areas are 0 to 15", 2},
        {"bootlace disk get good.img X", "nowhere to write to", 2},
        {"bootlace disk get good.img / -o -", "-o names a folder", 2},
        {"bootlace disk get good.img X -o good.img", "good.img", 2},
        {"bootlace disk rename good.img A", "an old and a new name", 2},
        {"bootlace disk check good.img --against none.yaml", "none.yaml", 1},
        {"head -c 1024 /dev/zero > z.img; bootlace disk list z.img", "no file system that is known",
         1},
    };
    expect_code(0, "bootlace disk create good.img --kind fat12 && echo x > x && cp good.img b.img");
    for (size_t i = 0; i < BL_COUNT(all); i++) {
        test_run r = expect_code(all[i].code, "%s", all[i].line);
        CHECK_CONTAINS(r.err, all[i].says);
    }
    CHECK(!test_file_exists("d.img"));
    expect_code(0, "cmp good.img b.img");
}

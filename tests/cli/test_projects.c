/* Projects of one's own: new ones, variants, data ROMs, holes; files put together and compared; who
 * answers on a port; the board's switches; what a program says. */
#include "cli_support.h"

#include <stdio.h>
#include <string.h>

TEST(a_new_project_builds_burns_and_runs)
{
    static const struct {
        const char *cpu, *chip, *ram;
    } all[] = {{"65c02", "U5", "lamp.asm"},
               {"z80", "U3", "horn.asm"},
               {"8085", "U7", "tide.asm"},
               {"8080", "U7", "tide.asm"},
               {"6809", "U2", "message.asm"}};
    test_folder();
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        const char *cpu = all[i].cpu;
        expect_code(0, "bootlace new harbour-%s -c %s", cpu, cpu);
        expect_code(0, "cd harbour-%s && bootlace build", cpu);
        test_run r =
            expect_code(0, "cd harbour-%s && bootlace chip write %s -p sim", cpu, all[i].chip);
        CHECK_CONTAINS(r.out, "verified:");
        r = expect_code(0, "cd harbour-%s && bootlace board run --for 3s", cpu);
        CHECK_CONTAINS(r.out, "*");
        r = expect_code(0, "cd harbour-%s && bootlace send %s -p sim --run", cpu, all[i].ram);
        CHECK_CONTAINS(r.out, "running from");
        CHECK_NOT_CONTAINS(r.out, "sent again");
        r = expect_code(0, "cat harbour-%s/README.md", cpu);
        CHECK_CONTAINS(r.out, "bootlace build");
        CHECK_NOT_CONTAINS(r.out, "Skerry");
    }
    CHECK_CONTAINS(expect_code(1, "bootlace new harbour-z80").err, "nothing is overwritten");
    CHECK_CONTAINS(expect_code(2, "bootlace new x -c 4004").err, "there is one for: 65c02");
    CHECK_CONTAINS(expect_code(2, "bootlace new 'a b'").err, "cannot be the name");
    CHECK_INT(expect_code(0, "ls -d x 2>/dev/null; true").out_count, 0);
}

TEST(a_new_project_for_a_cpu_of_ones_own)
{
    test_folder();
    expect_code(0, "bootlace new pebble -c own");
    expect_code(0, "cd pebble && bootlace build && bootlace chip plan");
    expect_code(0, "cd pebble && bootlace chip write U1 -p sim");
    expect_code(0, "cd pebble && bootlace chip verify U1 -p sim");
    test_run r = expect_code(0, "cd pebble && bootlace disassemble out/U1.bin --at 0 -r 0..16");
    CHECK_CONTAINS(r.out, "OUT 2");
    CHECK_CONTAINS(expect_code(1, "cd pebble && bootlace board run").err,
                   "there is no simulator for the own");
}

static void data_rom(void)
{
    test_write_file("bench.yaml",
                    "bench: Tide table\ncpu: none\nareas:\n"
                    "  - {name: table, range: $0000..$1FFF, kind: rom}\n"
                    "chips:\n  - {name: U9, part: 28C64, maps: [{cpu: $0000..$1FFF}]}\n"
                    "define: {HARBOUR: 0x12, DEPTH: -3}\n"
                    "build:\n  - {source: table.asm, for: chips}\n");
    test_write_file("table.asm", " .place table\n .text \"TIDE\"\n .byte HARBOUR, DEPTH\n");
}

TEST(a_rom_without_a_cpu)
{
    data_rom();
    expect_code(0, "bootlace build");
    test_run r = expect_code(0, "bootlace chip plan");
    CHECK_CONTAINS(r.out, "a mark is 128 bytes");
    expect_code(0, "bootlace chip plan -o plan.png && test -s plan.png");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write U9 -p sim").out, "verified:");
    expect_code(0, "bootlace chip verify -p sim");
    CHECK_CONTAINS(expect_code(1, "bootlace board run").err, "there is no CPU");
    r = expect_code(0, "bootlace image show out/U9.bin --at 0 -r 0..5");
    CHECK_CONTAINS(r.out, "54 49 44 45 12 FD");
}

TEST(definitions_of_the_bench_file_and_of_the_command)
{
    data_rom();
    expect_code(0, "bootlace build -q -D HARBOUR=0x34");
    CHECK_CONTAINS(expect_code(0, "bootlace image show out/table.hex -r 0..5").out, "45 34 FD");
    expect_code(0, "bootlace chip write U9 -p sim -q -D HARBOUR=0x34");
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim").err, "1 byte is wrong");
    expect_code(0, "bootlace chip verify -p sim -D HARBOUR=0x34");
    CHECK_CONTAINS(expect_code(2, "bootlace build -D HARBOUR=$100").err, "a shell takes $");
    CHECK_CONTAINS(expect_code(2, "bootlace build -D A=1 -D A=2").err, "given twice");
    edit("bench.yaml", "0x12", "many");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err,
                   "bench.yaml:7:19: error: the value of 'HARBOUR' is not a number");
}

TEST(two_bench_files_in_one_folder)
{
    data_rom();
    expect_code(0, "sed 's/0x12/0x99/' bench.yaml >slow.yaml");
    expect_code(0, "bootlace build -q && bootlace chip write U9 -p sim -q");
    expect_code(0,
                "bootlace build -q -b slow.yaml && bootlace chip write U9 -p sim -q -b slow.yaml");
    expect_code(0, "bootlace chip verify -p sim && bootlace chip verify -p sim -b slow.yaml");
    expect_code(0, "test -f out/U9.bin && test -f out-slow/U9.bin");
    expect_code(0, "test -f state/U9.bin && test -f state-slow/U9.bin");
    edit("slow.yaml", "build:", "out: results\nbuild:");
    expect_code(0, "bootlace build -q -b slow.yaml && test -f results/U9.bin");
}

TEST(ram_with_a_hole_is_one_area)
{
    copy_example();
    edit("bench.yaml", "range: $0300..$7FFF, kind: ram}",
         "range: $0300..$7FFF, kind: ram, holes: [$4000..$40FF]}\n  - {name: ports, range: "
         "$4000..$40FF, kind: io}");
    edit("bench.yaml", "kind: latch, at: $8010", "kind: latch, at: $4010");
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 1s").out, "********");
    CHECK_CONTAINS(expect_code(0, "bootlace send lamp.asm -p sim").out, "verified");
    test_write_file("big.asm", " .place program\n .fill $3CFF\nx: .byte 1, 2\n .byte 3\n");
    CHECK_CONTAINS(expect_code(1, "bootlace assemble big.asm -b bench.yaml").err,
                   "big.asm:3:4: error: this runs into the hole of area 'program', $4000..$40FF");
    test_write_file("size.asm", " .org 0\n .word area.program.size\n");
    expect_code(0, "bootlace assemble size.asm -b bench.yaml -o s.hex");
    CHECK_CONTAINS(expect_code(0, "bootlace image show s.hex -r 0..1").out, " 00 7C");
    test_write_bytes("one.bin", "x", 1);
    CHECK_CONTAINS(expect_code(1, "bootlace send one.bin --at 0x4010 -p sim").err,
                   "this is for RAM");
    edit("bench.yaml", "holes: [$4000..$40FF]", "holes: [$9000..$90FF]");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "not inside of area 'program'");
}

TEST(images_are_joined_cut_and_compared)
{
    copy_example();
    expect_code(0, "bootlace build -q");
    expect_code(0, "bootlace image join out/eyelet.hex out/lamp-rom.hex -o all.hex");
    CHECK_CONTAINS(expect_code(0, "bootlace image compare all.hex out/chips.hex").out, "same: all");
    expect_code(0, "bootlace image cut all.hex -r eyelet -o e.hex");
    CHECK_CONTAINS(expect_code(0, "bootlace image show e.hex").out, "entry $FA1D");
    expect_code(0, "bootlace image cut all.hex -r rom -o r.hex");
    CHECK_NOT_CONTAINS(expect_code(0, "bootlace image show r.hex").out, "entry"); /* outside */
    test_run r = expect_code(1, "bootlace image compare r.hex out/chips.hex");
    CHECK_CONTAINS(r.out, "only in the second");
    CHECK_CONTAINS(r.out, "0 bytes differ, 0 are only in r.hex");
    /* One byte changed: named by its symbol. */
    expect_code(0, "cp light.asm old.asm; cp out/lamp.hex before.hex");
    edit("light.asm", ".byte ON,  4", ".byte ON,  5");
    expect_code(0, "bootlace build -q");
    r = expect_code(1, "bootlace image compare before.hex out/lamp.hex");
    CHECK_CONTAINS(r.out, "differs 04 | 05  character+1, light.asm:40");
    r = expect_code(1, "bootlace image compare before.hex out/lamp.hex --json");
    CHECK_CONTAINS(r.out, "\"different\": 1");
    CHECK_CONTAINS(expect_code(1, "bootlace image join out/lamp.hex before.hex -o x.hex").err,
                   "is in a file before it already");
    CHECK(!test_file_exists("x.hex"));
    expect_code(0, "bootlace image join e.hex r.hex -o again.srec");
    CHECK_CONTAINS(expect_code(0, "bootlace image compare again.srec all.hex").out, "same");
}

TEST(ranges_by_name)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    expect_code(0, "bootlace send lamp.asm -p sim -q");
    expect_code(0, "bootlace fetch light..character_end-1 -o l.hex -p sim");
    CHECK_CONTAINS(expect_code(0, "bootlace image compare l.hex out/lamp.hex").out, "same: all 51");
    expect_code(0, "bootlace fetch light+51 -o m.hex -p sim && cmp l.hex m.hex");
    expect_code(0, "bootlace fetch lamp-rom.light+4 -o r.hex -p sim");
    CHECK_CONTAINS(expect_code(0, "bootlace image show r.hex").out, "$C000..$C003");
    expect_code(0, "printf '\\017fetch 0300..030F c.hex\\n' | bootlace console -p sim");
    CHECK_CONTAINS(expect_code(0, "bootlace image show c.hex").out, "$0300..$030F");
    CHECK_CONTAINS(expect_code(2, "bootlace fetch ligth -o x.hex -p sim").err,
                   "did you mean 'light'?");
    CHECK_CONTAINS(expect_code(2, "bootlace fetch $0300..$03FF -o x.hex -p sim").err,
                   "a shell takes $");
    CHECK_CONTAINS(expect_code(2, "bootlace disassemble out/lamp.hex -c 65c02 --code $100").err,
                   "a shell takes $");
    CHECK_CONTAINS(expect_code(2, "bootlace fetch ./up.sh300..0x3FF -o x.hex").err,
                   "write 0x0300 or 0300h");
    CHECK_CONTAINS(expect_code(2, "bootlace fetch -bash300..-bash3FF -o x.hex").err,
                   "a shell takes $");
    expect_code(0, "bootlace image convert out/lamp.hex -o raw.bin");
    CHECK_CONTAINS(expect_code(2, "bootlace send raw.bin --at 0x300 -p sim --entry 0x300").err,
                   "--entry goes with --run");
    expect_code(0, "bootlace send raw.bin --at 0x300 -p sim --run --entry 0x300");
    CHECK_CONTAINS(expect_code(1, "bootlace fetch light -o nowhere/x.hex -p sim").err,
                   "nowhere/x.hex");
    CHECK(!test_file_exists("nowhere"));
}

static const char speaker[] =
    "        .use \"out/eyelet.sym\" as eyelet\n"
    "        .place program\n        .entry start\n"
    "start:  ldx #0\n"
    "_next:  lda text,x\n        beq _end\n"
    "_wait:  lda board.serial.status\n        and #$10\n"
    "        beq _wait\n        lda text,x\n"
    "        sta board.serial.data\n        inx\n        bra _next\n"
    "_end:   jsr eyelet.poll\n        bra _end\n"
    "text:   .text \"Fog ahead\", 13, 10, \"all well\", 13, 10 ending 0\n";

TEST(what_a_program_says_at_once_is_shown)
{
    copy_example();
    test_write_file("speak.asm", speaker);
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    test_run r = expect_code(0, "bootlace send speak.asm -p sim --run");
    CHECK_CONTAINS(r.out, "  says  Fog ahead\n  says  all well\n");
    CHECK_NOT_CONTAINS(r.out, "sent again");
    r = expect_code(0, "bootlace send speak.asm -p sim --run --json");
    CHECK_CONTAINS(r.out, "\"said\": \"Fog ahead\\nall well\"");
    r = expect_code(0, "bootlace send speak.asm -p sim --run --stay </dev/null");
    CHECK_CONTAINS(r.out, "Fog ahead\r\nall well\r\n");
    r = expect_code(0, "printf '\\017send speak.asm run\\n' | bootlace console -p sim");
    CHECK_CONTAINS(r.out, "Fog ahead\r\nall well\r\n");
}

TEST(what_a_neighbours_program_says_at_once_is_shown)
{
    copy_example_named("bollard");
    test_write_file("speak.asm",
                    "        .place program\n        .entry start\nstart:  ldx #0\n"
                    "_next:  lda text,x\n        beq _end\n_wait:  lda board.serial.status\n"
                    "        and #$10\n        beq _wait\n        lda text,x\n"
                    "        sta board.serial.data\n        inx\n        bra _next\n"
                    "_end:   bra _end\ntext:   .text \"Buoy lit\", 13, 10 ending 0\n");
    expect_code(0, "bootlace build -q && bootlace chip write U1 -p sim -q");
    test_run r = expect_code(0, "bootlace send speak.asm -p sim --run");
    CHECK_CONTAINS(r.out, "  says  Buoy lit\n");
}

TEST(the_boards_switches)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    CHECK_CONTAINS(expect_code(1, "bootlace board reset").err, "is off: bootlace board on");
    expect_code(0, "bootlace board on");
    expect_code(0, "bootlace send lamp.asm -p sim -q");
    CHECK_CONTAINS(expect_code(0, "bootlace board reset").err, "RAM is as it was");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 100ms").out, "Eyelet 1 for the 65C02");
    CHECK_CONTAINS(expect_code(0, "bootlace check lamp.asm -p sim").out, "same:");
    expect_code(0, "bootlace board off");
    expect_code(1, "bootlace check lamp.asm -p sim");
    /* A run that is cut in the middle of a byte goes on. */
    expect_code(0, "bootlace board run --for 10ms --power-cycle");
    test_run r = expect_code(0, "bootlace board run --for 5s");
    CHECK_CONTAINS(r.out, "     0.000 s  lamps    ........  $00\n");
    CHECK_CONTAINS(r.out, "lamps    ********  $FF");
    r = expect_code(0, "(echo reset; await 'grep -q FF serve.out'; echo quit) | bootlace board "
                       "serve >serve.out; s=$?; "
                       "cat serve.out; exit $s");
    CHECK_CONTAINS(r.out, "lamps    ********  $FF");
    CHECK_CONTAINS(r.err, "reset; RAM is as it was");
}

/* The times of what a board shows never go back. */
TEST(events_are_shown_in_order)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    test_run r = expect_code(0, "bootlace board run --for 4s --type '?'");
    double last = -1, time;
    unsigned events = 0;
    for (const char *at = strchr(r.out, '\n'); at != NULL && at[1] != '\0';
         at = strchr(at + 1, '\n')) {
        if (sscanf(at + 1, " %lf s", &time) != 1) continue;
        CHECK(time >= last);
        last = time;
        events++;
    }
    CHECK(events > 4);
}

TEST(who_answers_on_which_port)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    test_run r = expect_code(
        0, "bootlace board serve >serve.out 2>&1 </dev/null & pid=$!; await '[ -e state/serial ]'; "
           "bootlace ports state/serial state/programmer /dev/null; bootlace send lamp.asm --run; "
           "flock state/serial sleep 1.5 & await '! flock -n state/serial true'; bootlace ports "
           "state/serial; "
           "bootlace send lamp.asm -p state/serial; wait %%2; kill $pid; wait $pid; true");
    CHECK_CONTAINS(r.out, "state/serial      Eyelet 65C02, on a pseudo-terminal");
    CHECK_CONTAINS(r.out, "state/programmer  the Skerry programmer, on");
    CHECK_CONTAINS(r.out, "/dev/null         it cannot be opened");
    CHECK_CONTAINS(r.out, "running from $0300");
    CHECK_CONTAINS(r.out, "state/serial  busy");
    CHECK_CONTAINS(r.err, "state/serial: another program is using it");
}

TEST(a_trace_of_the_line)
{
    copy_example();
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q --trace chip.txt");
    CHECK_CONTAINS(expect_code(0, "cat chip.txt").out, "= asks select, number 2");
    expect_code(0, "bootlace send lamp.asm -p sim --trace send.txt");
    test_run r = expect_code(0, "cat send.txt");
    CHECK_CONTAINS(r.out, "# line trace: sim, 19200 baud");
    CHECK_CONTAINS(r.out, "= asks write, number 3 at $000300, 51 bytes");
    CHECK_CONTAINS(r.out, "= answer to write, number 3: good");
    CHECK_CONTAINS(expect_code(1, "bootlace check lamp.asm -p sim --trace no/where").err,
                   "the trace cannot be written");
}

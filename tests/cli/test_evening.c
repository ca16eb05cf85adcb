/* The whole path as a user walks it, on the simulated bench in the same process and over
 * pseudo-terminals. */
#include "cli_support.h"

#include <string.h>

TEST(from_source_to_proven_memory)
{
    copy_example();
    test_run r = expect_code(0, "bootlace build");
    CHECK_CONTAINS(r.err, "Skerry-65 built: 11 files in out");
    CHECK(test_file_exists("out/U5.bin") && test_file_exists("out/eyelet.lst") &&
          test_file_exists("out/lamp.sym"));
    CHECK_CONTAINS(expect_code(0, "bootlace chip blank -p sim").out,
                   "blank, all 32768 bytes are FF");
    r = expect_code(0, "bootlace chip write U5 -p sim");
    CHECK_CONTAINS(r.out, "verified:");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out, "nothing written");
    CHECK_CONTAINS(expect_code(1, "bootlace chip blank -p sim").out, "not blank");
    expect_code(0, "bootlace chip read -p sim -o back.bin && cmp back.bin out/U5.bin");
    r = expect_code(0, "bootlace board run --for 7s");
    CHECK_CONTAINS(r.out, "Eyelet 1 for the 65C02");
    CHECK_CONTAINS(r.out, "********  $FF");

    edit("light.asm", "ON  = %11111111", "ON  = %10101010");
    r = expect_code(0, "bootlace send lamp.asm -p sim --run");
    CHECK_CONTAINS(r.out, "verified: Eyelet 65C02 computed double sums over all 51 bytes");
    CHECK_CONTAINS(r.out, "running from $0300");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 7s").out, "*.*.*.*.  $AA");
    r = expect_code(0, "bootlace check lamp.asm -p sim");
    CHECK_CONTAINS(r.out, "same");
    CHECK_CONTAINS(r.err, "the program that was running goes on");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 7s").out, "*.*.*.*.  $AA");
    expect_code(0,
                "bootlace chip verify -p sim --image out/chips.hex"); /* the chip was not touched */
}

TEST(one_changed_byte_travels_alone)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    expect_code(0, "head -c 4096 /dev/urandom | tr X Y > big.bin && bootlace send big.bin --at "
                   "'$1000' -p sim");
    expect_code(0, "printf X | dd of=big.bin bs=1 seek=2000 conv=notrunc 2>dd.err");
    CHECK_CONTAINS(expect_code(0, "bootlace send big.bin --at '$1000' -p sim").out,
                   "128 of 4096 bytes written in 1 block");
    CHECK_CONTAINS(expect_code(0, "bootlace send big.bin --at '$1000' -p sim").out,
                   "nothing written");
    expect_code(0, "bootlace fetch '$1000+4096' -o back.bin -p sim && cmp back.bin big.bin");
}

TEST(a_changed_byte_in_ram_is_told_with_symbol_and_line)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    expect_code(0, "bootlace send lamp.asm -p sim");
    test_run r = expect_code(1, "bootlace check lamp.asm -p sim --fault 'poke=$0313:$00'");
    CHECK_CONTAINS(r.err, "$0313  expected D0  found 00  light._hold+8, light.asm:21");
    r = expect_code(1, "bootlace check lamp.asm -p sim --json");
    CHECK_CONTAINS(r.out, "\"verified\": false");
    CHECK_CONTAINS(r.out, "\"place\": \"light._hold+8, light.asm:21\"");
    CHECK_CONTAINS(r.out, "\"explained\": [");
}

TEST(what_a_program_keeps_for_itself_is_not_compared)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    test_write_file("own.asm", "        .place program\n        .entry start\n"
                               "start:  inc count\n        bra start\n"
                               "count:  .reserve 1\nspace:  .reserve 11\n");
    expect_code(0, "bootlace send own.asm -p sim");
    CHECK_CONTAINS(expect_code(0, "bootlace check own.asm -p sim").out,
                   "not compared: 12 bytes that the program keeps for itself");
    expect_code(0, "echo 'put count 7' | bootlace console -p sim --commands -");
    CHECK_CONTAINS(expect_code(0, "bootlace check own.asm -p sim").out, "same: ");
}

TEST(noise_on_the_line_never_passes_for_success)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    expect_code(0, "head -c 3000 /dev/urandom > big.bin");
    for (unsigned seed = 0; seed < 12; seed++) {
        test_run r = test_command(
            "bootlace send big.bin --at '$1000' --all -p sim --fault %s=1/500 --seed %u",
            seed % 2 ? "lose" : "flip", seed);
        if (r.code != 0) {
            CHECK_INT(r.code, 1);
            CHECK_CONTAINS(r.err, "error:");
            continue;
        }
        expect_code(0, "bootlace fetch '$1000+3000' -o back.bin -p sim && cmp back.bin big.bin");
    }
}

TEST(faulty_chips_are_named)
{
    copy_example();
    test_run r = expect_code(1, "bootlace chip write -p sim --fault 'stuck=$4000:1:0'");
    CHECK_CONTAINS(r.err, "$4000 (CPU $C000)  expected A2  found A0  light, light.asm:11");
    CHECK_CONTAINS(r.err, "U5 is not good");
    CHECK_NOT_CONTAINS(r.out, "verified");
    r = expect_code(1, "bootlace chip write -p sim --fault locked");
    CHECK_CONTAINS(r.err, "--unprotect");
    r = expect_code(1, "rm -r state; bootlace chip write -p sim --fault vanish=1500");
    CHECK_CONTAINS(r.err, "stopped answering while writing");
    CHECK_CONTAINS(r.err, "bytes are verified so far; run the command again");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim --unprotect").out, "verified");
    CHECK_CONTAINS(expect_code(0, "bootlace chip verify -p sim --fault flip=1/2000").out, "same");
}

TEST(protection_stays_with_the_chip)
{
    copy_example();
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim --protect").out,
                   "software protection on");
    edit("light.asm", "46", "47");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim").err,
                   "not a byte of the page changed");
    expect_code(0, "bootlace chip write -p sim --unprotect");
}

TEST(a_source_of_the_bench_file_may_have_a_whole_path)
{
    copy_example();
    expect_code(0, "sed -i \"s,source: lamp.asm,source: $PWD/lamp.asm,\" bench.yaml");
    expect_code(0, "mkdir elsewhere; cd elsewhere; bootlace chip write -q -b ../bench.yaml -p sim");
    CHECK_CONTAINS(expect_code(0, "cd elsewhere; bootlace send -b ../bench.yaml -p sim").out,
                   "computed double sums over all 51 bytes");
}

/* ---- over pseudo-terminals ---- */

static const char with_server[] = "bootlace board serve >serve.out 2>serve.err & server=$!; "
                                  "await '[ -e state/serial ]'; ";

TEST(the_same_bench_over_pseudo_terminals)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0,
                             "%s (bootlace chip verify -p state/programmer && bootlace send "
                             "lamp.asm -p state/serial --run && "
                             "bootlace check lamp.asm -p state/serial && bootlace fetch "
                             "'$0300..$0332' -o lamp.bin -p state/serial); "
                             "code=$?; kill $server; wait $server; exit $code",
                             with_server);
    CHECK_CONTAINS(r.out, "every CRC-32 is right");
    CHECK_CONTAINS(r.out, "running from $0300");
    CHECK_CONTAINS(r.out, "lamp.asm: same");
    expect_code(0, "bootlace image convert lamp.bin --at '$0300' -o lamp.hex && bootlace check "
                   "lamp.hex -p sim");
}

TEST(a_served_chip_is_burned_and_the_board_comes_up_again)
{
    copy_example();
    test_run r = expect_code(
        0,
        "%s bootlace chip write -p state/programmer; code=$?; await 'grep -q power.on serve.err'; "
        "bootlace send lamp.asm -p state/serial || code=9; kill $server; wait "
        "$server; cat serve.err; exit $code",
        with_server);
    CHECK_CONTAINS(r.out, "34 of 512 pages written");
    CHECK_CONTAINS(r.out, "the chip is back in the board; power on");
    CHECK_CONTAINS(r.out, "verified: Eyelet 65C02");
}

TEST(a_bench_has_one_user_at_a_time)
{
    copy_example();
    test_run r = expect_code(
        1, "%s bootlace chip verify -p sim; code=$?; kill $server; wait $server; exit $code",
        with_server);
    CHECK_CONTAINS(r.err, "another process is using this simulated bench");
}

TEST(a_person_at_a_terminal)
{
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    test_run r = expect_code(0, "bootlace board run --for 2s --type '?'");
    CHECK_CONTAINS(r.out, "R runs the ROM");
    CHECK_CONTAINS(r.out, "eyelet>");
    r = expect_code(0, "bootlace board run --for 2s --type 'r'");
    CHECK_CONTAINS(r.out, "********");
    r = expect_code(0, "bootlace board run --for 1s --type '~garbage that is not a frame\\r'");
    r = expect_code(0, "bootlace check lamp-rom.asm -p sim");
    CHECK_CONTAINS(r.out, "same");
}

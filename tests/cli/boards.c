/* The whole path on the other boards: source, chip, verified, running, changed, proved. */
#include "support.h"

#include <string.h>

TEST(skerry_80_from_source_to_proven_memory)
{
    copy_example_named("skerry-80");
    test_run r = expect_code(0, "bootlace build");
    CHECK_CONTAINS(r.err, "Skerry-80 built: 11 files in out");
    CHECK_NOT_CONTAINS(r.err, "warning");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan").out, "reset  $0000  runs from here");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim").out, "verified:");
    r = expect_code(0, "bootlace board run -p sim --for 9s");
    CHECK_CONTAINS(r.out, "Skerry-80, Z80 at 4 MHz, power on");
    CHECK_CONTAINS(r.out, "Eyelet 1 for the Z80");
    CHECK_CONTAINS(r.out, "0.277 s  horn     *......*  $81");
    CHECK_CONTAINS(r.out, "2.277 s  horn     ........  $00"); /* two seconds of sound */

    edit("signal.asm", "SOUND, 20", "SOUND, 10");
    r = expect_code(0, "bootlace send horn.asm -p sim --run");
    CHECK_CONTAINS(r.out, "verified: Eyelet Z80 computed the CRC-32 of all 46 bytes");
    expect_code(0, "bootlace board run -p sim --for 3s");
    r = expect_code(0, "bootlace check horn.asm -p sim");
    CHECK_CONTAINS(r.out, "same");
    CHECK_CONTAINS(r.err, "the program that was running goes on");
    edit("signal.asm", "SOUND, 10", "SOUND, 20");
    r = expect_code(1, "bootlace check horn.asm -p sim");
    CHECK_CONTAINS(r.err, "$8223  expected 14  found 0A  steps+1, signal.asm:33");
    expect_code(0,
                "bootlace fetch '$8200+46' -p sim -o back.bin && test $(wc -c <back.bin) -eq 46");
}

TEST(skerry_80_on_noisy_lines)
{
    copy_example_named("skerry-80");
    expect_code(0, "bootlace chip write -q -p sim");
    expect_code(0, "head -c 3000 /dev/urandom > big.bin");
    for (unsigned seed = 1; seed <= 4; seed++) {
        expect_code(0, "bootlace send big.bin --at '$9000' -p sim --fault flip=1/3000 --seed %u",
                    seed);
        expect_code(0, "bootlace fetch '$9000+3000' -o back.bin -p sim && cmp back.bin big.bin");
        expect_code(0, "dd if=/dev/urandom of=big.bin bs=1 seek=%u count=90 conv=notrunc 2>dd.err",
                    seed * 600);
    }
    /* The last address can be written, and no further. */
    expect_code(0, "printf abcd > top.bin && bootlace send top.bin --at '$FBFC' -p sim");
    CHECK_CONTAINS(expect_code(1, "bootlace send top.bin --at '$0100' -p sim").err, "error");
}

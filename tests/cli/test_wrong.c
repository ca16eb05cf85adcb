/* Wrong input to every command: exit 1 or 2, one clear message, and nothing half-written. */
#include "cli_support.h"

#include <stdio.h>
#include <string.h>

static void wrong(int code, const char *said, const char *line)
{
    unsigned before = count_files();
    test_run r = expect_code(code, "%s", line);
    CHECK_CONTAINS(r.err, said);
    CHECK_TEXT(r.out, "");
    if (count_files() != before) test_fail(__FILE__, __LINE__, "%s left a file behind", line);
}

TEST(commands_and_options)
{
    wrong(2, "there is no command 'bild'; did you mean 'build'?", "bootlace bild");
    wrong(2, "there is no command 'frobnicate'", "bootlace frobnicate");
    wrong(2, "Unknown option --frob", "bootlace assemble --frob");
    wrong(2, "bootlace chip plan | blank", "bootlace chip burn");
    wrong(2, "bootlace board run | serve", "bootlace board");
    wrong(2, "bootlace image show | convert", "bootlace image");
    test_run r = expect_code(2, "bootlace");
    CHECK_CONTAINS(r.out, "Usage:");
}

TEST(every_command_has_help_with_an_example)
{
    static const char *const all[] = {"build",         "assemble",    "image",       "image show",
                                      "image convert", "chip",        "chip plan",   "chip blank",
                                      "chip write",    "chip verify", "chip read",   "chip history",
                                      "send",          "check",       "fetch",       "disassemble",
                                      "board",         "board run",   "board serve", "cpus"};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        test_run r = expect_code(0, "bootlace %s --help", all[i]);
        CHECK_CONTAINS(r.out, "Example:");
        CHECK_CONTAINS(r.out, "bootlace ");
    }
    CHECK_CONTAINS(expect_code(0, "bootlace --help").out, "A first evening");
    CHECK_CONTAINS(expect_code(0, "bootlace --version").out, "bootlace 0.");
}

TEST(disassemble)
{
    test_write_bytes("rom.bin", "\xA9\x01\x60", 3);
    wrong(2, "no file given", "bootlace disassemble");
    wrong(2, "no CPU given", "bootlace disassemble rom.bin --at 0");
    wrong(2, "no sheet for a CPU named 'z99'", "bootlace disassemble rom.bin --at 0 -c z99");
    wrong(2, "a raw binary carries no address; give --at ADDRESS",
          "bootlace disassemble rom.bin -c 6502");
    wrong(2, "'5..' is not a range: FIRST..LAST (both included)",
          "bootlace disassemble rom.bin --at 0 -c 6502 -r 5..");
    wrong(2, "'here' is no number", "bootlace disassemble rom.bin --at 0 -c 6502 --code here");
    wrong(1, "nothing of the image lies in $10+5",
          "bootlace disassemble rom.bin --at 0 -c 6502 -r '$10+5' -o x.asm");
    wrong(1, "none.sym", "bootlace disassemble rom.bin --at 0 -c 6502 -y none.sym -o x.asm");
    wrong(1, "none.bin", "bootlace disassemble none.bin --at 0 -c 6502");
    test_run r = expect_code(0, "bootlace disassemble rom.bin --at 0 -c 6502");
    CHECK_CONTAINS(r.err, "no code was found");
    CHECK_CONTAINS(r.out, ".byte $A9, $01, $60");
    r = expect_code(0, "bootlace disassemble rom.bin --at '$200' -c 6502 --code '$200'");
    CHECK_CONTAINS(r.out, "at_0200:\n        LDA #$01");
    CHECK_TEXT(r.err, "");
}

TEST(sheets_of_ones_own)
{
    test_write_file("mine.sheet", "sheet mine\ntakes base\nform ADD n | 02 n | 2\n");
    test_write_file("base.sheet", "sheet base\noperand n value 8\nform LD n | 01 n | 2\n");
    test_write_file("bad.sheet", "sheet bad\nform LD q | 01 | 2\n");
    test_write_file("p.asm", " ld 5\n add 6\n");
    expect_code(0, "bootlace assemble p.asm -c mine.sheet -o p.bin");
    size_t count;
    const char *found = test_read_file("p.bin", &count);
    CHECK_BYTES(found, count, "\x01\x05\x02\x06", 4);
    CHECK_CONTAINS(expect_code(0, "bootlace cpus mine.sheet").out, "ADD n");
    CHECK_CONTAINS(expect_code(0, "bootlace disassemble p.bin --at 0 -c mine.sheet --all -o -").out,
                   "ADD $06");
    wrong(2, "bad.sheet:2:9: error: unknown operand", "bootlace cpus bad.sheet");
    wrong(2, "none.sheet", "bootlace assemble p.asm -c none.sheet -o x.bin");
}

TEST(assemble)
{
    test_write_file("good.asm", " lda #1\n");
    test_write_file("bad.asm", " lda #1\n ldaa #2\n");
    wrong(2, "no source given", "bootlace assemble");
    wrong(2, "no CPU given", "bootlace assemble good.asm");
    wrong(2, "no sheet for a CPU named 'z99'", "bootlace assemble good.asm -c z99 -o x.bin");
    wrong(1, "cannot read source 'none.asm': not found",
          "bootlace assemble none.asm -c 65c02 -o x.bin");
    wrong(1,
          "bad.asm:2:2: error:", "bootlace assemble bad.asm -c 65c02 -o x.bin -l x.lst -y x.sym");
    wrong(2, "its ending names no format", "bootlace assemble good.asm -c 65c02 -o x.elf");
    wrong(2, "the formats are bin, hex and srec",
          "bootlace assemble good.asm -c 65c02 -o x.bin -f elf");
    wrong(2, "-D 9x: like NAME or NAME=12", "bootlace assemble good.asm -c 65c02 -D 9x");
    wrong(2, "-D x=y: like", "bootlace assemble good.asm -c 65c02 -D x=y");
    wrong(1, "bench.yaml: error: cannot read: no such file",
          "bootlace assemble good.asm -b bench.yaml");
    expect_code(0, "mkdir ro && touch ro/f");
    wrong(1, "cannot write", "bootlace assemble good.asm -c 65c02 -o ro/f/x.bin");
}

TEST(assemble_writes_what_was_asked_for)
{
    test_write_file("good.asm", " .org $1000\nhop: lda #COUNT\n jmp hop\n .entry hop\n");
    expect_code(0, "bootlace assemble good.asm -c 65c02 -D COUNT=5 -o g.hex -l g.lst -y g.sym");
    CHECK_CONTAINS(test_read_file("g.hex", NULL), ":05100000A9054C0010");
    CHECK_CONTAINS(test_read_file("g.lst", NULL), "1000  A9 05");
    CHECK_CONTAINS(test_read_file("g.sym", NULL), "label hop $1000 2 good.asm");
    CHECK_CONTAINS(
        expect_code(0, "bootlace assemble good.asm -c 65C02 -D COUNT=$((2+3)) -o - -f srec").out,
        "S1081000A9054C0010");
    expect_code(
        0, "mkdir lib && mv good.asm lib/deep.asm && printf ' .include \"deep.asm\"\\n' > top.asm");
    expect_code(1, "bootlace assemble top.asm -c 65c02 -D COUNT");
    expect_code(0, "bootlace assemble top.asm -c 65c02 -D COUNT -I lib -q");
    CHECK_CONTAINS(
        expect_code(0, "cat lib/deep.asm | bootlace assemble - -c 65c02 -D COUNT=1 -o - -f hex")
            .out,
        ":05100000A901");
}

TEST(watching_tells_only_the_news)
{
    test_write_file("w.asm", " .include \"w.inc\"\n ldaa #1\n");
    test_write_file("w.inc", " stta 1\n");
    test_run r = test_command(
        "bootlace assemble w.asm -c 65c02 --watch -o w.bin 2>>w.err & watch=$!; "
        "await 'grep -q ldaa w.err'; cp w.err one; : >w.err; "
        "printf ' sta 1\\n' >w.inc; await 'grep -q before w.err'; cp w.err two; : >w.err; "
        "printf ' .include \"w.inc\"\\n\\n lda #1\\n' >w.asm; await 'grep -q bytes w.err'; kill "
        "$watch; "
        "cat one; echo ==; cat two; echo ==; cat w.err");
    const char *second = strstr(r.out, "=="),
               *third = second != NULL ? strstr(second + 2, "==") : NULL;
    CHECK(third != NULL);
    CHECK_CONTAINS(r.out, "w.inc:1:2: error: the 65c02 has no instruction 'stta'");
    CHECK_CONTAINS(r.out, "w.asm:2:2: error: the 65c02 has no instruction 'ldaa'");
    CHECK(strstr(second, "stta") == NULL && strstr(second, "no instruction 'ldaa'") == NULL);
    CHECK_CONTAINS(second, "gone");
    CHECK_CONTAINS(second, "1 as before");
    CHECK_CONTAINS(third, "4 bytes");
    CHECK(test_file_exists("w.bin"));
}

/* The include is a pipe, so that the assembler waits in the middle of its turn. */
TEST(a_save_while_the_turn_goes_on_makes_another)
{
    test_write_file("w.asm", " .include \"w.inc\"\n lda #1\n");
    test_write_file("turn.sh",
                    "mkfifo w.inc\n"
                    "bootlace assemble w.asm -c 65c02 --watch -o w.bin 2>w.err & watch=$!\n"
                    "exec 3>w.inc\n"
                    "printf ' lda $1234\\n' >w.asm\n"
                    "echo >&3; exec 3>&-\n"
                    "await 'grep -q 3.bytes w.err'; code=$?; kill $watch; exit $code\n");
    test_run r = test_command("timeout 60 sh turn.sh");
    CHECK_INT(r.code, 0);
}

TEST(maps_and_strictness)
{
    test_write_file("s.asm", "k = $1234\n lda #>k + 1\n");
    expect_code(0, "bootlace assemble s.asm -c 65c02 --map s.map");
    CHECK_TEXT(test_read_file("s.map", NULL), "bootlace map 1\n$0000 2 2 s.asm\n");
    CHECK_CONTAINS(expect_code(1, "bootlace assemble s.asm -c 65c02 --strict -o s.bin").err,
                   "error: '>' takes a byte");
    CHECK(!test_file_exists("s.bin"));
    test_write_file("d.asm", " .byte 1, 2\n");
    expect_code(0, "bootlace assemble d.asm -c none -o d.bin");
    CHECK_CONTAINS(
        expect_code(1, "head -c 70000000 /dev/zero >big.asm; bootlace assemble big.asm -c 65c02")
            .err,
        "larger than any source can be");
}

TEST(images)
{
    test_write_file("ok.hex", ":0300300002337A1E\n:00000001FF\n");
    test_write_file("bad.hex", ":0300300002337A1F\n:00000001FF\n");
    test_write_file("odd.xyz", "??");
    wrong(2, "no file given", "bootlace image show");
    wrong(1, "cannot read: no such file", "bootlace image show none.hex");
    wrong(1, "bad.hex:1:16: error: checksum is 1F", "bootlace image convert bad.hex -o x.bin");
    wrong(2, "unknown format", "bootlace image show odd.xyz");
    wrong(2, "no output file", "bootlace image convert ok.hex");
    wrong(2, "a raw binary carries no address",
          "bootlace image show /bin/true -r 0..1; cp ok.hex raw.bin; bootlace image show raw.bin; "
          "code=$?; rm raw.bin; exit $code");
    wrong(2, "--fill 256: not a number from 0 to 255",
          "bootlace image convert ok.hex -o x.bin --fill 256");
    wrong(1, "nothing of the image lies in $9000..$9FFF",
          "bootlace image convert ok.hex -o x.bin -r '$9000..$9FFF'");
    wrong(2, "'5..1' ends before it begins", "bootlace image show ok.hex -r 5..1");
    wrong(2, "'nowhere' is no number", "bootlace image show ok.hex --at nowhere");
    CHECK_CONTAINS(expect_code(0, "bootlace image show ok.hex").out, "$0030..$0032");
    CHECK_CONTAINS(expect_code(0, "bootlace image show ok.hex -r '$31..$32'").out, "33 7A");
    CHECK_CONTAINS(expect_code(0, "bootlace image show ok.hex --json").out, "\"crc32\"");
    expect_code(
        0, "bootlace image convert ok.hex -o a.srec && bootlace image convert a.srec -o b.bin && "
           "bootlace image convert b.bin --at '$30' -o c.hex && cmp c.hex ok.hex");
    expect_code(0, "bootlace image convert ok.hex -r '$30..$35' -o d.bin");
}

TEST(projects)
{
    wrong(2, "no bench file: there is no bench.yaml here", "bootlace build");
    wrong(2, "no bench file", "bootlace chip plan");
    wrong(2, "no bench file", "bootlace send x.asm -p sim");
    wrong(1, "no such file", "bootlace build -b none.yaml");
    copy_example();
    edit("light.asm", "sta board.lamps.data", "sta board.lamp.data");
    test_run r = expect_code(1, "bootlace build");
    CHECK_CONTAINS(r.err, "light.asm:13:13: error: undefined name 'board.lamp.data'");
    CHECK_CONTAINS(r.err, "nothing written");
    CHECK(!test_file_exists("out"));
    expect_code(1, "bootlace chip write -p sim");
    CHECK(!test_file_exists("state/U5.bin"));
}

TEST(pieces_in_the_wrong_place)
{
    copy_example();
    edit("lamp.asm", ".place program", ".place rom");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "this is for RAM, and $C000 is ROM");
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p sim").err, "this is for RAM");
    copy_example();
    edit("lamp-rom.asm", ".place rom", ".org $9000");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err,
                   "light.asm:11: error: 51 bytes at $9000 lie in no chip");
    copy_example();
    edit("lamp-rom.asm", ".place rom", ".org $FC10");
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, "address $FC10 is filled by two pieces");
    copy_example();
    edit("bench.yaml", "  - {firmware: eyelet, for: chips}\n", "");
    edit("light.asm", "jsr eyelet.poll", "nop");
    edit("lamp-rom.asm", ".use \"out/eyelet.sym\" as eyelet", "");
    edit("lamp-rom.asm", ".org eyelet.autostart", "");
    edit("lamp.asm", ".use \"out/eyelet.sym\" as eyelet", "");
    CHECK_CONTAINS(expect_code(0, "bootlace build").err, "the reset vector at $FFFC is not set");
}

TEST(ports)
{
    copy_example();
    wrong(2, "no port given", "bootlace send lamp.asm");
    wrong(2, "no port given", "bootlace chip verify");
    wrong(1, "/dev/none: there is no such device", "bootlace send lamp.asm -p /dev/none");
    wrong(1, "not a serial device", "bootlace send lamp.asm -p /dev/null");
    wrong(2, "--fault is for the simulated bench",
          "bootlace send lamp.asm -p /dev/ptmx --fault flip=1/5");
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p sim --fault nonsense").err,
                   "'nonsense' is not a fault");
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p sim").err,
                   "nothing answers on sim at 19200 baud"); /* the chip is blank */
    expect_code(0, "bootlace chip write -q -p sim");
    CHECK_CONTAINS(expect_code(1, "bootlace send lamp.asm -p sim --fault vanish=120").err,
                   "stopped answering");
    edit("bench.yaml", "baud: 19200", "baud: 4800");
    CHECK_CONTAINS(expect_code(1, "bootlace check lamp.asm -p sim").err,
                   "error:"); /* the monitor runs at the old rate */
}

TEST(chips_and_ranges)
{
    copy_example();
    wrong(2, "no chip is called 'U9'; the bench has: U5", "bootlace chip write U9 -p sim");
    wrong(2, "no output file", "bootlace chip read -p sim");
    wrong(2, "one chip at a time", "bootlace chip write U5 U6 -p sim");
    wrong(2, "exclude each other", "bootlace chip write -p sim --protect --unprotect");
    wrong(2, "undefined name 'lots'", "bootlace fetch lots -o x.bin -p sim");
    wrong(2, "beyond the machine's addresses", "bootlace fetch '$FFFF+2' -o x.bin -p sim");
    wrong(2, "no range given", "bootlace fetch -o x.bin -p sim");
    wrong(2, "is not a time", "bootlace board run --for ever");
    expect_code(0, "bootlace chip write -q -p sim");
    test_write_file("low.hex", ":01001000AA45\n:00000001FF\n");
    CHECK_CONTAINS(expect_code(1, "bootlace send low.hex -p sim").err,
                   "refused while writing, at $0010: it will not touch this address");
    CHECK_CONTAINS(expect_code(1, "bootlace send low.hex -p sim --run").err,
                   "--run needs an entry point");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim --image low.hex").err,
                   "lies in no chip");
    test_write_file("state/U5.bin", "short");
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim").err,
                   "a 28C256 holds 32768 bytes, this file 5");
}

TEST(a_chip_of_128_kilobytes)
{
    copy_example();
    edit("bench.yaml", "part: 28C256", "part: 28C010");
    edit("bench.yaml", "offset: $4000", "offset: $1C000");
    test_run r = expect_code(0, "bootlace chip write -p sim --protect");
    CHECK_CONTAINS(r.out, "U5 (28C010): 18 of 1024 pages written");
    CHECK_CONTAINS(r.out, "read all 131072 bytes back");
    CHECK_CONTAINS(r.out, "; software protection on");
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim --fault address=16:0").err,
                   "probably: every byte reads FF");
    CHECK_CONTAINS(expect_code(0, "bootlace board run -p sim --for 1s").out, "lamps    ********");
    /* Protected: another program does not get in without being told. */
    edit("light.asm", "ON,  4", "ON,  5");
    CHECK_CONTAINS(expect_code(1, "bootlace chip write -p sim").err, "try --unprotect");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write -p sim --unprotect").out, "verified:");
    expect_code(0, "bootlace chip read -q -p sim -o U5.bin && test $(wc -c <U5.bin) -eq 131072");
    /* The checksums are those that the image file has. */
    r = expect_code(0, "bootlace image show U5.bin --at 0");
    unsigned crc32, crc16, sum16;
    CHECK(sscanf(strstr(r.out, "131072  "), "131072 %x %x %x", &crc32, &crc16, &sum16) == 3);
    char line[80];
    snprintf(line, sizeof line, "CRC-32 %08X, CRC-16 %04X, sum-16 %04X", crc32, crc16, sum16);
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan").out, line);
}

/* A checksum is a number of 32 bits, also with the highest bit set. */
TEST(checksums_in_json_have_no_sign)
{
    unsigned high = 0;
    copy_example();
    for (unsigned turn = 0; turn < 8; turn++) {
        char from[20], to[20], line[40];
        snprintf(from, sizeof from, "OFF, %u", turn == 0 ? 46 : 49 + turn);
        snprintf(to, sizeof to, "OFF, %u", 50 + turn);
        edit("light.asm", from, to);
        test_run r = expect_code(0, "bootlace chip plan");
        unsigned crc;
        CHECK(sscanf(strstr(r.out, "CRC-32"), "CRC-32 %x", &crc) == 1);
        snprintf(line, sizeof line, "\"crc32\": %u,", crc);
        CHECK_CONTAINS(expect_code(0, "bootlace chip plan --json").out, line);
        expect_code(0, "bootlace chip write -q -p sim");
        CHECK_CONTAINS(expect_code(0, "bootlace chip verify -p sim --json").out, line);
        high += crc >> 31;
    }
    CHECK(high > 0);
}

TEST(causes_of_a_bad_chip_are_named)
{
    static const struct {
        const char *fault, *said;
    } all[] = {
        {"data=3:0", "probably: D3 always reads 0: stuck, or not connected"},
        {"data-swap=2:5", "probably: D2 and D5 are swapped"},
        {"data-bridge=0:1", "probably: D0 and D1 read alike, 0 when either is: they touch"},
        {"address=3:1", "probably: A3 has no effect: stuck, or not connected"},
        {"address-swap=1:9", "probably: A1 and A9 are swapped"},
        {"address=14:0", "  or: both halves read alike: A14 is stuck or not connected"},
        {"empty", "probably: every byte reads FF: the chip is blank, has no power"},
    };
    copy_example();
    expect_code(0, "bootlace chip write -q -p sim");
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++)
        CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim --fault %s", all[i].fault).err,
                       all[i].said);
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim --json --fault data=3:0").out,
                   "\"D3 always reads 0: stuck");
    /* Of what was written to a chip that is wired wrongly. */
    test_run r = expect_code(1, "bootlace chip write -p sim --state wired --fault address=3:1");
    CHECK_CONTAINS(r.err, "probably: A3 has no effect");
    r = expect_code(1, "bootlace chip write -p sim --state wired2 --fault data=3:0");
    CHECK_CONTAINS(r.err, "D3 always reads 0");
    CHECK_CONTAINS(expect_code(1, "bootlace chip verify -p sim --fault data=8:0").err,
                   "is not a fault of the simulated bench");
    /* The image in the wrong half of the chip. */
    edit("bench.yaml", "offset: $4000", "offset: $0000");
    r = expect_code(1, "bootlace chip verify -p sim");
    CHECK_CONTAINS(r.err, "the chip holds the image, shifted by $4000 up");
}

TEST(switch_sheets)
{
    copy_example();
    test_run r = expect_code(0, "bootlace panel");
    CHECK_CONTAINS(r.out, "Switch sheet: lamp.asm for Skerry-65, 51 to enter");
    CHECK_CONTAINS(r.out, "set the address $0300   .... ..** .... ....\n");
    CHECK_CONTAINS(r.out, "  $0302  BD  275  *.** **.*\n");
    CHECK_CONTAINS(r.out, "    sum of 3: $0032\n    total of 51: $18D8\n");
    /* Only what has changed. */
    expect_code(0, "bootlace assemble lamp.asm -q -o before.hex");
    edit("light.asm", "ON,  4", "ON,  5");
    r = expect_code(0, "bootlace panel lamp.asm --have before.hex --group 3 -o sheet.txt");
    CHECK_CONTAINS(r.err, "sheet.txt: 1 to enter");
    size_t n;
    CHECK_CONTAINS(test_read_file("sheet.txt", &n), "  $032C  05  005  .. ... *.*\n");
    edit("light.asm", "ON,  5", "ON,  4");
    CHECK_CONTAINS(expect_code(0, "bootlace panel lamp.asm --have before.hex").err,
                   "all of it is there already");
    CHECK_CONTAINS(expect_code(0, "bootlace panel before.hex -r '$0302+1'").out, "1 to enter");
    CHECK_CONTAINS(expect_code(2, "bootlace panel lamp.asm --group 5").err, "groups of 3 or 4");
    CHECK_CONTAINS(expect_code(2, "bootlace panel lamp.asm -r 7..").err, "both included");
    CHECK_CONTAINS(expect_code(1, "bootlace panel lamp.asm -r '$9000+4'").err,
                   "nothing of it lies");
    CHECK_CONTAINS(expect_code(1, "bootlace panel none.hex").err, "no such file");
    CHECK_CONTAINS(expect_code(1, "bootlace panel before.hex -c 6503").err, "6503");
    CHECK_CONTAINS(expect_code(2, "bootlace panel a.hex b.hex").err, "one source or image");
}

TEST(plans_and_sheets)
{
    copy_example();
    test_run r = expect_code(0, "bootlace chip plan");
    CHECK_CONTAINS(r.out, "$C000..$FFFF is offset $4000..$7FFF");
    CHECK_CONTAINS(r.out, "reset  $FFFC  -> $FA00  cold");
    CHECK_CONTAINS(expect_code(0, "bootlace chip plan --json").out, "\"offset\": 16384");
    r = expect_code(0, "bootlace cpus");
    CHECK_CONTAINS(r.out, "65c02 ");
    CHECK_CONTAINS(r.out, "6502 ");
    r = expect_code(0, "bootlace cpus 65c02");
    CHECK_CONTAINS(r.out, "BBS7 zp,rel  FF zp rel");
    CHECK_CONTAINS(expect_code(0, "bootlace cpus 6502 --json").out, "\"written\": \"ADC #imm\"");
    CHECK_CONTAINS(expect_code(2, "bootlace cpus 4711").err, "known:");
}

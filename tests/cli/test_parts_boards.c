/* Boards, no two alike in CPU, serial interface and port chip, each through an evening: a
 * project, a build, a burned chip, power, a program sent and proved and run, a button, a display,
 * faults. */
#include <stdio.h>
#include <string.h>

#include "cli_support.h"

typedef struct board {
    const char *name, *cpu, *chip, *source, *hello;
    const char *tap;            /* what is touched */
    const char *before, *after; /* what is seen then */
    const char *missing;        /* a chip without which it does not happen */
    const char *open;           /* a wire */
} board;

static const board boards[] = {
    {"skerry-gauge", "65c02", "U3", "gauge.asm", "Eyelet 65C02", "up", "|Tide 0.0m       |",
     "|Tide 0.1m       |", "via", "glass.e"},
    {"skerry-50", "6502", "U1", "boats.asm", "Eyelet 6502", "go", "count    0\n", "count    1\n",
     "ports", "go.out"},
    {"winch", "z80", "U1", "panel.asm", "Eyelet Z80", "go", "|0               |",
     "|1               |", "ports", "glass.d4"},
    {"buoy", "6809", "U1", "panel.asm", "Eyelet 6809", "go", "|0                   |",
     "|1                   |", "ports", "go.out"},
    {"lock", "8085", "U1", "panel.asm", "Eyelet 8080/85", "keys 7", "right    0\n", "right    7\n",
     "columns", "keys.column3"},
    {"skerry-24", "ez80+z80", "U1", "squares.asm", "Eyelet eZ80", "go", "|0001 000001     |",
     "|0002 000004     |", "ports", "glass.d4"},
};

/* The display's routines are the same on two boards. */
static const char glass[] = "examples/skerry-24";

static void copy_file(const char *folder, const char *file)
{
    char path[200];
    size_t n;
    snprintf(path, sizeof path, "%s/%s", folder, file);
    const char *text = test_read_source(path, &n);
    test_write_bytes(file, text, n);
}

/* A new project for the CPU, and the board of one's own. */
static void set_up(const board *b)
{
    char folder[100];
    expect_code(0, "rm -rf fresh out state");
    expect_code(0, "bootlace new fresh -c %s", b->cpu);
    expect_code(0, "bootlace build -b fresh/bench.yaml");
    if (strncmp(b->name, "skerry", 6) == 0) {
        copy_example_named(b->name);
        return;
    }
    snprintf(folder, sizeof folder, "tests/cli/boards/%s", b->name);
    copy_file(folder, "bench.yaml");
    copy_file(folder, "panel.asm");
    if (strcmp(b->name, "winch") == 0) copy_file(glass, "glass.asm");
}

static void an_evening(const board *b)
{
    set_up(b);
    expect_code(0, "bootlace build");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write %s -p sim", b->chip).out, "verified");
    test_run r = expect_code(0, "bootlace send %s -p sim --run", b->source);
    CHECK_CONTAINS(r.out, b->hello);
    CHECK_CONTAINS(r.out, "verified:");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 0.6s").out, b->before);
    r = expect_code(0, "bootlace board run --for 0.6s --tap '0.1s %s'", b->tap);
    CHECK_CONTAINS(r.out, b->after);
    expect_code(0, "bootlace check %s -p sim", b->source); /* the program gives way, and is right */
    expect_code(0, "bootlace board front -o front.png");
}

TEST(boards_from_new_to_a_pressed_button)
{
    for (size_t i = 0; i < sizeof boards / sizeof boards[0]; i++)
        an_evening(&boards[i]);
}

/* From power-on with a fault, what is seen with the button is not what it was. */
TEST(faults_of_each_board)
{
    for (size_t i = 0; i < sizeof boards / sizeof boards[0]; i++) {
        const board *b = &boards[i];
        static const char *const forms[] = {"missing=%s", "open=%s", "backwards=serial",
                                            "dead-clock=cpu"};
        set_up(b);
        expect_code(0, "bootlace build");
        expect_code(0, "bootlace chip write %s -p sim", b->chip);
        expect_code(0, "bootlace send %s -p sim --run", b->source);
        for (unsigned k = 0; k < 4; k++) {
            char fault[60];
            snprintf(fault, sizeof fault, forms[k], k == 0 ? b->missing : b->open);
            test_run r = expect_code(
                0, "bootlace board run --for 0.6s --fault '%s' --tap '0.1s %s'", fault, b->tap);
            if (strstr(r.out, b->after) != NULL)
                test_fail(__FILE__, __LINE__, "%s: %s is not noticed:\n%s", b->name, fault, r.out);
        }
    }
}

/* The same program on a board with another serial interface: one line of the bench file differs. */
TEST(one_program_and_two_serial_interfaces)
{
    set_up(&boards[3]);
    expect_code(0, "bootlace build");
    expect_code(0, "bootlace chip write U1 -p sim");
    CHECK_CONTAINS(expect_code(0, "bootlace send panel.asm -p sim").out, "verified:");
    edit("bench.yaml", "kind: acia-6850, at: $A000, clock: 307.2 kHz",
         "kind: uart-16550, at: $A000");
    expect_code(0, "bootlace build");
    CHECK_CONTAINS(expect_code(0, "bootlace chip write U1 -p sim").err,
                   "the board has other parts now than when it was left: it is off");
    CHECK_CONTAINS(expect_code(0, "bootlace send panel.asm -p sim --run").out, "verified:");
    CHECK_CONTAINS(expect_code(0, "bootlace board run --for 0.3s --tap '0.1s go'").out,
                   "|1                   |");
}

/* The eZ80's loader in ROM begins only what has its header and the sum of its bytes. */
TEST(a_loader_that_asks_for_a_header)
{
    static const struct {
        const char *was, *is, *shown;
    } wrong[] = {
        {"\"CHART\", HEADER_VERSION", "\"CHART\", 2", "|no program      |"},
        {"\"CHART\"", "\"CHARM\"", "|no program      |"},
        {".checksum sum16, body, body_end - 1", ".word 0", "|wrong sum       |"},
        {"body_end - body, begin", "$100000, begin", "|wrong sum       |"},
    };
    for (size_t i = 0; i < sizeof wrong / sizeof wrong[0]; i++) {
        copy_example_named("skerry-24");
        expect_code(0, "rm -rf out state");
        edit("squares.asm", wrong[i].was, wrong[i].is);
        expect_code(0, "bootlace build");
        expect_code(0, "bootlace chip write U1 -p sim");
        expect_code(0, "bootlace send squares.asm -p sim --run");
        test_run r = expect_code(0, "bootlace board run --for 0.3s");
        CHECK_CONTAINS(r.out, wrong[i].shown);
        CHECK_CONTAINS(
            r.out, "\n              MB 00 I 0000 ADL 00"); /* its registers need a second line */
    }
}

/* A port bit that puts out high at a button that is pressed. */
TEST(contention_is_told)
{
    copy_example_named("skerry-gauge");
    expect_code(0, "rm -rf out state");
    edit("tide.asm", "        lda #board.alarm.plus_mask\n",
         "        lda #board.alarm.plus_mask | board.up.out_mask\n");
    edit("tide.asm", "        stz board.alarm.plus\n",
         "        lda #board.up.out_mask\n        sta board.up.out\n");
    expect_code(0, "bootlace build");
    expect_code(0, "bootlace chip write U3 -p sim");
    test_run r = expect_code(0, "bootlace board run --for 0.6s --tap '0.3s up'");
    CHECK_CONTAINS(r.out, "0.300 s  contention via.pa0 drives the wire high, up.out low");
    CHECK(strstr(strstr(r.out, "contention") + 1, "contention") == NULL); /* once */
    r = expect_code(0, "bootlace board run --for 0.6s");
    CHECK(strstr(r.out, "contention") == NULL);
}

static void refused(const char *old, const char *fresh, const char *message)
{
    copy_example_named("skerry-gauge");
    edit("bench.yaml", old, fresh);
    CHECK_CONTAINS(expect_code(1, "bootlace build").err, message);
}

/* What follows from the description is told by the build. */
TEST(wires_that_cannot_be)
{
    refused("e: via.pb1, ", "", "device 'glass' cannot work: its pin e is wired to nothing");
    refused("e: via.pb1", "e: via.pc1", "device 'via' has no pin 'pc1'");
    refused("e: via.pb1", "f: via.pb1", "device 'glass' has no pin 'f'");
    refused("e: via.pb1", "e: port.pb1", "no device is called 'port'");
    refused("e: via.pb1", "e: pb1", "'pb1' is no place for a wire to end");
    refused("out: cpu.reset", "out: cpu.halt", "the CPU has no pin 'halt' that can be wired");
}

/* The lamp is on while an odd number of breaks has come: in the console, where the board is served,
 * and not through a pseudo-terminal, which drops them. */
TEST(a_break_reaches_the_board)
{
    copy_example_named("skerry-gauge");
    test_write_file("odd.asm", "        .place program\n"
                               "        .entry main\n"
                               "main:   lda #board.alarm.plus_mask\n"
                               "        sta board.alarm.plus_direction\n"
                               "        stz board.alarm.plus\n"
                               "_wait:  lda board.serial.status\n"
                               "        and #$10\n"
                               "        beq _wait\n"
                               "        lda board.serial.data\n"
                               "        lda board.alarm.plus\n"
                               "        eor #board.alarm.plus_mask\n"
                               "        sta board.alarm.plus\n"
                               "        bra _wait\n");
    expect_code(0, "bootlace build -q && bootlace chip write -p sim -q");
    test_run r = expect_code(0, "printf 'send odd.asm run\\nbreak\\nfront\\nbreak\\nfront\\n' | "
                                "bootlace console -p sim --commands -");
    CHECK_CONTAINS(r.out, "alarm      *");
    CHECK_CONTAINS(strstr(r.out, "alarm      *"), "alarm      .");
    r = expect_code(0, "(echo break; await 'grep -q \"alarm *\\*\" shown'; echo quit) | "
                       "bootlace board serve >shown");
    CHECK_CONTAINS(r.err, "a break: the line is held low for 250 ms");
    r = test_command(
        "bootlace board serve >shown </dev/null & pid=$!; "
        "await '[ -e state/serial ]'; printf 'break\\n' | "
        "bootlace console -p state/serial --commands -; code=$?; kill $pid; exit $code");
    CHECK_INT(r.code, 1);
    CHECK_CONTAINS(r.err, "state/serial: a pseudo-terminal carries no break");
}

/* Programs stepped, stopped and let go through Eyelet, against the same on a simulated CPU alone;
 * and what comes of a reset, a power cut, a breakpoint in ROM. */
#include <glib.h>
#include <string.h>

#include "eyelet.h"
#include "host_support.h"
#include "sim/device/port8.h"
#include "sim/sim_target.h"

#ifdef __SANITIZE_ADDRESS__
enum { STEPS = 400 }; /* at a tenth of the speed */
#else
enum { STEPS = 2000 };
#endif
enum { PLACE = 0x0400 };

static bench *b;
static project *p;
static simulation *s;
static bl_serial port;
static bl_eyelet_target eyelet;
static bl_target target;

/* The target has the registers of its sheet. */
static void set_up(const char *folder, const char *const *changes)
{
    b = example_bench_changed(folder, changes);
    s = example_board(b, &p);
    port = sim_line_port(&s->sim.board_line);
    bl_eyelet_target_begin(&eyelet, &port, b->link_baud, eyelet_sum_ns(b), NULL);
    bl_eyelet_target_with_registers(&eyelet, b->sheet);
    target = bl_eyelet_target_functions(&eyelet);
}

static void tear_down(void)
{
    simulation_close(s);
    project_close(p);
    bench_close(b);
}

/* A port that interrupts, for a bench file. */
#define PORT_AT(where) "devices:\n", "devices:\n  - {name: port, kind: port-8, " where "}\n"

/* For each Eyelet: calls, a table, a jump through it, pushes, a loop, and interrupts: it counts for
 * ever in total, and them in ticks. Of the flags those bits are compared that are kept; a register
 * that counts by itself is not. */
static const struct stepped {
    const char *folder, *source, *flags, *skipped;
    uint32_t kept;
    const char *changes[5]; /* in the bench file: all of them at 19,200 baud */
} boards[] = {
    {"skerry-65",
     "        .place program\n"
     "        .entry start\n"
     "start:\n"
     "        lda #<handler\n"
     "        sta eyelet.irq_hook\n"
     "        lda #>handler\n"
     "        sta eyelet.irq_hook+1\n"
     "        lda #1\n"
     "        sta board.port.control\n"
     "        cli\n"
     "        ldx #3\n"
     "loop:   jsr outer\n"
     "        inc turn\n"
     "        lda turn\n"
     "        and #3\n"
     "        asl a\n"
     "        tax\n"
     "        jmp (table,x)\n"
     "outer:  jsr inner\n"
     "        pha\n"
     "        php\n"
     "        jsr inner\n"
     "        plp\n"
     "        pla\n"
     "        rts\n"
     "inner:  inc total\n"
     "        bne _done\n"
     "        inc total+1\n"
     "_done:  rts\n"
     "one:    dec extra\n"
     "two:    bra loop\n"
     "three:  ldy #4\n"
     "_more:  dey\n"
     "        bne _more\n"
     "        jmp loop\n"
     "handler:\n"
     "        pha\n"
     "        lda board.port.data\n"
     "        inc ticks\n"
     "        pla\n"
     "        rti\n"
     "table:  .word one, two, three, loop\n"
     "total:  .word 0\n"
     "turn:   .byte 0\n"
     "extra:  .byte 0\n"
     "ticks:  .byte 0\n",
     "p",
     "",
     0xCF,
     {PORT_AT("at: $8020"), NULL}},
    {"skerry-80",
     "        .place program\n"
     "        .entry start\n"
     "start:\n"
     "        ld hl,handler\n"
     "        ld (eyelet.irq_hook),hl\n"
     "        ld a,1\n"
     "        out (board.port.control),a\n"
     "        im 1\n"
     "        ei\n"
     "        ld c,3\n"
     "loop:   call outer\n"
     "        ld hl,turn\n"
     "        inc (hl)\n"
     "        ld a,(hl)\n"
     "        and 1\n"
     "        call z,inner\n"
     "        call nz,outer\n"
     "        ld hl,table\n"
     "        ld de,copied\n"
     "        ld bc,5\n"
     "        ldir\n"
     "        exx\n"
     "        ex af,af'\n"
     "        ld b,3\n"
     "again:  inc iy\n"
     "        djnz again\n"
     "        ld ix,loop\n"
     "        jp (ix)\n"
     "outer:  call inner\n"
     "        push hl\n"
     "        call inner\n"
     "        pop hl\n"
     "        or a\n"
     "        ret z\n"
     "        ret\n"
     "inner:  ld hl,(total)\n"
     "        inc hl\n"
     "        ld (total),hl\n"
     "        ret\n"
     "handler:\n"
     "        push af\n"
     "        in a,(board.port.data)\n"
     "        ld a,(ticks)\n"
     "        inc a\n"
     "        ld (ticks),a\n"
     "        pop af\n"
     "        ei\n"
     "        ret\n"
     "table:  .byte 1, 2, 3, 4, 5\n"
     "copied: .byte 0, 0, 0, 0, 0\n"
     "total:  .word 0\n"
     "turn:   .byte 0\n"
     "ticks:  .byte 0\n",
     "f",
     "r",
     0xFF,
     {PORT_AT("port: $30"), NULL}},
    {"skerry-85",
     "        .place program\n"
     "        .entry start\n"
     "start:\n"
     "        lxi h,handler\n"
     "        shld eyelet.irq_hook\n"
     "        mvi a,1\n"
     "        out board.port.control\n"
     "        ei\n"
     "        mvi c,3\n"
     "loop:   call outer\n"
     "        lxi h,turn\n"
     "        inr m\n"
     "        mov a,m\n"
     "        ani 1\n"
     "        cz inner\n"
     "        cnz outer\n"
     "        lxi h,loop\n"
     "        pchl\n"
     "outer:  call inner\n"
     "        push h\n"
     "        call inner\n"
     "        pop h\n"
     "        ora a\n"
     "        rz\n"
     "        ret\n"
     "inner:  lhld total\n"
     "        inx h\n"
     "        shld total\n"
     "        ret\n"
     "handler:\n"
     "        push psw\n"
     "        in board.port.data\n"
     "        lda ticks\n"
     "        inr a\n"
     "        sta ticks\n"
     "        pop psw\n"
     "        ei\n"
     "        ret\n"
     "total:  .word 0\n"
     "turn:   .byte 0\n"
     "ticks:  .byte 0\n",
     "f",
     "",
     0xFF,
     {PORT_AT("port: $30"), NULL}},
    {"skerry-68",
     "        .place program\n"
     "        .entry start\n"
     "start:\n"
     "        ldx #handler\n"
     "        stx eyelet.irq_hook\n"
     "        lda #1\n"
     "        sta board.port.control\n"
     "        andcc #$EF\n"
     "        ldb #3\n"
     "loop:   jsr outer\n"
     "        inc turn\n"
     "        ldb turn\n"
     "        andb #3\n"
     "        aslb\n"
     "        ldx #table\n"
     "        jmp [b,x]\n"
     "outer:  pshs a,x\n"
     "        lbsr inner\n"
     "        ldy #inner\n"
     "        jsr ,y\n"
     "        puls a,x,pc\n"
     "inner:  inc total+1\n"
     "        bne _done\n"
     "        inc total\n"
     "_done:  rts\n"
     "one:    dec extra\n"
     "two:    ldx #loop\n"
     "        tfr x,pc\n"
     "three:  inc extra\n"
     "        ldu #loop\n"
     "        exg u,pc\n"
     "handler:\n"
     "        lda board.port.data\n"
     "        inc ticks\n"
     "        rti\n"
     "table:  .word one, two, three, loop\n"
     "total:  .word 0\n"
     "turn:   .byte 0\n"
     "extra:  .byte 0\n"
     "ticks:  .byte 0\n",
     "cc",
     "",
     0x7F,
     {PORT_AT("at: $A020"), "baud: 9600", "baud: 19200", NULL}},
    {"skerry-60",
     "        .place program\n"
     "        .entry start\n"
     "start:\n"
     "        ldx #handler\n"
     "        stx eyelet.irq_hook\n"
     "        ldaa #1\n"
     "        staa board.port.control\n"
     "        cli\n"
     "        ldab #3\n"
     "loop:   jsr outer\n"
     "        inc turn\n"
     "        ldab turn\n"
     "        andb #3\n"
     "        aslb\n"
     "        ldx #table\n"
     "        stx pointer\n"
     "        addb pointer+1\n"
     "        stab pointer+1\n"
     "        bcc _same\n"
     "        inc pointer\n"
     "_same:  nop\n"
     "        ldx pointer\n"
     "        ldx 0,x\n"
     "        jmp 0,x\n"
     "outer:  jsr inner\n"
     "        psha\n"
     "        tpa\n"
     "        psha\n"
     "        ldx #inner\n"
     "        jsr 0,x\n"
     "        pula\n"
     "        tap\n"
     "        pula\n"
     "        rts\n"
     "inner:  inc total+1\n"
     "        bne _done\n"
     "        inc total\n"
     "_done:  rts\n"
     "one:    dec extra\n"
     "two:    bra loop\n"
     "three:  inc extra\n"
     "        jmp loop\n"
     "handler:\n"
     "        ldaa board.port.data\n"
     "        inc ticks\n"
     "        rti\n"
     "table:  .word one, two, three, loop\n"
     "pointer: .word 0\n"
     "total:  .word 0\n"
     "turn:   .byte 0\n"
     "extra:  .byte 0\n"
     "ticks:  .byte 0\n",
     "cc",
     "",
     0x3F,
     {PORT_AT("at: $A020"), "baud: 9600", "baud: 19200", NULL}},
};
static const struct stepped *k;

/* The program in the memory of a board that is on. */
static bl_piece load_counting(bl_program **program)
{
    static const char used[] = "        .use \"out/eyelet.sym\" as eyelet\n";
    char *text = g_strconcat(used, k->source, NULL);
    CHECK(g_file_set_contents(test_path("counting.asm"), text, -1, NULL));
    g_free(text);
    if (project_assemble(p, test_path("counting.asm"), NULL, &test_sink, program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_piece piece = bl_image_piece(bl_program_image(*program), 0);
    memcpy(s->sim.board.ram + piece.first, piece.bytes, piece.count);
    return piece;
}

static size_t list_of(const bl_target *t, bl_register *list)
{
    size_t count = 0;
    CHECK_INT(t->registers(t->context, list, BL_DEBUG_REGISTERS, &count), BL_OK);
    CHECK(count > 3 && count <= BL_DEBUG_REGISTERS);
    return count;
}

/* All registers and the program's bytes are alike. */
static void compare_boards(const bl_target *one, const bl_target *two, bl_piece piece, unsigned n)
{
    bl_register a[BL_DEBUG_REGISTERS], c[BL_DEBUG_REGISTERS];
    uint8_t found[200], other[200];
    size_t count = list_of(one, a), others = list_of(two, c);
    for (size_t i = 0; i < count; i++)
        for (size_t l = 0; l < others; l++) {
            if (strcmp(a[i].name, c[l].name) != 0 || strcmp(a[i].name, k->skipped) == 0) continue;
            uint32_t mask = strcmp(a[i].name, k->flags) == 0 ? k->kept : UINT32_MAX;
            if ((a[i].value & mask) != (c[l].value & mask))
                test_fail(__FILE__, __LINE__, "%s, step %u: %s is $%02X and $%02X", k->folder, n,
                          a[i].name, a[i].value, c[l].value);
        }
    CHECK(piece.count <= sizeof found);
    CHECK_INT(one->read(one->context, piece.first, found, piece.count), BL_OK);
    CHECK_INT(two->read(two->context, piece.first, other, piece.count), BL_OK);
    CHECK_BYTES(found, piece.count, other, piece.count);
}

/* The second board gets all that the first has. */
static void copy_board(const bl_target *from, const bl_target *to, simulation *second,
                       bl_piece piece)
{
    bl_register list[BL_DEBUG_REGISTERS];
    size_t count = list_of(from, list);
    memcpy(second->sim.board.ram, s->sim.board.ram, sizeof s->sim.board.ram);
    memcpy(second->sim.board.ram + piece.first, piece.bytes, piece.count);
    for (size_t i = 0; i < count; i++)
        CHECK_INT(to->set_register(to->context, list[i].name, list[i].value), BL_OK);
}

static sim_port8 *port_of(sim_bench *on)
{
    return sim_port8_of(sim_board_device(&on->board, &sim_port8_kind));
}

/* A byte comes to the port. */
static void interrupt(sim_bench *on)
{
    sim_port8 *at = port_of(on);
    sim_port8_strobe(at, true);
    sim_port8_strobe(at, false);
    sim_board_refresh(&on->board);
}

/* From its entry to its loop: interrupts are on then. */
static void begin_counting(bl_debug *d, uint32_t entry, uint32_t loop)
{
    bl_debug_result r;
    size_t index;
    CHECK_INT(bl_debug_break(d, loop, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(d, &entry, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_BREAKPOINT);
    CHECK_INT(r.pc, loop);
    CHECK_INT(bl_debug_unbreak(d, index), BL_OK);
}

/* A program with everything in it, instruction by instruction, on a board through its Eyelet and on
 * one whose CPU is simulated alone. */
static void step_through_eyelet(unsigned steps)
{
    static bl_debug d, other;
    bl_program *program;
    simulation *second = NULL;
    bl_debug_result r;
    uint32_t entry;
    int64_t loop;
    set_up(k->folder, k->changes);
    bl_piece piece = load_counting(&program);
    CHECK(bl_image_entry(bl_program_image(program), &entry));
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(bl_debug_register(&d, (bl_text){"pc", 2}, &(uint32_t){0}), BL_E_REFUSED);
    if (simulation_open(b, test_path("second"), 1, NULL, &test_sink, &second) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    bl_chip_contents(&b->chips[0], p->chips, second->cells[0], &(uint32_t){0});
    simulation_power_on(second);
    bl_target own = sim_target(&second->sim);
    bl_debug_begin(&other, &own, b->sheet);
    CHECK_INT(own.stop(&second->sim), BL_OK);
    CHECK_INT(bl_program_value(program, (bl_text){"loop", 4}, &loop), BL_OK);
    memcpy(second->sim.board.ram + piece.first, piece.bytes, piece.count);
    begin_counting(&d, entry, (uint32_t)loop);
    begin_counting(&other, entry, (uint32_t)loop);
    copy_board(&target, &own, second, piece);
    uint64_t began = s->sim.now;
    for (unsigned n = 0; n < steps; n++) {
        if (n % 37 == 0) interrupt(&s->sim), interrupt(&second->sim);
        CHECK_INT(bl_debug_step(&d, NULL, &r), BL_OK);
        CHECK_INT(r.why, BL_DEBUG_DONE);
        CHECK_INT(bl_debug_step(&other, NULL, &r), BL_OK);
        if (n % 100 == 0) compare_boards(&target, &own, piece, n);
    }
    compare_boards(&target, &own, piece, steps);
    uint64_t each = (s->sim.now - began) / steps / 1000;
    if (each > 60000)
        test_fail(__FILE__, __LINE__, "%s: a step takes %u us", k->folder, (unsigned)each);
    /* Registers that are set are there when it goes on; the stack pointer stays where it is. */
    bl_text stack = bl_sheet_stack(b->sheet);
    CHECK_INT(bl_debug_set_register(&d, (bl_text){"a", 1}, 0x5A), BL_OK);
    CHECK_INT(bl_debug_set_register(&other, (bl_text){"a", 1}, 0x5A), BL_OK);
    CHECK_INT(bl_debug_set_register(&d, stack, 0x40), BL_E_UNSUPPORTED);
    CHECK_INT(bl_debug_step(&d, NULL, &r), BL_OK);
    CHECK_INT(bl_debug_step(&other, NULL, &r), BL_OK);
    compare_boards(&target, &own, piece, steps + 1);
    CHECK_INT(bl_debug_end(&d), BL_OK);
    CHECK_INT(target.go(target.context, NULL), BL_OK);
    sim_bench_run(&s->sim, s->sim.now + 400u * 1000 * 1000);
    size_t code = piece.count - 15; /* what is behind are its variables */
    CHECK(memcmp(s->sim.board.ram + piece.first, piece.bytes, code) == 0); /* none is left in it */
    bl_program_close(program);
    simulation_close(second);
    tear_down();
}

TEST(steps_through_eyelet_are_those_of_the_cpu)
{
    for (k = boards; k < boards + BL_COUNT(boards); k++)
        step_through_eyelet(STEPS);
}

static bool a_while(void *context)
{
    unsigned *slices = context;
    return (*slices)-- > 0;
}

/* A reset, then a power cut, while a program waits at a breakpoint: the ROM's program runs then,
 * and nothing of before is believed. */
TEST(after_a_reset_or_a_power_cut_it_goes_on_with_what_is_there)
{
    static bl_debug d;
    bl_program *program;
    bl_debug_result r;
    uint32_t entry;
    uint32_t pc;
    uint8_t found[4];
    k = &boards[0];
    set_up(k->folder, k->changes);
    bl_piece piece = load_counting(&program);
    CHECK(bl_image_entry(bl_program_image(program), &entry));
    bl_debug_begin(&d, &target, b->sheet);
    size_t index;
    CHECK_INT(bl_debug_break(&d, entry + 2, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_BREAKPOINT);
    sim_board_reset(&s->sim.board);
    sim_bench_run(&s->sim, s->sim.now + 600u * 1000 * 1000);
    unsigned slices = 20;
    const bl_debug_watch watch = {&slices, a_while};
    CHECK_INT(bl_debug_step(&d, &watch, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_ENDED);
    CHECK(r.pc >= 0xC000);
    CHECK_INT(target.read(target.context, entry, found, 4), BL_OK);
    CHECK_BYTES(found, 4, piece.bytes, 4); /* RAM keeps the breakpoint, which is not shown */
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_OK);
    CHECK_INT(r.pc, entry + 2);
    simulation_power_off(s);
    CHECK_INT(bl_debug_step(&d, NULL, &r), BL_E_TIMEOUT);
    CHECK_INT(bl_debug_register(&d, (bl_text){"pc", 2}, &(uint32_t){0}), BL_E_TIMEOUT);
    simulation_power_on(s);
    memset(s->sim.board.ram + entry, 0x5A, 4); /* whatever is there now */
    sim_bench_run(&s->sim, s->sim.now + 600u * 1000 * 1000);
    CHECK_INT(bl_debug_register(&d, (bl_text){"pc", 2}, &pc), BL_OK);
    CHECK(pc >= 0xC000);
    CHECK_INT(target.read(target.context, entry, found, 4), BL_OK);
    CHECK_BYTES(found, 4, s->sim.board.ram + entry, 4);
    bl_program_close(program);
    piece = load_counting(&program);
    CHECK_INT(target.write(target.context, entry, piece.bytes, 8), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_OK);
    CHECK_INT(r.pc, entry + 2);
    CHECK_INT(bl_debug_end(&d), BL_OK);
    bl_program_close(program);
    tear_down();
}

/* A program that never looks at the line is stopped by the button, and goes on as it was. */
static void stop_by_button(void)
{
    bl_program *program;
    uint32_t entry, pc;
    bl_debug d;
    set_up(k->folder, k->changes);
    bl_piece piece = load_counting(&program);
    CHECK(bl_image_entry(bl_program_image(program), &entry));
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(target.go(target.context, &entry), BL_OK);
    for (unsigned i = 0; i < 5; i++) {
        sim_bench_run(&s->sim, s->sim.now + 400u * 1000 * 1000 + test_below(1000000));
        CHECK_INT(target.stop(target.context), BL_E_TIMEOUT);
        s->sim.board.cpu.nmi = true;
        sim_bench_run(&s->sim, s->sim.now + 100u * 1000 * 1000);
        CHECK_INT(target.stop(target.context), BL_OK);
        CHECK_INT(bl_debug_register(&d, (bl_text){"pc", 2}, &pc), BL_OK);
        CHECK(pc >= piece.first && pc < piece.first + piece.count);
        uint8_t before[64], now[64];
        memcpy(before, s->sim.board.ram + piece.first + piece.count - 15, 15);
        CHECK_INT(target.go(target.context, NULL), BL_OK);
        sim_bench_run(&s->sim, s->sim.now + 400u * 1000 * 1000);
        memcpy(now, s->sim.board.ram + piece.first + piece.count - 15, 15);
        CHECK(memcmp(before, now, 15) != 0);               /* it counts on */
        if (strcmp(k->folder, "skerry-85") == 0) continue; /* TRAP leaves interrupts off there */
        uint8_t ticks = s->sim.board.ram[piece.first + piece.count - 1];
        interrupt(&s->sim);
        sim_bench_run(&s->sim, s->sim.now + 10u * 1000 * 1000);
        CHECK_INT(s->sim.board.ram[piece.first + piece.count - 1], (uint8_t)(ticks + 1));
    }
    CHECK_INT(bl_debug_end(&d), BL_OK);
    bl_program_close(program);
    tear_down();
}
#define stop_by_button(...) TEST_CALL(stop_by_button(__VA_ARGS__))

TEST(the_nmi_stops_a_program_that_does_not_listen)
{
    for (k = boards; k < boards + BL_COUNT(boards); k++)
        stop_by_button();
}

/* A jump to itself is executed, and nothing has changed. */
TEST(a_jump_to_itself_is_a_step)
{
    static bl_debug d;
    static const uint8_t program[] = {0xEA, 0x80, 0xFE};
    const uint32_t entry = PLACE;
    bl_debug_result r;
    size_t index;
    set_up("skerry-65", (const char *const[]){NULL});
    CHECK_INT(target.write(target.context, PLACE, program, sizeof program), BL_OK);
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(bl_debug_break(&d, PLACE + 1, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_OK);
    CHECK_INT(bl_debug_step(&d, NULL, &r), BL_OK);
    CHECK_INT(r.why, BL_DEBUG_DONE);
    CHECK_INT(r.pc, PLACE + 1);
    tear_down();
}

TEST(a_breakpoint_in_rom_is_told)
{
    static bl_debug d;
    bl_debug_result r;
    size_t index;
    const uint32_t entry = 0xC000;
    set_up("skerry-65", (const char *const[]){NULL});
    bl_debug_begin(&d, &target, b->sheet);
    CHECK_INT(bl_debug_break(&d, 0xC00B, 0, (bl_text){"", 0}, &index, NULL), BL_OK);
    CHECK_INT(bl_debug_go(&d, &entry, NULL, &r), BL_E_DIFFERS);
    tear_down();
}

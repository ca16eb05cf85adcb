#include "debug_support.h"

#include <string.h>

static const char mos_source[] = "        .org $0200\n"
                                 "start:  ldx #$FF\n"
                                 "        txs\n"
                                 "loop:   jsr outer\n"
                                 "        inc turn\n"
                                 "        lda turn\n"
                                 "        and #3\n"
                                 "        asl a\n"
                                 "        tax\n"
                                 "        lda table,x\n"
                                 "        sta vector\n"
                                 "        lda table+1,x\n"
                                 "        sta vector+1\n"
                                 "        jmp (vector)\n"
                                 "outer:  jsr inner\n"
                                 "        pha\n"
                                 "        jsr inner\n"
                                 "        pla\n"
                                 "        rts\n"
                                 "inner:  inc total\n"
                                 "        bne _done\n"
                                 "        inc total+1\n"
                                 "_done:  rts\n"
                                 "one:    dec extra\n"
                                 "two:    jmp loop\n"
                                 "three:  inc extra\n"
                                 "        bne loop\n"
                                 "        beq loop\n"
                                 "table:  .word one, two, three, loop\n"
                                 "total:  .word 0\n"
                                 "turn:   .byte 0\n"
                                 "extra:  .byte 0\n"
                                 "vector: .word 0\n"
                                 "        .entry start\n";

static const char m6800_source[] = "        .org $0200\n"
                                   "start:  lds #$01FF\n"
                                   "loop:   jsr outer\n"
                                   "        inc turn\n"
                                   "        ldab turn\n"
                                   "        andb #1\n"
                                   "        bne odd\n"
                                   "        ldx #one\n"
                                   "        jmp 0,x\n"
                                   "odd:    ldx #inner-3\n"
                                   "        jsr 3,x\n"
                                   "        bra loop\n"
                                   "outer:  bsr inner\n"
                                   "        psha\n"
                                   "        jsr inner\n"
                                   "        pula\n"
                                   "        rts\n"
                                   "inner:  inc total+1\n"
                                   "        bne _done\n"
                                   "        inc total\n"
                                   "_done:  rts\n"
                                   "one:    dec extra\n"
                                   "        bra loop\n"
                                   "total:  .word 0\n"
                                   "turn:   .byte 0\n"
                                   "extra:  .byte 0\n"
                                   "        .entry start\n";

static const char m6809_source[] = "        .org $0200\n"
                                   "start:  lds #$01FF\n"
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
                                   "table:  .word one, two, three, loop\n"
                                   "total:  .word 0\n"
                                   "turn:   .byte 0\n"
                                   "extra:  .byte 0\n"
                                   "        .entry start\n";

static const char i8080_source[] = "        .org $0000\n"
                                   "        jmp start\n"
                                   "        .org $0028\n"
                                   "        push psw\n"
                                   "        pop psw\n"
                                   "        ret\n"
                                   "        .org $0200\n"
                                   "start:  lxi sp,$01F0\n"
                                   "loop:   call outer\n"
                                   "        rst 5\n"
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
                                   "total:  .word 0\n"
                                   "turn:   .byte 0\n"
                                   "        .entry start\n";

static const char z80_source[] = "        .org $0000\n"
                                 "        jp start\n"
                                 "        .org $0028\n"
                                 "        push af\n"
                                 "        pop af\n"
                                 "        ret\n"
                                 "        .org $0200\n"
                                 "start:  ld sp,$01F0\n"
                                 "loop:   call outer\n"
                                 "        rst $28\n"
                                 "        ld hl,turn\n"
                                 "        inc (hl)\n"
                                 "        ld a,(hl)\n"
                                 "        and 1\n"
                                 "        call z,inner\n"
                                 "        call nz,outer\n"
                                 "        ld hl,table\n"
                                 "        ld de,$0400\n"
                                 "        ld bc,5\n"
                                 "        ldir\n"
                                 "        ld b,3\n"
                                 "again:  djnz again\n"
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
                                 "table:  .byte 1, 2, 3, 4, 5\n"
                                 "total:  .word 0\n"
                                 "turn:   .byte 0\n"
                                 "        .entry start\n";

const struct family families[] = {
    {"65c02", mos_source},  {"6502", mos_source},   {"6800", m6800_source}, {"6809", m6809_source},
    {"8080", i8080_source}, {"8085", i8080_source}, {"z80", z80_source}};
const size_t family_count = BL_COUNT(families);

void machine_begin(machine *m, const char *cpu, const char *source)
{
    static const bl_area areas[] = {{"ram", {0, 0x10000}, BL_AREA_RAM, 0, NULL, 0, false}};
    bl_text name = {cpu, strlen(cpu)};
    memset(m, 0, sizeof *m);
    CHECK_INT(bl_sheet_open(&test_memory, name, &test_sink, &m->sheet), BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = m->sheet, .sink = &test_sink};
    test_messages_clear();
    if (bl_assemble_text(&o, "t.asm", (bl_text){source, strlen(source)}, &m->program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    sim_bench_begin(&m->bench, sim_cpu_kind_for(cpu, name.length), 1000000, areas, 1, NULL, NULL, 0,
                    9600, 115200, 1);
    m->target = sim_target(&m->bench);
    sim_bench_power_on(&m->bench);
    CHECK_INT(m->target.stop(&m->bench), BL_OK);
    bl_image_copy(bl_program_image(m->program), 0, 0x10000, 0, m->bench.board.ram);
    bl_debug_begin(&m->debug, &m->target, m->sheet);
    m->programs[0] = m->program;
    m->debug.programs = m->programs;
    m->debug.program_count = 1;
    uint32_t entry = 0;
    if (bl_image_entry(bl_program_image(m->program), &entry))
        CHECK_INT(bl_debug_set_register(&m->debug, (bl_text){"pc", 2}, entry), BL_OK);
}

void machine_end(machine *m)
{
    bl_program_close(m->program);
    bl_sheet_close(m->sheet);
}

int64_t machine_value(machine *m, const char *formula)
{
    int64_t value = 0;
    bl_formula_fault fault;
    if (bl_debug_evaluate(&m->debug, (bl_text){formula, strlen(formula)}, &value, &fault) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s: %s", formula, fault.why);
    return value;
}

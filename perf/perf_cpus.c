/* perf_cpus.c - simulated CPUs: host time for target time, on an ordinary mix, with a memory map
 * and a device. For host instructions run it under callgrind with one name: the count of target
 * instructions is printed. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "files/files.h"
#include "sim/board.h"
#include "sim/device/latch.h"
#include "wall.h"

#define Z80_SOURCE                                                                                 \
    " .org 0\n ld sp,$8000\n ld ix,$1000\n"                                                        \
    "loop: ld c,0\n ld hl,$1000\n ld de,$2000\n ld b,64\n"                                         \
    "copy: ld a,(hl)\n ld (de),a\n add a,c\n ld c,a\n inc hl\n inc de\n djnz copy\n"               \
    " ld (ix+5),77\n ld e,(ix+5)\n ld b,8\n xor a\n"                                               \
    "bit: srl c\n jr nc,skip\n add a,e\nskip: sla e\n djnz bit\n call find\n jr loop\n"            \
    "find: push af\n and $0F\n ld hl,table\n ld b,16\n"                                            \
    "_next: cp (hl)\n jr z,_found\n inc hl\n djnz _next\n_found: ld ($9000),a\n pop af\n ret\n"    \
    "table: .byte 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 0\n"

/* The same work for each: 64 bytes are copied and summed, two bytes are multiplied by shifting and
 * adding, the sum is looked up in a table, a routine called for that pushes a register and writes
 * to a device. */
static const struct {
    const char *cpu, *source;
} programs[] = {
    {"65c02",
     " .org 0\n ldx #$FF\n txs\n"
     "loop: stz $F0\n ldx #0\n"
     "copy: lda $1000,x\n sta $2000,x\n clc\n adc $F0\n sta $F0\n inx\n cpx #64\n bne copy\n"
     " sta $F1\n lda #77\n sta $F2\n lda #0\n ldx #8\n"
     "bit: lsr $F1\n bcc skip\n clc\n adc $F2\nskip: asl $F2\n dex\n bne bit\n jsr find\n"
     " bra loop\n"
     "find: pha\n and #$0F\n ldy #15\n"
     "_next: cmp table,y\n beq _found\n dey\n bpl _next\n_found: sty $9000\n pla\n rts\n"
     "table: .byte 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15\n"},
    {"6800",
     " .org 0\n lds #$7FFF\n"
     "loop: clr $00F0\n ldx #$1000\n"
     "copy: ldaa 0,x\n staa $40,x\n adda $F0\n staa $F0\n inx\n cpx #$1040\n bne copy\n"
     " staa $F1\n ldaa #77\n staa $F2\n clra\n ldab #8\n"
     "bit: lsr $00F1\n bcc skip\n adda $F2\nskip: asl $00F2\n decb\n bne bit\n jsr find\n"
     " bra loop\n"
     "find: psha\n anda #$0F\n ldx #table\n"
     "_next: cmpa 0,x\n beq _found\n inx\n cpx #table + 16\n bne _next\n_found: staa $9000\n"
     " pula\n rts\n"
     "table: .byte 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 0\n"},
    {"6809", " .org 0\n lds #$8000\n"
             "loop: clr $F0\n ldx #$1000\n"
             "copy: lda ,x\n sta $40,x\n adda $F0\n sta $F0\n leax 1,x\n cmpx #$1040\n bne copy\n"
             " sta $F1\n lda #77\n sta $F2\n clra\n ldb #8\n"
             "bit: lsr $F1\n bcc skip\n adda $F2\nskip: asl $F2\n decb\n bne bit\n jsr find\n"
             " bra loop\n"
             "find: pshs a\n anda #$0F\n ldx #table\n"
             "_next: cmpa ,x+\n beq _found\n cmpx #table + 16\n bne _next\n_found: sta $9000\n"
             " puls a\n rts\n"
             "table: .byte 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 0\n"},
    {"8080",
     " .org 0\n lxi sp,$8000\n"
     "loop: mvi c,0\n lxi h,$1000\n lxi d,$2000\n mvi b,64\n"
     "copy: mov a,m\n stax d\n add c\n mov c,a\n inx h\n inx d\n dcr b\n jnz copy\n"
     " mvi e,77\n mvi b,8\n mvi d,0\n"
     "bit: mov a,c\n rar\n mov c,a\n mov a,d\n jnc skip\n add e\nskip: mov d,a\n mov a,e\n"
     " add a\n mov e,a\n dcr b\n jnz bit\n call find\n jmp loop\n"
     "find: push psw\n ani $0F\n lxi h,table\n mvi b,16\n"
     "_next: cmp m\n jz _found\n inx h\n dcr b\n jnz _next\n_found: sta $9000\n pop psw\n ret\n"
     "table: .byte 15, 14, 13, 12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1, 0\n"},
    {"z80", Z80_SOURCE},
    {"ez80+z80", Z80_SOURCE},
};

static void load(sim_board *b, const char *cpu, const char *source)
{
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    if (bl_sheet_open(&host_memory, (bl_text){cpu, strlen(cpu)}, NULL, &sheet) != BL_OK) exit(1);
    bl_asm_options o = {.memory = host_memory, .sheet = sheet};
    if (bl_assemble_text(&o, "p", (bl_text){source, strlen(source)}, &program) != BL_OK) exit(1);
    bl_image_copy(bl_program_image(program), 0, 0x1000, 0, b->ram);
    bl_program_close(program);
    bl_sheet_close(sheet);
}

int main(int argc, char **argv)
{
    static sim_board b;
    static const bl_area areas[] = {{"ram", {0, 0x8000}, BL_AREA_RAM, 0, NULL, 0, false},
                                    {"io", {0x9000, 0x100}, BL_AREA_IO, 0, NULL, 0, false},
                                    {"top", {0xF000, 0x1000}, BL_AREA_RAM, 0, NULL, 0, false}};
    for (size_t i = 0; i < sizeof programs / sizeof programs[0]; i++) {
        const char *cpu = programs[i].cpu;
        if (argc > 1 && strcmp(argv[1], cpu) != 0) continue;
        const sim_cpu_kind *kind = sim_cpu_kind_for(cpu, strlen(cpu));
        sim_chance chance = {1};
        sim_board_begin(&b, kind, 1000000, areas, 3, NULL, NULL, 0);
        sim_board_add(&b, &(sim_place){.kind = &sim_latch_kind,
                                       .at = 0x9000,
                                       .in_ports = false,
                                       .request = SIM_NO_REQUEST});
        sim_board_power_on(&b, &chance, 0);
        b.cpu.pc = 0;
        load(&b, cpu, programs[i].source);
        /* Count first, then time. */
        uint64_t start = b.cpu.cycles, steps = 0;
        while (b.cpu.cycles - start < 100000) {
            kind->step(&b.cpu);
            steps++;
        }
        double began = seconds();
        sim_board_run(&b, 100ull * 1000000000);
        double took = seconds() - began;
        printf(
            "%-8s 100 s at 1 MHz in %.3f s: %.0f times the original; %.1f million instructions\n",
            cpu, took, 100 / took, (double)steps * 1000 / 1e6);
    }
    return 0;
}

/* cpus.c - simulated CPUs: host time for target time, on an ordinary mix of loads, sums, branches,
 * calls and a device, in memory with RAM and ROM. For host instructions run it under callgrind with
 * one name: the count of target instructions is printed. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "files.h"
#include "sim/board.h"

static double seconds(void)
{
    struct timespec t;
    timespec_get(&t, TIME_UTC);
    return (double)t.tv_sec + (double)t.tv_nsec / 1e9;
}

static const struct {
    const char *cpu, *source;
} programs[] = {
    {"65c02",
     " .org $0\n ldx #$FF\n txs\nloop: ldx #0\nnext: lda $1000,x\n clc\n adc $F0\n sta $2000,x\n "
     "jsr sub\n"
     " inx\n bne next\n sta $9000\n bra loop\nsub: pha\n inc $F0\n and #$0F\n pla\n rts\n"},
    {"6800",
     " .org $0\n lds #$7FFF\nloop: ldx #$1000\nnext: ldaa 0,x\n adda $F0\n staa 0,x\n bsr sub\n "
     "inx\n"
     " cpx #$1100\n bne next\n staa $9000\n bra loop\nsub: psha\n inc $00F0\n anda #$0F\n pula\n"
     " rts\n"},
    {"6809",
     " .org $0\n lds #$8000\nloop: ldx #$1000\nnext: lda ,x\n adda >$F0\n sta ,x+\n bsr sub\n"
     " cmpx #$1100\n bne next\n sta $9000\n bra loop\nsub: pshs a\n inc $F0\n anda #$0F\n"
     " puls a\n rts\n"},
    {"8080",
     " .org $0\n lxi sp,$8000\nloop: lxi h,$1000\n mvi c,0\nnext: mov a,m\n add b\n mov m,a\n call "
     "sub\n inx h\n"
     " dcr c\n jnz next\n sta $9000\n jmp loop\nsub: push psw\n inr b\n ani $0F\n pop psw\n ret\n"},
    {"z80",
     " .org $0\n ld sp,$8000\n ld ix,$1000\nloop: ld hl,$1000\n ld c,0\nnext: ld a,(hl)\n add "
     "a,b\n ld (hl),a\n call sub\n inc "
     "hl\n"
     " dec c\n jr nz,next\n ld ($9000),a\n ld a,(ix+5)\n jr loop\nsub: push af\n inc b\n and $0F\n"
     " pop af\n ret\n"},
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
    static const bl_area areas[] = {{"ram", {0, 0x8000}, BL_AREA_RAM, 0},
                                    {"io", {0x9000, 0x100}, BL_AREA_IO, 0},
                                    {"top", {0xF000, 0x1000}, BL_AREA_RAM, 0}};
    for (size_t i = 0; i < sizeof programs / sizeof programs[0]; i++) {
        const char *cpu = programs[i].cpu;
        if (argc > 1 && strcmp(argv[1], cpu) != 0) continue;
        const sim_cpu_kind *kind = sim_cpu_kind_for(cpu, strlen(cpu));
        sim_chance chance = {1};
        sim_board_begin(&b, kind, 1000000, areas, 3, NULL, NULL, 0);
        sim_board_add(&b, SIM_DEVICE_LATCH, 0x9000, false, NULL, NULL);
        sim_board_power_on(&b, &chance, 0);
        b.cpu.pc = 0;
        load(&b, cpu, programs[i].source);
        /* Count first, then time. */
        uint64_t start = b.cpu.cycles, steps = 0;
        while (b.cpu.cycles - start < 1000000) {
            kind->step(&b.cpu);
            steps++;
        }
        double began = seconds();
        sim_board_run(&b, 101ull * 1000000000);
        double took = seconds() - began;
        printf(
            "%-6s 100 s at 1 MHz in %.3f s: %.0f times the original; %.1f million instructions\n",
            cpu, took, 100 / took, (double)steps * 101 / 1e6);
    }
    return 0;
}

/* board.h - a simulated computer: CPU, memory areas, devices, chips. */
#ifndef BOOTLACE_SIM_BOARD_H
#define BOOTLACE_SIM_BOARD_H

#include "bootlace/asm.h"
#include "bootlace/target.h"
#include "sim/cpu/cpu65c02.h"
#include "sim/cpu/cpu6809.h"
#include "sim/cpu/cpu8080.h"
#include "sim/cpu/cpuez80.h"
#include "sim/cpu/cpuz80.h"
#include "sim/device/device.h"
#include "sim/part/sim_part.h"

enum {
    SIM_DEVICES = 48,
    SIM_CHIPS = 8,
    SIM_WATCHPOINTS = 8,
    SIM_RULES = 16,
    SIM_RULE_BITS = 8,
    SIM_FAR_BREAKPOINTS = 64,
    SIM_RAM = 0x100000
};

/* What changes the memory that the CPU sees. A wire that a rule hears (SIM_NET_MEMORY) sets a bit
 * of its number. */
typedef enum sim_rule_what {
    SIM_RULE_REPEATS, /* the first size bytes of the range, again and again */
    SIM_RULE_BANKS,   /* the range is a window on what is stored elsewhere, by the number */
    SIM_RULE_PROTECT, /* unless the number is 0 nothing is written */
    SIM_RULE_UNDER,   /* behind ROM lies RAM: written through it, seen unless the number is 0 */
} sim_rule_what;

typedef struct sim_rule {
    sim_rule_what what;
    bl_range range;
    uint32_t size;   /* of REPEATS */
    uint32_t stored; /* of BANKS: where bank 0 is */
    uint8_t on;      /* the number */
} sim_rule;

/* What is read where nothing is. */
typedef enum sim_undriven { SIM_UNDRIVEN_HIGH, SIM_UNDRIVEN_LOW, SIM_UNDRIVEN_LAST } sim_undriven;

/* Called when what a device shows changes. */
typedef struct sim_watch {
    void *context;
    void (*lamps)(void *context, unsigned device, uint64_t now, uint8_t value);
} sim_watch;

/* Addresses whose accesses are noted. */
typedef struct sim_watchpoint {
    bl_range range;
    bool reads, writes;
} sim_watchpoint;

/* Asked before each instruction, and each entry into an interrupt; false stops the CPU there. */
typedef struct sim_tracer {
    void *context;
    bool (*before)(void *context);
} sim_tracer;

/* Where the CPU stops: a bit for each of the first 64 KiB of addresses, and a list of those beyond.
 */
typedef struct sim_breakpoints {
    uint8_t near[0x10000 / 8];
    size_t near_count;
    uint32_t far[SIM_FAR_BREAKPOINTS];
    size_t far_count;
} sim_breakpoints;

typedef struct sim_board {
    uint32_t clock; /* Hz */
    const sim_cpu_kind *kind;
    union {
        sim_cpu cpu;
        sim_65c02 m65c02;
        sim_6800 m6800;
        sim_6809 m6809;
        sim_8080 i8080;
        sim_z80 z80;
        sim_ez80 ez80;
    };
    sim_bus bus;
    sim_rule rules[SIM_RULES];
    size_t rule_count;
    sim_undriven undriven;
    bool ram_kept; /* areas that keep what they have have something to keep */
    const bl_area *areas;
    size_t area_count;
    const bl_chip *chips;
    sim_part *parts; /* beside chips */
    size_t chip_count;
    sim_device devices[SIM_DEVICES];
    size_t device_count;
    uint8_t pulling[SIM_REQUESTS]; /* devices and wires that pull each of the CPU's request lines */
    bool timed;                    /* in some device things happen by themselves */
    bool wired;                    /* pins are wired together */
    bool shadowed;                 /* a device answers where it should not */
    bool chained;                  /* some devices bring their own vectors */
    bool held;                     /* somebody pulls the reset line */
    bool begins;                   /* it was let go: CPU and devices begin anew */
    sim_nets nets;
    sim_watch watch;
    sim_breakpoints breakpoints;
    sim_watchpoint watchpoints[SIM_WATCHPOINTS];
    size_t watchpoint_count;
    bl_access accesses[BL_PAST_ACCESSES]; /* that met one, of the instruction that is executed */
    size_t access_count;                  /* the first of them are kept */
    sim_tracer tracer;
    /* What is stored beyond 64 KiB is seen through banks, or by a CPU that reaches there. The last
     * member: who copies a board copies as much as it has (sim_board_ram). */
    uint8_t ram[SIM_RAM];
} sim_board;

/* Builds the memory map. areas, chips and parts must outlive the board. */
void sim_board_begin(sim_board *b, const sim_cpu_kind *kind, uint32_t clock, const bl_area *areas,
                     size_t area_count, const bl_chip *chips, sim_part *parts, size_t chip_count);
/* How a device is put on a board. */
typedef struct sim_place {
    const sim_device_kind *kind;
    uint16_t at;
    uint32_t reach;     /* addresses at which it is decoded; 0: as many as it has */
    bool in_ports;      /* at is a port, not an address */
    bool wired;         /* it has no address: what it has is wired */
    uint32_t clock;     /* Hz; 0: the CPU's */
    uint8_t request;    /* the line by which it interrupts; SIM_NO_REQUEST */
    sim_wire *in, *out; /* the line that it is at; NULL: it is at none */
} sim_place;
/* False: there is no room. */
bool sim_board_add(sim_board *b, const sim_place *place);
/* The first device of a kind; NULL: there is none. */
sim_device *sim_board_device(sim_board *b, const sim_device_kind *kind);
/* Is there RAM that keeps what it has without power? */
bool sim_board_keeps(const sim_board *b, uint32_t stored);
/* Power on: RAM holds what chance left in it, but for what has a battery; then reset. */
void sim_board_power_on(sim_board *b, sim_chance *chance, uint64_t now);
/* The reset line: CPU and devices begin anew, RAM and lamps stay. */
void sim_board_reset(sim_board *b);
/* Runs until a moment, or to a breakpoint behind its first instruction: BL_STOP_BREAKPOINT, or to a
 * watchpoint: BL_STOP_WATCHPOINT, or until the tracer wants no more: BL_STOP_ASKED. Else
 * BL_STOP_NOT, or BL_STOP_WAITS when the CPU then waits for something. */
bl_stop sim_board_run(sim_board *b, uint64_t until);
/* One instruction, or the entry into an interrupt. */
void sim_board_step(sim_board *b);
/* Sets a breakpoint, or takes it away. */
/* False: too many beyond 64 KiB. */
bool sim_board_break(sim_board *b, uint32_t address, bool on);
/* Where the CPU is about to execute. */
uint32_t sim_board_pc(const sim_board *b);
/* The CPU goes on there; an eZ80 beyond 64 KiB in its 24-bit mode, and below in its Z80 mode. */
void sim_board_begin_at(sim_board *b, uint32_t address);
/* How many addresses it has: 64 KiB, or 16 MiB. */
uint32_t sim_board_space(const sim_board *b);
/* Sets the pages anew, after the watchpoints were changed otherwise. */
void sim_board_map(sim_board *b);
/* Sets a watchpoint, changes it, or takes it away (neither reads nor writes). False: there is no
 * room. */
bool sim_board_watch(sim_board *b, bl_range range, bool reads, bool writes);
/* The interrupt of any device may have changed; of one. */
void sim_board_refresh(sim_board *b);
void sim_board_note(sim_board *b, size_t device);
/* After the state of CPU and devices was loaded. */
void sim_board_loaded(sim_board *b);
/* A wire at a pin of the CPU has changed: a request of sim_cpu_kind, or SIM_NET_RESET. */
void sim_board_pin(sim_board *b, uint8_t pin, bool high);
/* What the bus's functions of the same names do: the first device that asks is meant, as the daisy
 * chain has them, in the order in which they were added. */
uint8_t sim_board_acknowledge(void *board);
void sim_board_returned(void *board);
/* Lets time pass until a moment while the CPU stands. */
void sim_board_stand(sim_board *b, uint64_t until);
/* What the CPU would read at an address, without side effects; device registers read as $FF. */
uint8_t sim_board_peek(const sim_board *b, uint16_t address);
/* How much RAM may hold something: 64 KiB, or where areas of it are stored beyond, up to their ends
 * and to a power of two; SIM_RAM at most. */
uint32_t sim_board_ram(const sim_board *b);
/* What the CPU's write does where memory is. */
void sim_board_store(sim_board *b, uint16_t address, uint8_t value);
/* The bus's functions of these names. */
/* Its page, when that is all RAM; NULL. */
const uint8_t *sim_board_far_page(const sim_board *b, uint32_t address);
uint8_t sim_board_peek_far(const sim_board *b, uint32_t address);
void sim_board_store_far(sim_board *b, uint32_t address, uint8_t value);
/* Adds a rule. False: there is no room. */
bool sim_board_rule(sim_board *b, const sim_rule *rule);
/* A wire at a rule has changed: pin is the rule's index times SIM_RULE_BITS, and the bit. */
void sim_board_switch(sim_board *b, uint8_t pin, bool high);
/* Is there a device's register at an address of memory? */
bool sim_board_has_device(const sim_board *b, uint16_t address);
/* What the CPU would store. False: there is no memory that keeps it. */
bool sim_board_poke(sim_board *b, uint16_t address, uint8_t value);
uint64_t sim_board_now(const sim_board *b);

#endif

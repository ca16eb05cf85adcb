/* sim_part.h - a memory part at its pins, in virtual time: EEPROM, UV EPROM, flash.
 *
 * What is common stands in sim_part.c: pins, wear, stuck cells. How each kind writes stands in a
 * file of its own, after its data sheet.
 *
 * eeprom.c, the 28C series: page load window, write cycle, data polling (I/O 7 is the complement of
 * the last byte's) and toggle bit (I/O 6 changes at every read), software data protection.
 *
 * eprom.c, the 27 series: pulses under the programming voltage; bits only fall; a cell without its
 * last, longer pulse reads wrong at a high supply; too much voltage is the end.
 *
 * flash.c, the 39F series: command sequences, byte program, sector erase.
 *
 * While no part drives them, the socket's pull-ups hold the data lines high.
 */
#ifndef BOOTLACE_SIM_PART_H
#define BOOTLACE_SIM_PART_H

#include "bootlace/chip.h"
#include "sim/wire.h"

enum { SIM_STUCK_MAX = 8, SIM_THIN_MAX = 4096 };

typedef struct sim_stuck {
    uint32_t address;
    uint8_t bit;
    bool high;
} sim_stuck;

/* Faults and condition of one part. */
typedef struct sim_part_faults {
    sim_stuck stuck[SIM_STUCK_MAX];
    size_t stuck_count;
    bool write_blocked; /* its write enable never reaches it */
    uint32_t cycle_us;  /* another write-cycle time; 0: a usual one */
    uint32_t tired;     /* EPROM: pulses that each byte needs besides the usual */
} sim_part_faults;

typedef struct sim_part {
    const bl_part *part;
    uint8_t *cells; /* part->size bytes, the caller's */
    bool protect;   /* EEPROM: software data protection is on */
    bool destroyed; /* by too high a voltage */
    sim_part_faults faults;
    /* pins */
    uint32_t address;
    uint8_t data;
    bool driven, chip, output, write;
    uint8_t vcc, vpp; /* tenths of a volt */
    uint64_t write_from;
    /* busy by itself */
    bool loading, programming, erasing, armed;
    uint64_t last_load, busy_until;
    uint32_t page_address;
    uint8_t page[BL_PAGE_MAX];
    bool loaded[BL_PAGE_MAX];
    uint8_t last_byte, toggle;
    unsigned unlock; /* how far into a command sequence */
    /* EPROM */
    uint32_t pulsed; /* address of the last pulse */
    uint64_t pulse_ns;
    uint32_t thin[SIM_THIN_MAX]; /* cells written without margin */
    size_t thin_count;
    uint32_t cycles; /* write cycles, pulses and erasures done */
} sim_part;

void sim_part_begin(sim_part *e, const bl_part *part, uint8_t *cells);
/* Changes pins at a moment. */
void sim_part_pins(sim_part *e, uint64_t now, bool chip, bool output, bool write);
/* Changes the supplies. */
void sim_part_supply(sim_part *e, uint64_t now, uint8_t vcc, uint8_t vpp);
/* What the part drives onto the data lines; $FF when it does not. */
uint8_t sim_part_sense(sim_part *e, uint64_t now);
/* Lets time pass: a load window closes, a write cycle ends. */
void sim_part_update(sim_part *e, uint64_t now);
/* The supply fails: what the part was about to do stays half done. */
void sim_part_power_cut(sim_part *e, uint64_t now, sim_chance *chance);
/* Twenty minutes under the ultraviolet lamp. False: it has no window. */
bool sim_part_ultraviolet(sim_part *e);

/* ---- the kinds ---- */

/* The strobe has ended, having lasted so long. */
void sim_eeprom_strobe(sim_part *e, uint64_t now);
void sim_eprom_strobe(sim_part *e, uint64_t nanoseconds);
void sim_flash_strobe(sim_part *e, uint64_t now);
void sim_eeprom_update(sim_part *e, uint64_t now);
void sim_flash_update(sim_part *e, uint64_t now);
/* What a cell reads as at the present supply. */
uint8_t sim_eprom_cell(const sim_part *e, uint32_t address);

/* Commands of the 28C and 39F series, all at 5555 and 2AAA. */
typedef struct sim_step {
    uint16_t address;
    uint8_t data;
} sim_step;
/* Does a write come at this step of a sequence? */
bool sim_step_is(const sim_part *e, const sim_step *s);

#endif

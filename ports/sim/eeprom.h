/* eeprom.h - a 28C256-class EEPROM at its pins, in virtual time.
 *
 * Source: the data sheets of the 28C256: bytes of one page are loaded within a window after each
 * other, then the part programs itself for the write-cycle time. Meanwhile a read shows data
 * polling (I/O 7 is the complement of the last byte's) and the toggle bit (I/O 6 changes at every
 * read). Software data protection is switched on by AA 55 A0 and off by AA 55 80 AA 55 20 at 5555,
 * 2AAA, 5555 ...
 */
#ifndef BOOTLACE_SIM_EEPROM_H
#define BOOTLACE_SIM_EEPROM_H

#include "bootlace/chip.h"

enum { SIM_STUCK_MOST = 8 };

typedef struct sim_stuck {
    uint32_t address;
    uint8_t bit;
    bool high;
} sim_stuck;

/* Faults and condition of one part. */
typedef struct sim_eeprom_faults {
    sim_stuck stuck[SIM_STUCK_MOST];
    size_t stuck_count;
    bool write_blocked; /* its write enable never reaches it */
    uint32_t cycle_us;  /* another write-cycle time; 0: a usual one */
} sim_eeprom_faults;

typedef struct sim_eeprom {
    const bl_part *part;
    uint8_t *cells; /* part->size bytes, the caller's */
    bool protect;   /* software data protection is on */
    sim_eeprom_faults faults;
    /* pins */
    uint32_t address;
    uint8_t data;
    bool driven, chip, output, write;
    /* page load and write cycle */
    bool loading, programming, armed;
    uint64_t last_load, busy_until;
    uint32_t page_address;
    uint8_t page[BL_FRAME_PAYLOAD];
    bool loaded[BL_FRAME_PAYLOAD];
    uint8_t last_byte, toggle;
    unsigned unlock; /* how far into a command sequence */
    uint32_t cycles; /* write cycles done */
} sim_eeprom;

void sim_eeprom_begin(sim_eeprom *e, const bl_part *part, uint8_t *cells);
/* Changes pins at a moment. */
void sim_eeprom_pins(sim_eeprom *e, uint64_t now, bool chip, bool output, bool write);
/* What the part drives onto the data lines; $FF when it does not. */
uint8_t sim_eeprom_sense(sim_eeprom *e, uint64_t now);
/* Lets time pass: a load window closes, a write cycle ends. */
void sim_eeprom_update(sim_eeprom *e, uint64_t now);

#endif

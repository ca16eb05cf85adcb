/* drive_target.h - machines down a serial line as targets (target.h): with Eyelet in them, or with
 * a monitor that a dialogue describes. Each does what its remote can; the rest is NULL.
 *
 * Ports, dialogues and watches belong to the caller and must outlive the target. Nothing is
 * allocated, and there is nothing to release.
 */
#ifndef BOOTLACE_DRIVE_TARGET_H
#define BOOTLACE_DRIVE_TARGET_H

#include "dialogue.h"
#include "drive_frames.h"
#include "sheet.h"
#include "target.h"

#ifdef __cplusplus
extern "C" {
#endif

/* A breakpoint of a bl_eyelet_target: an instruction in RAM, in the place of another. */
typedef struct bl_eyelet_mark {
    uint32_t address;
    uint8_t original;
    bool wanted; /* set by the user */
    bool placed; /* in memory now */
} bl_eyelet_mark;
enum { BL_EYELET_MARKS = 128, BL_EYELET_CACHE = 16, BL_EYELET_REGISTERS = 32 };

/* Eyelet, docs/eyelet.md: read, write, sum, go and stop. The first call greets it: BL_E_UNSUPPORTED
 * when somebody else is there. A program that was stopped is let go on by go without an entry.
 * Nothing is sent for 300 ms after go, as Eyelet wants it.
 *
 * With a sheet also registers, breakpoints and waiting for them, where this Eyelet tells registers
 * (BL_E_UNSUPPORTED: it does not; BL_E_REFUSED: no program waits, so there are none). Breakpoints
 * are instructions in RAM, put there when the program goes; memory is read as if they were not. */
typedef struct bl_eyelet_target {
    const bl_serial *port;
    const bl_drive_watch *watch; /* or NULL; only said is used: what a program says after go */
    bl_exchange exchange;
    uint32_t sum_ns;                    /* its time to add one byte to a CRC-32 */
    size_t data_max;                    /* bytes in one frame; 0: not greeted yet */
    uint8_t refusal;                    /* the last bl_answer_code that was none of success */
    const bl_sheet *sheet;              /* whose registers they are; or NULL */
    char names[BL_EYELET_REGISTERS][4]; /* of registers */
    bool runs;                          /* a program was let go, and has not been heard of since */
    uint64_t quiet_until; /* microseconds of the port's clock; nothing is sent before */
    uint8_t state[BL_EYELET_REGISTERS]; /* the breakpoint's byte, then registers, high byte first */
    size_t state_count;                 /* 0: not asked since the program stopped */
    bl_eyelet_mark marks[BL_EYELET_MARKS];
    size_t mark_count;
    uint8_t cache[BL_EYELET_CACHE]; /* what was read last, without breakpoints */
    uint32_t cache_first;
    size_t cache_count;
    bl_frame_reader heard; /* what a running program says, and that it stopped */
} bl_eyelet_target;

void bl_eyelet_target_begin(bl_eyelet_target *t, const bl_serial *port, uint32_t baud,
                            uint32_t sum_ns, const bl_drive_watch *watch);
/* Before its functions are asked for. The sheet must outlive the target. */
void bl_eyelet_target_with_registers(bl_eyelet_target *t, const bl_sheet *sheet);
bl_target bl_eyelet_target_functions(bl_eyelet_target *t);
/* Takes all breakpoints out of memory, until a program goes again, and forgets what was known of
 * the program: before anybody else uses the line, and at the end. BL_E_UNSUPPORTED: a program runs
 * with breakpoints in it. */
bl_status bl_eyelet_target_clear(bl_eyelet_target *t);

/* A monitor that speaks text: read, write and go with an entry, as far as the dialogue has them.
 * The first call wakes it. What is written is read back, row by row, where the dialogue can read: a
 * line that loses characters loses them in commands, too. */
typedef struct bl_talk_target {
    const bl_serial *port;
    const bl_dialogue *dialogue;
    const bl_drive_watch *watch; /* or NULL; only said is used */
    bl_talk talk;                /* the last exchange, for messages */
    bool awake;                  /* it was woken, and heard out */
    bool proved_later;           /* write need not read back: the caller will */
    unsigned retries;            /* so far */
    uint32_t where;              /* address last worked on */
} bl_talk_target;

void bl_talk_target_begin(bl_talk_target *t, const bl_serial *port, const bl_dialogue *dialogue,
                          const bl_drive_watch *watch);
bl_target bl_talk_target_functions(bl_talk_target *t);

#ifdef __cplusplus
}
#endif
#endif

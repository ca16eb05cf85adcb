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
#include "target.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Eyelet, docs/eyelet.md: read, write, sum, go and stop. The first call greets it: BL_E_UNSUPPORTED
 * when somebody else is there. A program that was stopped is let go on by go without an entry.
 * Nothing is sent for 300 ms after go, as Eyelet wants it. */
typedef struct bl_eyelet_target {
    const bl_serial *port;
    const bl_drive_watch *watch; /* or NULL; only said is used: what a program says after go */
    bl_exchange exchange;
    uint32_t sum_ns; /* its time to add one byte to a CRC-32 */
    size_t data_max; /* bytes in one frame; 0: not greeted yet */
    uint8_t refusal; /* the last bl_answer_code that was none of success */
} bl_eyelet_target;

void bl_eyelet_target_begin(bl_eyelet_target *t, const bl_serial *port, uint32_t baud,
                            uint32_t sum_ns, const bl_drive_watch *watch);
bl_target bl_eyelet_target_functions(bl_eyelet_target *t);

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

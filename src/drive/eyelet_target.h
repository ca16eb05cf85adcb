/* eyelet_target.h - between the files that make a target of Eyelet. */
#ifndef BOOTLACE_SRC_EYELET_TARGET_H
#define BOOTLACE_SRC_EYELET_TARGET_H

#include "bootlace/drive_target.h"

#define EYELET_TIMEOUT_US 20000u

/* One request. answer_size: bytes behind the code of a good answer, which is then in
 * eyelet_answer. */
bl_status eyelet_ask(bl_eyelet_target *t, const bl_frame *request, uint32_t timeout_us,
                     size_t answer_size);
const bl_frame *eyelet_answer(const bl_eyelet_target *t);
bl_status eyelet_greet(bl_eyelet_target *t);
/* What was known of a program that waits, and of memory. */
void eyelet_forget_state(bl_eyelet_target *t);
/* Memory as it is, breakpoints included. */
bl_status eyelet_read(bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count);
bl_status eyelet_write(bl_eyelet_target *t, uint32_t address, const uint8_t *bytes, size_t count);
/* Waits until something may be sent again after a program was let go. */
bl_status eyelet_keep_quiet(bl_eyelet_target *t);
/* Lets the program run, from an entry or on. */
bl_status eyelet_go(bl_eyelet_target *t, const uint32_t *entry);

/* eyelet_marks.c: what was read last, while the program that waits cannot have changed it; only
 * where registers are told, since otherwise nobody knows whether one runs. */
bool eyelet_remembers(const bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count);
/* Breakpoints in memory. What was read is made as if they were not there. */
void eyelet_hide_marks(bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count);
/* Memory is written: what stood there before does not count any more. */
void eyelet_forget_marks(bl_eyelet_target *t, uint32_t address, size_t count);
/* Before a program goes: those that are wanted are in memory, the others are not. */
bl_status eyelet_place_marks(bl_eyelet_target *t);
/* Was the program stopped by one that is not wanted any more? */
bool eyelet_met_old_mark(const bl_eyelet_target *t);
bl_status eyelet_set_mark(void *context, uint32_t address, bool on);

/* eyelet_registers.c */
void eyelet_add_registers(bl_target *functions);
/* Where the program that waits stands. False: none does, as far as is known. */
bool eyelet_program_counter(const bl_eyelet_target *t, uint32_t *pc);
/* The byte that is a breakpoint. */
bl_status eyelet_breakpoint_byte(bl_eyelet_target *t, uint8_t *byte);

#endif

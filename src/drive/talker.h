/* talker.h - exchanges with a remote that speaks text, with retries. */
#ifndef BOOTLACE_SRC_TALKER_H
#define BOOTLACE_SRC_TALKER_H

#include "bootlace/drive_target.h"

/* One exchange: what makes no sense, is refused, or never comes, is asked for again. *where: the
 * address, for messages. Statuses of bl_talk_status, or BL_E_IO. */
bl_status bl_talker_exchange(bl_talk_target *t, bl_talk_kind kind, uint32_t address,
                             const uint8_t *bytes, size_t count);
/* As many bytes as it takes, in rows of the dialogue's read_block. */
bl_status bl_talker_read(bl_talk_target *t, uint32_t first, uint8_t *bytes, size_t count);
/* Has a program started; what it says at once goes to whoever watches. */
bl_status bl_talker_start(bl_talk_target *t, uint32_t entry);

#endif

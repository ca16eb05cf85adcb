/* bare.h - bare bytes: exactly so many, with nothing around them. docs/send.md.
 *
 * The remote was told address and length before, by its user or by a command of its monitor.
 * Nothing here can detect a fault but silence, so whatever is carried so must be verified
 * otherwise.
 */
#ifndef BOOTLACE_BARE_H
#define BOOTLACE_BARE_H

#include "transport.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef struct bl_bare {
    bl_transport transport; /* must be first */
    uint8_t *buffer;
} bl_bare;

/* Sends count bytes, with a pause of pace_us after each. */
void bl_bare_send(bl_bare *b, uint32_t baud, const uint8_t *bytes, size_t count, uint32_t pace_us,
                  uint64_t now);
/* Takes exactly count bytes into buffer. BL_E_TIMEOUT: none came within timeout_us; BL_E_LINE:
 * the next one did not, transport.done tells how many did. */
void bl_bare_receive(bl_bare *b, uint32_t baud, uint8_t *buffer, size_t count, uint32_t timeout_us,
                     uint64_t now);

#ifdef __cplusplus
}
#endif
#endif

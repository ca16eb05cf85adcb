/* packets_state.h - what both sides share. */
#ifndef BOOTLACE_SRC_PACKETS_H
#define BOOTLACE_SRC_PACKETS_H

#include "bootlace/packets.h"

/* Where things stand in the payload of an announcement. */
enum { AT_VERSION = 0, AT_PAYLOAD = 1, AT_ROUNDS = 2, AT_ADDRESS = 3, AT_SIZE = 6, AT_CRC = 9 };
enum { VERSION = 1 };

/* Puts the FCS-16 of the count bytes behind the mark at the end of them. */
void bl_packet_seal(uint8_t *packet, size_t count);
/* Is the FCS-16 at the end of count bytes behind the mark right? */
bool bl_packet_whole(const uint8_t *packet, size_t count);

#endif

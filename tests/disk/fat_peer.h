/* fat_peer.h - FAT12 and FAT16 read and checked by code that shares nothing with the library. */
#ifndef BOOTLACE_TEST_FAT_PEER_H
#define BOOTLACE_TEST_FAT_PEER_H

#include <stddef.h>
#include <stdint.h>

/* Everything that a strict checker remarks, as text: "" is what a good volume gets. Valid until the
 * next call. */
const char *fat_peer_check(const uint8_t *image, size_t bytes);
/* The same, but for clusters that no file has, and tables that differ. */
const char *fat_peer_check_files(const uint8_t *image, size_t bytes);
/* A file's bytes by its path of 8.3 names in upper case; NULL: it is not there, or broken. Free
 * with free. */
uint8_t *fat_peer_read(const uint8_t *image, size_t bytes, const char *path, size_t *count);

#endif

/* fat_disk.h - FAT volumes for the tests. */
#ifndef BOOTLACE_TEST_FAT_DISK_H
#define BOOTLACE_TEST_FAT_DISK_H

#include "fat_peer.h"
#include "medium.h"

/* An empty volume of so many sectors of 512 bytes. */
void fat_disk_begin(medium *m, uint32_t total, bool wide);
/* Ends the case unless the peer finds it good. */
void fat_disk_good(const medium *m);
#define fat_disk_good(m) TEST_CALL(fat_disk_good(m))

#endif

/* perf_disk.c - a floppy in memory: made, filled with 200 files, listed, read back; process time,
 * and sectors that were read and written, which do not depend on the machine. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "bootlace/bootlace.h"
#include "files/files.h"

enum { SECTORS = 2880, FILES = 200, LARGEST = 6000 };

static uint8_t disk[SECTORS * BL_FAT_SECTOR];
static unsigned long reads, writes;

static bl_status read_disk(void *context, uint32_t sector, uint8_t *bytes)
{
    (void)context;
    reads++;
    memcpy(bytes, disk + sector * BL_FAT_SECTOR, BL_FAT_SECTOR);
    return BL_OK;
}

static bl_status write_disk(void *context, uint32_t sector, const uint8_t *bytes)
{
    (void)context;
    writes++;
    memcpy(disk + sector * BL_FAT_SECTOR, bytes, BL_FAT_SECTOR);
    return BL_OK;
}

static bl_status count_entry(void *context, const bl_disk_entry *e)
{
    *(unsigned long *)context += e->size;
    return BL_OK;
}

static bl_status count_bytes(void *context, const void *bytes, size_t count)
{
    (void)bytes;
    *(unsigned long *)context += count;
    return BL_OK;
}

static clock_t began;

static void tell(const char *what)
{
    printf("%-22s %6.2f ms  %6lu sectors read  %6lu written\n", what,
           (double)(clock() - began) * 1e3 / CLOCKS_PER_SEC, reads, writes);
    began = clock(), reads = writes = 0;
}

int main(void)
{
    static uint8_t bytes[LARGEST];
    bl_sectors medium = {NULL, read_disk, write_disk, SECTORS, BL_FAT_SECTOR};
    bl_fat_plan plan = {.total = SECTORS};
    bl_disk_setup setup = {.live = true};
    bl_disk_report report = {.find = NULL};
    const char *why;
    bl_disk d;
    unsigned long listed = 0, got = 0;
    char name[16];
    began = clock();
    if (bl_fat_plan_complete(&plan, &why) != BL_OK || bl_fat_format(&medium, &plan) != BL_OK ||
        bl_disk_open(&d, &medium, &host_memory, &setup) != BL_OK)
        return 1;
    tell("make and open");
    for (unsigned i = 0; i < FILES; i++) {
        bl_disk_file file = {.bytes = bytes, .size = (uint32_t)rand() % LARGEST};
        snprintf(name, sizeof name, "F%u.DAT", i);
        if (bl_disk_put(&d, name, &file, NULL) != BL_OK) return 1;
    }
    tell("put 200 files, live");
    bl_disk_list(&d, "", count_entry, &listed);
    tell("list");
    for (unsigned i = 0; i < FILES; i++) {
        bl_writer writer = {&got, count_bytes};
        snprintf(name, sizeof name, "F%u.DAT", i);
        if (bl_disk_get(&d, name, &writer) != BL_OK) return 1;
    }
    tell("get all");
    if (bl_disk_check(&d, false, &report) != BL_OK || listed != got) return 1;
    tell("check");
    bl_disk_close(&d);
    return 0;
}

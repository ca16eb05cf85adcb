/* own_disk.c - a file system on sectors of one's own: here in memory, in a program for a card the
 * two functions below are all that changes. The power fails in the middle of a write, and is on
 * again. */
#include <bootlace/bootlace.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { SECTORS = 1440 };

typedef struct card {
    uint8_t bytes[SECTORS * BL_FAT_SECTOR];
    unsigned power; /* writes that are left of it */
} card;

static bl_status read_sector(void *context, uint32_t sector, uint8_t *bytes)
{
    card *c = context;
    memcpy(bytes, c->bytes + sector * BL_FAT_SECTOR, BL_FAT_SECTOR);
    return BL_OK;
}

static bl_status write_sector(void *context, uint32_t sector, const uint8_t *bytes)
{
    card *c = context;
    if (c->power == 0) return BL_E_NOT_READY;
    c->power--;
    memcpy(c->bytes + sector * BL_FAT_SECTOR, bytes, BL_FAT_SECTOR);
    return BL_OK;
}

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

static bl_status show(void *context, const bl_disk_entry *e)
{
    (void)context;
    printf("%s, %lu bytes\n", e->name, (unsigned long)e->size);
    return BL_OK;
}

static void tell(void *context, const bl_disk_finding *f)
{
    (void)context;
    printf("%s%s\n", f->what, f->mended ? ": mended" : "");
}

int main(void)
{
    static card c = {.power = 1000};
    static const uint8_t old_log[] = "calm\n", new_log[] = "gale from the west\n";
    const bl_memory memory = {NULL, resize};
    const bl_sectors sectors = {&c, read_sector, write_sector, SECTORS, BL_FAT_SECTOR};
    const bl_disk_setup setup = {.live = true, .now = {2026, 11, 29, 21, 0, 0}};
    bl_fat_plan plan = {.total = SECTORS, .label = "SKERRY"};
    bl_disk_file log = {.bytes = old_log, .size = sizeof old_log - 1};
    bl_disk_report report = {.find = tell};
    const char *why;
    bl_disk d;
    if (bl_fat_plan_complete(&plan, &why) != BL_OK || bl_fat_format(&sectors, &plan) != BL_OK ||
        bl_disk_open(&d, &sectors, &memory, &setup) != BL_OK)
        return 1;
    bl_status first = bl_disk_put(&d, "LOG.TXT", &log, NULL);
    c.power = 3; /* the file's cluster, and one of two tables; then it fails */
    log = (bl_disk_file){.bytes = new_log, .size = sizeof new_log - 1};
    bl_status second = bl_disk_put(&d, "LOG.TXT", &log, NULL);
    bl_disk_close(&d);
    printf("first: %s, second: %s\n", bl_status_text(first), bl_status_text(second));
    c.power = 1000;
    if (bl_disk_open(&d, &sectors, &memory, &setup) != BL_OK) return 1;
    bl_status whole = bl_disk_check(&d, true, &report);
    bl_disk_list(&d, "", show, NULL);
    bl_disk_close(&d);
    return whole == BL_OK ? 0 : 1;
}

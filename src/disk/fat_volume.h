/* fat_volume.h - a FAT12 or FAT16 volume, between the files that serve it.
 *
 * Source: "FAT: General Overview of On-Disk Format" 1.03 and ECMA-107. The best allocation table
 * is in memory; a table that was changed goes to the disk with bl_fat_table_flush.
 */
#ifndef BOOTLACE_SRC_FAT_VOLUME_H
#define BOOTLACE_SRC_FAT_VOLUME_H

#include "bootlace/fat.h"
#include "disk_kind.h"

enum {
    FAT_ENTRY = 32, /* bytes of an entry of a folder */
    FAT_FREE = 0,
    FAT_FIRST = 2, /* the first cluster */
    FAT_LABEL = 0x08,
    FAT_FOLDER = 0x10,
    FAT_LONG = 0x0F,
    FAT_DELETED = 0xE5,
    FAT_LONG_PARTS = 20,
};

/* Of both widths, as bl_fat_next tells them. */
#define FAT_BAD         0xFFF7u
#define FAT_END         0xFFFFu
#define FAT_FOLDER_MOST 65536u /* entries of a folder */

typedef struct fat {
    uint32_t sector; /* bytes of one of its sectors */
    uint32_t ratio;  /* sectors of the drive in each of them */
    uint32_t total, cluster_sectors, cluster_bytes, reserved, tables, table_sectors, root_entries;
    uint32_t root, root_sectors, data; /* first sectors */
    uint32_t clusters;                 /* the last is clusters + 1 */
    bool wide;                         /* FAT16 */
    bool bare;                         /* no boot sector describes it: known by its size */
    uint8_t media;
    uint8_t *table; /* the first table, as far as clusters go */
    uint32_t table_bytes;
    uint32_t used_sectors; /* of the table, that clusters are in */
    uint32_t taken;        /* which copy it is, from 0 */
    bool mixed;            /* of several: none of them is right */
    uint8_t *dirty;        /* for each of them */
    uint8_t *buffer;       /* one sector */
    uint32_t buffered;     /* which; UINT32_MAX: none */
    uint8_t *scratch;      /* another, for what is written and read back */
} fat;

/* A place of an entry. */
typedef struct fat_place {
    uint32_t sector, offset;
} fat_place;

/* Goes over the entries of a folder. */
typedef struct fat_walk {
    uint32_t cluster; /* 0: the root */
    uint32_t within;  /* sector in the cluster, or in the root */
    uint32_t offset, seen;
    uint32_t stop; /* the folder ends when so many were seen; 0: where it does */
    uint32_t last; /* cluster of the folder */
} fat_walk;

/* A file, folder or label of a folder, with its long name. */
typedef struct fat_item {
    uint8_t raw[FAT_ENTRY];
    fat_place place;
    uint32_t long_parts;              /* entries before it that are its long name; 0: none */
    fat_place parts[FAT_LONG_PARTS];  /* where those are */
    uint32_t orphans;                 /* entries of long names before it that belong to nothing */
    fat_place orphan[FAT_LONG_PARTS]; /* the first of them */
    bool end;                         /* no item: the end of the folder, behind orphans */
    char long_name[BL_DISK_NAME];
} fat_item;

/* Where somebody is who goes over folders, for messages. A path that is too long is cut. */
typedef struct fat_path {
    char text[BL_DISK_PATH];
    size_t length;
} fat_path;

static inline fat *fat_of(bl_disk *d)
{
    return d->state;
}

/* ---- fat_volume.c: sectors ---- */
bl_status bl_fat_read(bl_disk *d, uint32_t sector, uint8_t *bytes);
bl_status bl_fat_write(bl_disk *d, uint32_t sector, const uint8_t *bytes);
/* A sector in the buffer; valid until another is asked for. */
bl_status bl_fat_sector(bl_disk *d, uint32_t sector, uint8_t **bytes);
static inline uint32_t fat_cluster_sector(const fat *f, uint32_t cluster)
{
    return f->data + (cluster - FAT_FIRST) * f->cluster_sectors;
}
static inline bool fat_is_cluster(const fat *f, uint32_t cluster)
{
    return cluster >= FAT_FIRST && cluster - FAT_FIRST < f->clusters;
}
/* Clusters that so many bytes need. */
static inline uint32_t fat_clusters_of(const fat *f, uint32_t size)
{
    return size / f->cluster_bytes + (size % f->cluster_bytes != 0 ? 1 : 0);
}

/* ---- fat_table.c ---- */
bl_status bl_fat_table_load(bl_disk *d);
/* fat_copies.c: where the copies differ, takes the one by which most files are whole, or a mixture;
 * told. */
bl_status bl_fat_judge_copies(bl_disk *d);
uint32_t bl_fat_next(const fat *f, uint32_t cluster); /* FAT_FREE, FAT_BAD, FAT_END, or the next */
void bl_fat_set(fat *f, uint32_t cluster, uint32_t next);
bl_status bl_fat_table_flush(bl_disk *d);
/* Bytes 0 to 3 of the table say whether it was put away in order. */
bool bl_fat_table_clean(const fat *f);
void bl_fat_table_clear_marks(fat *f);
void bl_fat_set_media(fat *f);
/* Why a chain that leads to this cluster is broken there; NULL: it leads to a good one, or ends. */
const char *bl_fat_chain_fault(const fat *f, uint32_t cluster);
extern const char bl_fat_loop[];
/* Clusters of a chain up to its end, or to where it is broken: *why says how; else NULL. */
uint32_t bl_fat_chain_length(const fat *f, uint32_t first, const char **why);
/* Has it as many clusters as that, all of them good? *why: why not. One that is broken further on
 * will do; one that is a loop will not. */
bool bl_fat_chain_covers(const fat *f, uint32_t first, uint32_t need, const char **why);
/* How many runs of neighbours it consists of. */
uint32_t bl_fat_chain_pieces(const fat *f, uint32_t first, uint32_t count);
void bl_fat_chain_release(fat *f, uint32_t first);
uint32_t bl_fat_count_free(const fat *f, uint32_t *largest, uint32_t *bad);
/* Takes count clusters, in one run if there is one that is long enough; 0: there is no room. */
uint32_t bl_fat_take(fat *f, uint32_t count);

/* ---- fat_name.c ---- */
/* The name on the disk, of 11 bytes, as UTF-8 text: "LAMP.ASM". */
void bl_fat_name_text(const uint8_t raw[FAT_ENTRY], char *text);
/* The same with '?' for what is not ASCII. */
void bl_fat_name_ascii(const uint8_t raw[FAT_ENTRY], char text[16]);
/* The 11 bytes of a label as UTF-8 text; room for 34 bytes. */
void bl_fat_label_text(const uint8_t raw[FAT_ENTRY], char *text);
uint8_t bl_fat_name_sum(const uint8_t name[11]);
bool bl_fat_name_valid(const uint8_t name[11]);
/* UTF-16 units as UTF-8; room for 3 bytes a unit and one. */
void bl_fat_long_text(const uint16_t *units, size_t count, char *text);
bool bl_fat_same_name(const char *a, const char *b, size_t count);

/* ---- fat_folder.c ---- */
void bl_fat_walk_begin(fat_walk *w, uint32_t cluster);
/* The next 32 bytes. BL_E_NOT_FOUND: there are no more; BL_E_DAMAGED: its chain is broken. */
bl_status bl_fat_walk(bl_disk *d, fat_walk *w, uint8_t raw[FAT_ENTRY], fat_place *place);
/* The next item that is not deleted: labels and dot entries too. */
bl_status bl_fat_next_item(bl_disk *d, fat_walk *w, fat_item *item);
bool bl_fat_is_dots(const uint8_t raw[FAT_ENTRY]);
/* A file or a folder that has a name of its own: no label, no '.' and '..'. */
bool bl_fat_is_listed(const uint8_t raw[FAT_ENTRY]);
void bl_fat_item_name(const fat_item *item, char name[BL_DISK_NAME]);
/* Adds a name to a path; returns what bl_fat_leave needs to take it away again. */
size_t bl_fat_enter(fat_path *p, const char *name);
void bl_fat_leave(fat_path *p, size_t before);
static inline uint32_t fat_first_cluster(const uint8_t *raw)
{
    return bl_little16(raw + 26);
}
/* Finds a path. *folder: cluster of the folder that it is in, or would be; *name: what its last
 * part is. BL_E_NOT_FOUND with *name set: the folder is there, and the item is not; with *name
 * NULL: a folder on the way is not. Nothing is told but damage. The main folder has the item's
 * first byte 0. */
bl_status bl_fat_lookup(bl_disk *d, const char *path, fat_item *item, uint32_t *folder,
                        const char **name);
/* The item of a folder that has this name, long or short, or is stored under the short name that
 * this one would be given. */
bl_status bl_fat_find_in(bl_disk *d, uint32_t folder, const char *name, size_t count,
                         fat_item *item);
/* A place for a new entry; the folder grows if it can. */
bl_status bl_fat_free_slot(bl_disk *d, uint32_t folder, fat_place *place);
/* Writes an entry in its one sector. */
bl_status bl_fat_write_entry(bl_disk *d, fat_place place, const uint8_t raw[FAT_ENTRY]);
/* Marks an item, and its long name if it has one, as deleted. */
bl_status bl_fat_erase_item(bl_disk *d, const fat_item *item);
bl_status bl_fat_erase_long(bl_disk *d, const fat_item *item);
/* From the last sector to the first, so that what is left when the power fails belongs to nothing.
 */
bl_status bl_fat_erase_places(bl_disk *d, const fat_place *places, size_t count);
bl_disk_time bl_fat_time_of(const uint8_t *raw);
void bl_fat_stamp(uint8_t *raw, bl_disk_time t);

/* ---- fat_file.c, fat_check.c, fat_map.c ---- */
bl_status bl_fat_list(bl_disk *d, const char *path, bl_disk_visit *visit, void *context);
bl_status bl_fat_find(bl_disk *d, const char *path, bl_disk_entry *entry);
bl_status bl_fat_get(bl_disk *d, const char *path, const bl_writer *writer);
bl_status bl_fat_put(bl_disk *d, const char *path, const bl_disk_file *file, bl_disk_entry *stored);
bl_status bl_fat_remove(bl_disk *d, const char *path, bool force);
bl_status bl_fat_rename(bl_disk *d, const char *old_path, const char *new_path);
bl_status bl_fat_folder(bl_disk *d, const char *path);
bl_status bl_fat_check(bl_disk *d, bool repair, bl_disk_report *report);
bl_status bl_fat_map(bl_disk *d, bl_disk_run *run, void *context);

#endif

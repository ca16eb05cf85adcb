/* disk.h - file systems on disks: FAT12 and FAT16 (fat.h), the classic layout of 8-bit machines
 * (classic.h), and a disk of ours for bare machines (baredisk.h; docs/disk.md). One set of calls
 * serves all of them.
 *
 * Everything works on bl_sectors (port.h) and nothing is believed that a disk says of itself: each
 * number is checked before it is used, and a chain is followed no further than it can be long.
 *
 * Order of writing. On a live disk a file is written to free places first, then what leads to it is
 * changed in one sector, and only then is the old file's room given back. So whenever the power
 * fails between two sectors, each file is as it was or as it shall be; what may be left over is
 * room that belongs to no file, which bl_disk_check finds and gives back.
 */
#ifndef BOOTLACE_DISK_H
#define BOOTLACE_DISK_H

#include "diag.h"
#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_disk_kind {
    BL_DISK_UNKNOWN,
    BL_DISK_FAT12,
    BL_DISK_FAT16,
    BL_DISK_CLASSIC,
    BL_DISK_BARE,
} bl_disk_kind;

/* "fat12"; NULL for BL_DISK_UNKNOWN. */
const char *bl_disk_kind_name(bl_disk_kind kind);
/* BL_DISK_UNKNOWN: there is none of that name. */
bl_disk_kind bl_disk_kind_named(bl_text name);
/* FAT12 or FAT16. */
static inline bool bl_disk_kind_is_fat(bl_disk_kind kind)
{
    return kind == BL_DISK_FAT12 || kind == BL_DISK_FAT16;
}

enum {
    BL_DISK_NAME = 768, /* the longest name in UTF-8, and its end */
    BL_DISK_PATH = 1024,
    BL_DISK_DEEPEST = 32, /* folders in folders that are followed */
    BL_DISK_RECORD = 128, /* bytes of a record of the classic layout */
};

/* The time that somebody's clock shows, of no time zone. year 0: there is none. */
typedef struct bl_disk_time {
    uint16_t year;      /* 1980 to 2107 */
    uint8_t month, day; /* from 1 */
    uint8_t hour, minute, second;
} bl_disk_time;

/* Attributes, as FAT has them. Of the classic layout: read-only, hidden ("system") and archive. */
enum {
    BL_DISK_READ_ONLY = 0x01,
    BL_DISK_HIDDEN = 0x02,
    BL_DISK_SYSTEM = 0x04,
    BL_DISK_ARCHIVE = 0x20,
};

/* A file or a folder, as it is listed. */
typedef struct bl_disk_entry {
    char name[BL_DISK_NAME]; /* UTF-8: the long name if there is one */
    char short_name[16];     /* as a small machine sees it; bytes beyond ASCII are '?' */
    bool folder;
    bool damaged;       /* its entries cannot be right: bl_disk_get fails, bl_disk_check says why */
    uint32_t size;      /* bytes */
    bool rounded;       /* only the count of records is known: size is a multiple of 128 */
    uint8_t attributes; /* BL_DISK_READ_ONLY ... */
    bl_disk_time changed;
    uint8_t user;                     /* classic: the user area */
    bool has_load, has_entry, starts; /* bare: what is known of a program */
    uint32_t load, entry;             /* addresses */
    uint32_t first;                   /* where it begins: cluster, block or sector */
    uint32_t pieces;                  /* of how many runs of sectors it consists; 0: of none */
} bl_disk_entry;

/* A file to be put on a disk. The bytes stay the caller's, and are used during the call only. */
typedef struct bl_disk_file {
    const uint8_t *bytes;
    uint32_t size;
    uint8_t attributes;
    bl_disk_time changed;
    bool has_load, has_entry, starts; /* bare */
    uint32_t load, entry;
} bl_disk_file;

typedef struct bl_disk_space {
    uint32_t unit;                  /* bytes that files are given room in */
    uint32_t units, free, broken;   /* in all; that can be had; that are marked as bad */
    uint32_t largest;               /* the longest run of free ones */
    uint32_t entries, entries_free; /* of the main directory; 0: it grows */
} bl_disk_space;

/* What a run of sectors is used for. */
typedef enum bl_disk_use {
    BL_DISK_USE_BOOT,   /* boot sector, reserved sectors, system tracks */
    BL_DISK_USE_TABLE,  /* allocation tables */
    BL_DISK_USE_FOLDER, /* directories */
    BL_DISK_USE_FILE,
    BL_DISK_USE_FREE,
    BL_DISK_USE_BAD,   /* marked as bad */
    BL_DISK_USE_LOST,  /* marked as used, and no file has it */
    BL_DISK_USE_CROSS, /* more than one file has it */
    BL_DISK_USE_SPARE, /* beyond what the file system uses */
} bl_disk_use;

/* Something that bl_disk_check found. Text is valid during the call only. */
typedef struct bl_disk_finding {
    bool broken;      /* else it is a remark: nothing is wrong with any file */
    bool safe;        /* it can be repaired without touching a file that is whole */
    bool mended;      /* and was */
    bool loss;        /* its repair throws bytes away: only done with report.drop */
    const char *what; /* one sentence */
    const char *hint; /* what to do with what cannot be repaired; NULL: repair does it */
} bl_disk_finding;

typedef struct bl_disk_report {
    bool drop;       /* set by the caller: a repair may throw bytes away */
    uint32_t losses; /* repairs that did */
    uint32_t files, folders;
    uint32_t broken, remarks; /* findings */
    uint32_t mended;          /* of both */
    uint32_t left;            /* broken, and not mended */
    void *context;
    void (*find)(void *context, const bl_disk_finding *finding); /* may be NULL */
} bl_disk_report;

struct bl_classic;

/* How a disk is opened. All of it may be 0. */
typedef struct bl_disk_setup {
    bl_disk_kind kind;                /* BL_DISK_UNKNOWN: it is found out */
    const struct bl_classic *layouts; /* that a classic disk may have, the likeliest first */
    size_t layout_count;
    const char *title; /* of the disk, for messages; must outlive it */
    bl_sink sink;
    bool live;        /* each sector goes to a medium at once: keep to the order of writing. Else
                         the caller throws everything away when a call fails. */
    bl_disk_time now; /* for folders, and files of no time */
} bl_disk_setup;

/* A disk that is open. Caller-owned; members are not to be touched. */
typedef struct bl_disk {
    const struct bl_disk_calls *calls;
    bl_sectors sectors;
    bl_memory memory;
    bl_disk_setup setup;
    bl_disk_kind kind;
    void *state;
} bl_disk;

/* Opens what is on these sectors; they must outlive it, and so must the allocator's context.
 * BL_E_UNSUPPORTED: nothing that is known; BL_E_DAMAGED; BL_E_MEMORY; what reading returns. Told to
 * the sink. Only after BL_OK bl_disk_close follows. */
bl_status bl_disk_open(bl_disk *d, const bl_sectors *sectors, const bl_memory *memory,
                       const bl_disk_setup *setup);
void bl_disk_close(bl_disk *d);

bl_disk_kind bl_disk_kind_of(const bl_disk *d);
/* The volume's label, or "". */
void bl_disk_label(bl_disk *d, char label[BL_DISK_NAME]);
/* A few words on its shape, for a list: "1.44M, clusters of 512 bytes". */
void bl_disk_describe(bl_disk *d, char *text, size_t capacity);
bl_status bl_disk_space_of(bl_disk *d, bl_disk_space *space);

/* ---- files. Paths have '/' between folders; on a classic disk "3:NAME.TYP" is of user area 3 (0
 * when none is named). Names of either case are the same. What fails is told to the sink. ---- */

/* Calls visit for each file and folder in a folder ("" or "/": the main one; on a classic disk ""
 * is all user areas), until it returns something else than BL_OK, which is returned. */
bl_status bl_disk_list(bl_disk *d, const char *path,
                       bl_status (*visit)(void *context, const bl_disk_entry *entry),
                       void *context);
bl_status bl_disk_find(bl_disk *d, const char *path, bl_disk_entry *entry);
/* The same as a question: nothing is told. */
bool bl_disk_has(bl_disk *d, const char *path, bl_disk_entry *entry);
/* Writes a file's bytes; a file that is damaged fails before the first of them. */
bl_status bl_disk_get(bl_disk *d, const char *path, const bl_writer *writer);
/* Writes a file, or replaces it, and reads it back. *stored (may be NULL): as it is on the disk.
 * BL_E_FULL: no room, and nothing has changed; BL_E_PROTECTED: the old file is read-only;
 * BL_E_EXISTS: it is a folder; BL_E_DIFFERS: what was read back is something else. */
bl_status bl_disk_put(bl_disk *d, const char *path, const bl_disk_file *file,
                      bl_disk_entry *stored);
/* A file, or an empty folder. force: though it is read-only. */
bl_status bl_disk_delete(bl_disk *d, const char *path, bool force);
/* new_path: a name, or a path into the same folder. */
bl_status bl_disk_rename(bl_disk *d, const char *old_path, const char *new_path);
/* BL_E_UNSUPPORTED: this kind has no folders. */
bl_status bl_disk_folder(bl_disk *d, const char *path);

/* The 8.3 name under which a file of this name (UTF-8, without folders) is stored, as text
 * ("LAMP.ASM") and as the 11 bytes of an entry (may be NULL).
 *
 * Lower case becomes upper case. A name of up to 8 characters, with an ending of up to 3, of
 * letters, digits and ! # $ % & ' ( ) - @ ^ _ ` { } ~ is stored as it is. From any other, dots but
 * the last and blanks are left out, other characters that cannot be become _, the ending is cut to
 * 3 characters, and the name is cut to 3, with ~ and four digits behind it: the CRC-16 (crc.h) of
 * the whole name as it was given, letters in upper case, hexadecimal. So two names hardly ever
 * become one, and the same file is stored under the same name each time. Returns whether it was
 * stored as it is. BL_E_SYNTAX in *status: there is nothing that can be a name ("", ".", ".."). */
bool bl_disk_short_name(bl_text name, char text[13], uint8_t raw[11], bl_status *status);

/* ---- the whole ---- */

/* Looks at everything, and repairs what is safe if asked to. BL_OK: nothing is broken, or all of it
 * was mended; BL_E_DAMAGED: something is. */
bl_status bl_disk_check(bl_disk *d, bool repair, bl_disk_report *report);
/* What each sector is used for, in runs, in the order of the sectors; path: of files and folders,
 * else NULL. */
bl_status bl_disk_map(bl_disk *d,
                      bl_status (*run)(void *context, uint32_t first, uint32_t count,
                                       bl_disk_use use, const char *path),
                      void *context);
/* Where a boot program may lie: sectors from *first on, and of the first of them the bytes that
 * belong to the file system: from..from+count. Classic: its system tracks. */
bl_status bl_disk_boot_area(bl_disk *d, uint32_t *sectors, uint32_t *kept_from,
                            uint32_t *kept_count);

#ifdef __cplusplus
}
#endif
#endif

/* classic_file.h - between the files that read, write and check files of the classic layout. */
#ifndef BOOTLACE_SRC_CLASSIC_FILE_H
#define BOOTLACE_SRC_CLASSIC_FILE_H

#include "classic_volume.h"

/* A file: what its entries say together. */
typedef struct classic_file {
    uint8_t key[12];  /* user, name and type, as an entry begins */
    uint32_t count;   /* entries; 0: there is no such file */
    uint32_t last;    /* the highest number of one */
    uint32_t records; /* up to the end of that */
    uint32_t size;    /* bytes */
    bool rounded;
    uint8_t attributes; /* as of bl_disk_entry */
} classic_file;

void bl_classic_gather(const classic *c, const uint8_t *key, classic_file *f);
/* The index of entry number n of a file; layout.entries: there is none. */
uint32_t bl_classic_entry_of(const classic *c, const uint8_t *key, uint32_t number);
/* User, name and type that a path names; told. */
bl_status bl_classic_key(bl_disk *d, const char *path, uint8_t key[12]);
/* Takes all entries of a file away, the first of them first. */
bl_status bl_classic_erase(bl_disk *d, const uint8_t *key);
/* Gives a file's entries another name, the first of them first, each in one write. */
bl_status bl_classic_rekey(bl_disk *d, const uint8_t *old_key, const uint8_t *new_key);

/* Do its entries say what cannot be: parts that are missing, more bytes than the disk has? */
bool bl_classic_lies(const classic *c, const classic_file *f);

#endif

/* fuzz_host.h - for targets that read files: a folder of their own, in memory where there is such a
 * place. */
#ifndef BOOTLACE_FUZZ_HOST_H
#define BOOTLACE_FUZZ_HOST_H

#include <stdio.h>
#include <sys/stat.h>
#include <unistd.h>

#include "fuzz_memory.h"

static inline const char *fuzz_folder(void)
{
    static char folder[64];
    if (folder[0] == '\0') {
        snprintf(folder, sizeof folder, "%s/bootlace-fuzz-%ld",
                 access("/dev/shm", W_OK) == 0 ? "/dev/shm" : "/tmp", (long)getpid());
        if (mkdir(folder, 0700) != 0 || chdir(folder) != 0) abort();
    }
    return folder;
}

static inline void fuzz_write(const char *name, const void *bytes, size_t count)
{
    FILE *f = fopen(name, "wb");
    if (f == NULL || fwrite(bytes, 1, count, f) != count || fclose(f) != 0) abort();
}

#endif

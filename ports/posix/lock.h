/* lock.h - one program owns a serial device: the locks that terminal programs take. */
#ifndef BOOTLACE_POSIX_LOCK_H
#define BOOTLACE_POSIX_LOCK_H

#include <stddef.h>

#include "bootlace/base.h"

typedef struct posix_lock {
    char path[300]; /* of the lock file; empty: none could be made */
} posix_lock;

/* Takes the device that is open as file: flock, the exclusive mode of the terminal (TIOCEXCL), and
 * a lock file LCK..NAME in /run/lock with the process's number, where that folder may be written.
 * BL_E_BUSY: another program has one of them. A lock file of a process that is gone is removed. */
bl_status posix_lock_take(posix_lock *lock, int file, const char *device);
/* Has a program the terminal's exclusive mode? */
bool posix_lock_exclusive(int file);
/* Before file is closed. */
void posix_lock_release(posix_lock *lock, int file);

#endif

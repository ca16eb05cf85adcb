/* pty.h - a pseudo-terminal to serve a simulated device on. */
#ifndef BOOTLACE_POSIX_PTY_H
#define BOOTLACE_POSIX_PTY_H

#include "bootlace/base.h"

typedef struct posix_pty {
    int master;
    int slave; /* kept open, so that clients may come and go */
    char name[64];
} posix_pty;

/* BL_E_IO: the system has none left; errno says more. */
bl_status posix_pty_open(posix_pty *p);
void posix_pty_close(posix_pty *p);
/* Reads what a client wrote, without waiting; writes to it. Return how many bytes. */
size_t posix_pty_read(posix_pty *p, uint8_t *bytes, size_t capacity);
size_t posix_pty_write(posix_pty *p, const uint8_t *bytes, size_t count);
/* A client that died left its exclusive mode behind: ends it, unless one holds the lock. */
void posix_pty_free(posix_pty *p);
/* Waits until one of two has something to read, or milliseconds have passed. */
void posix_pty_wait(posix_pty *a, posix_pty *b, int milliseconds);

#endif

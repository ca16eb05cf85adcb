/* pty.c - pseudo-terminals. */
#include "pty.h"

#include <fcntl.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <termios.h>
#include <unistd.h>

/* The far end is kept open, too: without it the near end reports an error until somebody opens it.
 */
bl_status posix_pty_open(posix_pty *p)
{
    struct termios t;
    memset(p, 0, sizeof *p);
    p->slave = -1;
    p->master = posix_openpt(O_RDWR | O_NOCTTY);
    const char *name = NULL;
    if (p->master >= 0 && grantpt(p->master) == 0 && unlockpt(p->master) == 0)
        name = ptsname(p->master);
    if (name != NULL && strlen(name) < sizeof p->name) {
        strcpy(p->name, name);
        p->slave = open(name, O_RDWR | O_NOCTTY);
    }
    if (p->slave < 0 || tcgetattr(p->slave, &t) != 0) {
        posix_pty_close(p);
        return BL_E_IO;
    }
    cfmakeraw(&t); /* nothing is echoed or translated before a client has said so itself */
    tcsetattr(p->slave, TCSANOW, &t);
    fcntl(p->master, F_SETFL, O_NONBLOCK);
    return BL_OK;
}

void posix_pty_close(posix_pty *p)
{
    if (p->slave >= 0) close(p->slave);
    if (p->master >= 0) close(p->master);
    p->slave = p->master = -1;
}

size_t posix_pty_read(posix_pty *p, uint8_t *bytes, size_t capacity)
{
    ssize_t n = read(p->master, bytes, capacity);
    return n > 0 ? (size_t)n : 0;
}

size_t posix_pty_write(posix_pty *p, const uint8_t *bytes, size_t count)
{
    ssize_t n = write(p->master, bytes, count);
    return n > 0 ? (size_t)n : 0;
}

void posix_pty_free(posix_pty *p)
{
    if (flock(p->slave, LOCK_EX | LOCK_NB) != 0) return;
    ioctl(p->slave, TIOCNXCL);
    flock(p->slave, LOCK_UN);
}

void posix_pty_wait(posix_pty *a, posix_pty *b, int milliseconds)
{
    struct pollfd p[2] = {{.fd = a->master, .events = POLLIN}, {.fd = b->master, .events = POLLIN}};
    poll(p, 2, milliseconds);
}

/* list.c - which serial devices there are. */
#include <fcntl.h>
#include <glob.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#include "serial.h"

/* A file of that name may stand for a port that no machine has. */
static bool is_there(const char *path)
{
    struct termios t;
    int file = open(path, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (file < 0) return false;
    bool good = tcgetattr(file, &t) == 0;
    close(file);
    return good;
}

/* The system gives adapters names that tell who made them. */
static void describe_device(const char *path, char *what, size_t capacity)
{
    glob_t names;
    char mine[4096], other[4096];
    what[0] = '\0';
    if (realpath(path, mine) == NULL || glob("/dev/serial/by-id/*", 0, NULL, &names) != 0) return;
    for (size_t i = 0; i < names.gl_pathc; i++) {
        if (realpath(names.gl_pathv[i], other) == NULL || strcmp(mine, other) != 0) continue;
        const char *base = strrchr(names.gl_pathv[i], '/') + 1;
        size_t n = strlen(base) < capacity - 1 ? strlen(base) : capacity - 1;
        memcpy(what, base, n);
        what[n] = '\0';
    }
    globfree(&names);
}

void posix_serial_list(void *context,
                       void (*visit)(void *context, const char *path, const char *what))
{
    static const char *const patterns[] = {"/dev/ttyUSB*", "/dev/ttyACM*", "/dev/cu.usb*",
                                           "/dev/ttyS[0-9]*"};
    char what[200];
    for (size_t i = 0; i < sizeof patterns / sizeof patterns[0]; i++) {
        glob_t found;
        if (glob(patterns[i], 0, NULL, &found) != 0) continue;
        for (size_t k = 0; k < found.gl_pathc; k++) {
            if (!is_there(found.gl_pathv[k])) continue;
            describe_device(found.gl_pathv[k], what, sizeof what);
            visit(context, found.gl_pathv[k], what);
        }
        globfree(&found);
    }
}

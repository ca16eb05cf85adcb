/* peer_loop.c - a pseudo-terminal whose transmit and receive are connected: it says its name, then
 * gives back what comes. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <termios.h>
#include <unistd.h>

int main(void)
{
    struct termios t;
    char bytes[256];
    int line = posix_openpt(O_RDWR | O_NOCTTY);
    if (line < 0 || grantpt(line) != 0 || unlockpt(line) != 0) return 1;
    int keep = open(ptsname(line), O_RDWR | O_NOCTTY);
    tcgetattr(keep, &t);
    cfmakeraw(&t);
    tcsetattr(keep, TCSANOW, &t);
    printf("%s\n", ptsname(line));
    fflush(stdout);
    for (ssize_t n; (n = read(line, bytes, sizeof bytes)) > 0;)
        if (write(line, bytes, (size_t)n) != n) return 1;
    return 0;
}

/* peer_terminal.c - runs a command on a terminal of its own, and passes on what comes to its
 * screen. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

int main(int argc, char **argv)
{
    if (argc < 2) return 2;
    int master = posix_openpt(O_RDWR | O_NOCTTY);
    if (master < 0 || grantpt(master) != 0 || unlockpt(master) != 0) return 2;
    const char *name = ptsname(master);
    pid_t child = fork();
    if (child == 0) {
        setsid();
        int slave = open(name, O_RDWR);
        if (slave < 0) _exit(127);
        for (int fd = 0; fd < 3; fd++)
            dup2(slave, fd);
        close(master);
        setenv("TERM", "xterm", 1);
        execvp(argv[1], argv + 1);
        _exit(127);
    }
    char bytes[4096];
    ssize_t n;
    while ((n = read(master, bytes, sizeof bytes)) > 0)
        if (fwrite(bytes, 1, (size_t)n, stdout) != (size_t)n) return 2;
    int status = 0;
    waitpid(child, &status, 0);
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128;
}

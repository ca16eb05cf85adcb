/* lock.c - flock, TIOCEXCL, and the lock files that go back to UUCP. */
#include "lock.h"

#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

static const char folder[] = "/run/lock";

/* A lock file is named after the device itself, not after a link to it. */
static bool name_lock(posix_lock *lock, const char *device)
{
    char real[PATH_MAX];
    if (realpath(device, real) == NULL) return false;
    const char *base = strrchr(real, '/');
    int n = snprintf(lock->path, sizeof lock->path, "%s/LCK..%s", folder,
                     base != NULL ? base + 1 : real);
    return n > 0 && (size_t)n < sizeof lock->path;
}

/* Does the process belong to whoever made the file? In a folder that anybody may write to, anybody
 * could name a process that never ends. */
static bool is_of(long process, uid_t user)
{
    char path[40];
    struct stat info;
    snprintf(path, sizeof path, "/proc/%ld", process);
    return stat(path, &info) != 0 || info.st_uid == user || user == 0; /* without /proc: believed */
}

/* Whose lock file is it? 0: nobody's that is still there. */
static long owner_of(const char *path)
{
    enum { WRITING_SECONDS = 10 };
    char text[32] = "";
    struct stat info;
    int file = open(path, O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
    if (file < 0) return 0;
    ssize_t n =
        fstat(file, &info) == 0 && S_ISREG(info.st_mode) ? read(file, text, sizeof text - 1) : -1;
    close(file);
    if (n < 0) return 0;
    long owner = n == 0 ? 0 : strtol(text, NULL, 10);
    if (owner <= 0 || owner > INT_MAX) /* just being written, or left so */
        return time(NULL) - info.st_mtime < WRITING_SECONDS ? 1 : 0;
    if (kill((pid_t)owner, 0) != 0 && errno == ESRCH) return 0;
    return is_of(owner, info.st_uid) ? owner : 0;
}

/* The file of a process that is gone is taken away, once; where the folder is not ours to write,
 * the other locks must do. */
static bl_status take_file(posix_lock *lock)
{
    for (unsigned i = 0; i < 2; i++) {
        int file = open(lock->path, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC | O_NOFOLLOW, 0644);
        if (file >= 0) {
            char text[16];
            int n = snprintf(text, sizeof text, "%10ld\n", (long)getpid());
            bool good = write(file, text, (size_t)n) == n;
            if (close(file) == 0 && good) return BL_OK;
            unlink(lock->path);
            break;
        }
        if (errno != EEXIST) break; /* the folder is not ours to write: the other locks hold */
        if (owner_of(lock->path) != 0) {
            lock->path[0] = '\0';
            return BL_E_BUSY;
        }
        unlink(lock->path);
    }
    lock->path[0] = '\0';
    return BL_OK;
}

/* Whoever looks for a moment whether the device is free holds it for that moment. */
static bool take_flock(int file)
{
    struct timespec pause = {0, 20 * 1000 * 1000};
    for (unsigned i = 0; i < 4; i++) {
        if (flock(file, LOCK_EX | LOCK_NB) == 0) return true;
        nanosleep(&pause, NULL);
    }
    return false;
}

bool posix_lock_exclusive(int file)
{
#ifdef TIOCGEXCL
    int exclusive = 0;
    return ioctl(file, TIOCGEXCL, &exclusive) == 0 && exclusive != 0;
#else
    (void)file;
    return false;
#endif
}

bl_status posix_lock_take(posix_lock *lock, int file, const char *device)
{
    lock->path[0] = '\0';
    if (posix_lock_exclusive(file) || !take_flock(file)) return BL_E_BUSY;
    if (name_lock(lock, device)) {
        bl_status status = take_file(lock);
        if (status != BL_OK) return status;
    }
    ioctl(file, TIOCEXCL);
    return BL_OK;
}

void posix_lock_release(posix_lock *lock, int file)
{
    ioctl(file, TIOCNXCL);
    if (lock->path[0] != '\0') unlink(lock->path);
    lock->path[0] = '\0';
}

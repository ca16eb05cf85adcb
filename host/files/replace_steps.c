/* replace_steps.c - the steps of replacing files: signals held, temporary names, whole contents. */
#define _GNU_SOURCE /* O_TMPFILE, renameat2 */
#include "replace_steps.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "replace.h"

/* What has a name while it is being made is called so, with the number of the process behind. */
const char replace_prefix[] = ".bootlace-";

bl_status replace_tell(const char *path, const char *what, int error, const bl_sink *sink)
{
    bl_report(sink, BL_ERROR, path, 0, NULL, "cannot write: %s%s", what, g_strerror(error));
    return BL_E_IO;
}

/* ---- signals ---- */

/* Whoever ends us politely waits for the few moments in which something unfinished has a name. */
void replace_hold_signals(sigset_t *before)
{
    sigset_t held;
    sigemptyset(&held);
    sigaddset(&held, SIGINT);
    sigaddset(&held, SIGTERM);
    sigaddset(&held, SIGHUP);
    sigaddset(&held, SIGQUIT);
    sigprocmask(SIG_BLOCK, &held, before);
}

void replace_let_signals(const sigset_t *before)
{
    sigprocmask(SIG_SETMASK, before, NULL);
}

/* The moments in which something unfinished has a name are spent in a process of its own: whoever
 * kills us, with whatever signal, does not kill that, and it ends what it has begun. work returns
 * 0, or an error number; so does this. */
int replace_apart(int (*work)(void *context), void *context)
{
    struct sigaction usual = {.sa_handler = SIG_DFL}, before;
    fflush(NULL); /* what is not written yet must not be written twice */
    /* Whoever started us may have had the ends of children ignored: then none could be waited for.
     */
    sigaction(SIGCHLD, &usual, &before);
    pid_t child = fork();
    if (child == 0) {
        setsid();
        _exit(work(context));
    }
    int status = 0, error = 0;
    while (child > 0 && error == 0 && waitpid(child, &status, 0) < 0)
        if (errno != EINTR) error = errno;
    sigaction(SIGCHLD, &before, NULL);
    if (child < 0) return work(context); /* no process can be had: here, then */
    return error != 0 ? error : WIFEXITED(status) ? WEXITSTATUS(status) : EINTR;
}

/* ---- temporary names ---- */

char *replace_temporary(const char *folder)
{
    static unsigned count;
    char *name = g_strdup_printf("%s%ld-%u", replace_prefix, (long)getpid(), count++);
    char *path = g_build_filename(folder, name, NULL);
    g_free(name);
    return path;
}

/* A folder of ours holds files alone. */
void replace_remove(const char *path)
{
    GDir *d = g_dir_open(path, 0, NULL);
    for (const char *name; d != NULL && (name = g_dir_read_name(d)) != NULL;) {
        char *inside = g_build_filename(path, name, NULL);
        g_unlink(inside);
        g_free(inside);
    }
    if (d != NULL) g_dir_close(d);
    g_remove(path);
}

void replace_clean(const char *folder)
{
    GDir *d = g_dir_open(folder, 0, NULL);
    for (const char *name; d != NULL && (name = g_dir_read_name(d)) != NULL;) {
        if (!g_str_has_prefix(name, replace_prefix)) continue;
        char *end;
        gint64 pid = g_ascii_strtoll(name + strlen(replace_prefix), &end, 10);
        bool ours = pid > 1 && pid < INT32_MAX && *end == '-';
        if (!ours || kill((pid_t)pid, 0) == 0 || errno != ESRCH) continue; /* it is at work */
        char *path = g_build_filename(folder, name, NULL);
        replace_remove(path);
        g_free(path);
    }
    if (d != NULL) g_dir_close(d);
}

/* ---- contents and names ---- */

bool replace_write(int fd, const void *bytes, size_t count)
{
    const char *at = bytes;
    while (count > 0) {
        ssize_t n = write(fd, at, count);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) {
            if (n == 0) errno = ENOSPC;
            return false;
        }
        at += n;
        count -= (size_t)n;
    }
    return true;
}

/* Gives the file a name. */
bool replace_link(int fd, char *name, const char *to)
{
    char from[64];
    if (name != NULL) return rename(name, to) == 0;
    g_snprintf(from, sizeof from, "/proc/self/fd/%d", fd);
    return linkat(AT_FDCWD, from, AT_FDCWD, to, AT_SYMLINK_FOLLOW) == 0;
}

bool replace_keep(int fd, const struct stat *old)
{
    if (old == NULL) return true;
    if (fchown(fd, old->st_uid, old->st_gid) != 0) errno = 0; /* then it is ours from now on */
    return fchmod(fd, old->st_mode & 07777) == 0 && fsync(fd) == 0;
}

/* Writes all of a new file, which gets the permissions of the one it replaces. */
bool replace_fill(int fd, const struct stat *old, const void *bytes, size_t count)
{
    return replace_write(fd, bytes, count) && replace_keep(fd, old);
}

/* May it be replaced? What nobody may write to is meant to stay. */
bl_status replace_check(const char *path, const struct stat *old, const bl_sink *sink)
{
    if ((old->st_mode & 0222) != 0 && access(path, W_OK) == 0) return BL_OK;
    bl_report(sink, BL_ERROR, path, 0, "chmod u+w allows it",
              "cannot write: the file is read-only");
    return BL_E_IO;
}

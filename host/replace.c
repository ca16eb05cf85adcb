/* replace.c - one file, or a folder's set of files, exchanged at once. */
#define _GNU_SOURCE /* O_TMPFILE, renameat2 */
#include "replace.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

/* What has a name while it is being made is called so, with the number of the process behind. */
static const char temporary[] = ".bootlace-";

static bl_status tell(const char *path, const char *what, int error, const bl_sink *sink)
{
    bl_report(sink, BL_ERROR, path, 0, NULL, "cannot write: %s%s", what, g_strerror(error));
    return BL_E_IO;
}

/* ---- signals ---- */

/* Whoever ends us politely waits for the few moments in which something unfinished has a name. */
static void hold_signals(sigset_t *before)
{
    sigset_t held;
    sigemptyset(&held);
    sigaddset(&held, SIGINT);
    sigaddset(&held, SIGTERM);
    sigaddset(&held, SIGHUP);
    sigaddset(&held, SIGQUIT);
    sigprocmask(SIG_BLOCK, &held, before);
}

static void let_signals(const sigset_t *before)
{
    sigprocmask(SIG_SETMASK, before, NULL);
}

/* The moments in which something unfinished has a name are spent in a process of its own: whoever
 * kills us, with whatever signal, does not kill that, and it ends what it has begun. work returns
 * 0, or an error number; so does this. */
static int do_whole(int (*work)(void *context), void *context)
{
    fflush(NULL); /* what is not written yet must not be written twice */
    pid_t child = fork();
    if (child < 0) return work(context);
    if (child == 0) {
        setsid();
        _exit(work(context));
    }
    int status = 0;
    while (waitpid(child, &status, 0) < 0)
        if (errno != EINTR) return errno;
    return WIFEXITED(status) ? WEXITSTATUS(status) : EINTR;
}

/* ---- temporary names ---- */

static char *temporary_name(const char *folder)
{
    static unsigned count;
    char *name = g_strdup_printf("%s%ld-%u", temporary, (long)getpid(), count++);
    char *path = g_build_filename(folder, name, NULL);
    g_free(name);
    return path;
}

/* A folder of ours holds files alone. */
static void remove_temporary(const char *path)
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
        if (!g_str_has_prefix(name, temporary)) continue;
        char *end;
        gint64 pid = g_ascii_strtoll(name + strlen(temporary), &end, 10);
        bool ours = pid > 1 && pid < INT32_MAX && *end == '-';
        if (!ours || kill((pid_t)pid, 0) == 0 || errno != ESRCH) continue; /* it is at work */
        char *path = g_build_filename(folder, name, NULL);
        remove_temporary(path);
        g_free(path);
    }
    if (d != NULL) g_dir_close(d);
}

/* ---- one file ---- */

/* Where a path leads through symbolic links, the last of which may lead nowhere yet. */
static char *target_of(const char *path)
{
    char *at = g_strdup(path);
    for (unsigned i = 0; i < 40 && g_file_test(at, G_FILE_TEST_IS_SYMLINK); i++) {
        char *link = g_file_read_link(at, NULL);
        if (link == NULL) break;
        char *folder = g_path_get_dirname(at);
        char *next =
            g_path_is_absolute(link) ? g_strdup(link) : g_build_filename(folder, link, NULL);
        g_free(folder);
        g_free(link);
        g_free(at);
        at = next;
    }
    return at;
}

/* A file without a name in the folder, or where that is impossible one with a name, in *name. */
static int open_nameless(const char *folder, char **name)
{
    *name = NULL;
    int fd = open(folder, O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666);
    if (fd >= 0 || (errno != EOPNOTSUPP && errno != EISDIR && errno != EINVAL && errno != ENOENT))
        return fd;
    *name = temporary_name(folder);
    return open(*name, O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666);
}

static bool write_all(int fd, const void *bytes, size_t count)
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
static bool link_name(int fd, char *name, const char *to)
{
    char from[64];
    if (name != NULL) return rename(name, to) == 0;
    g_snprintf(from, sizeof from, "/proc/self/fd/%d", fd);
    return linkat(AT_FDCWD, from, AT_FDCWD, to, AT_SYMLINK_FOLLOW) == 0;
}

/* Writes all of a new file, which gets the permissions of the one it replaces. */
static bool fill(int fd, const struct stat *old, const void *bytes, size_t count)
{
    if (!write_all(fd, bytes, count)) return false;
    if (old == NULL) return true;
    if (fchown(fd, old->st_uid, old->st_gid) != 0) errno = 0; /* then it is ours from now on */
    return fchmod(fd, old->st_mode & 07777) == 0 && fsync(fd) == 0;
}

/* May it be replaced? What nobody may write to is meant to stay. */
static bl_status check_target(const char *path, const struct stat *old, const bl_sink *sink)
{
    if ((old->st_mode & 0222) != 0 && access(path, W_OK) == 0) return BL_OK;
    bl_report(sink, BL_ERROR, path, 0, "chmod u+w allows it",
              "cannot write: the file is read-only");
    return BL_E_IO;
}

static bl_status write_device(const char *path, const void *bytes, size_t count,
                              const bl_sink *sink)
{
    int fd = open(path, O_WRONLY | O_CLOEXEC | O_NOCTTY);
    bool good = fd >= 0 && write_all(fd, bytes, count);
    int error = errno;
    if (fd >= 0 && close(fd) != 0 && good) good = false, error = errno;
    return good ? BL_OK : tell(path, "", error, sink);
}

/* A whole file that is to get its name; between is the one that it has for a moment. */
typedef struct naming {
    int fd;
    char *name; /* NULL: it has none */
    const char *between, *target;
} naming;

static int give_name(void *context)
{
    naming *n = context;
    if (n->name == NULL && !link_name(n->fd, NULL, n->between)) return errno;
    const char *name = n->name != NULL ? n->name : n->between;
    if (rename(name, n->target) == 0) return 0;
    int error = errno;
    unlink(name);
    return error;
}

static bl_status put_file(const char *target, const struct stat *old, const void *bytes,
                          size_t count, const bl_sink *sink)
{
    char *folder = g_path_get_dirname(target), *name, *between = temporary_name(folder);
    sigset_t before;
    int error = 0;
    replace_clean(folder);
    hold_signals(&before);
    int fd = open_nameless(folder, &name);
    if (fd < 0 || !fill(fd, old, bytes, count)) error = errno != 0 ? errno : EIO;
    naming n = {fd, name, between, target};
    /* Where nothing was it needs no other name first. */
    bool named = error == 0 && old == NULL && name == NULL && link_name(fd, NULL, target);
    if (error == 0 && !named) error = do_whole(give_name, &n);
    if (error != 0 && name != NULL) g_unlink(name);
    if (fd >= 0) close(fd);
    let_signals(&before);
    g_free(between);
    g_free(name);
    g_free(folder);
    return error == 0 ? BL_OK : tell(target, "", error, sink);
}

bl_status replace_one(const char *path, const void *bytes, size_t count, const bl_sink *sink)
{
    char *target = target_of(path);
    struct stat old;
    bl_status status = BL_OK;
    bool there = stat(target, &old) == 0;
    if (!there && errno != ENOENT) /* a link that leads to itself, a folder that is none */
        status = tell(path, "", errno, sink);
    else if (there && S_ISDIR(old.st_mode))
        status = tell(path, "", EISDIR, sink);
    else if (there && !S_ISREG(old.st_mode))
        status = write_device(target, bytes, count, sink);
    else {
        if (there) status = check_target(target, &old, sink);
        if (status == BL_OK) status = put_file(target, there ? &old : NULL, bytes, count, sink);
    }
    g_free(target);
    return status;
}

bool replace_same(const char *a, const char *b)
{
    struct stat x, y;
    bool has_x = stat(a, &x) == 0, has_y = stat(b, &y) == 0;
    if (has_x != has_y) return false;
    if (has_x) return x.st_dev == y.st_dev && x.st_ino == y.st_ino && S_ISREG(x.st_mode);
    char *target_a = target_of(a), *target_b = target_of(b);
    char *folder_a = g_path_get_dirname(target_a), *folder_b = g_path_get_dirname(target_b);
    char *name_a = g_path_get_basename(target_a), *name_b = g_path_get_basename(target_b);
    bool same = strcmp(name_a, name_b) == 0 && stat(folder_a, &x) == 0 && stat(folder_b, &y) == 0 &&
                x.st_dev == y.st_dev && x.st_ino == y.st_ino;
    char *all[] = {target_a, target_b, folder_a, folder_b, name_a, name_b};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++)
        g_free(all[i]);
    return same;
}

/* ---- a set ---- */

typedef struct set {
    const replace_file *files;
    size_t count;
    int *fds;     /* nameless, in the folder's file system */
    char *folder; /* without symbolic links */
    char *fresh;  /* the folder that takes its place */
    const bl_sink *sink;
} set;

static bool is_of_set(const set *s, const char *name)
{
    for (size_t i = 0; i < s->count; i++)
        if (strcmp(s->files[i].name, name) == 0) return true;
    return false;
}

/* Can the folder be exchanged? Not when it holds other folders or links of our names, and not when
 * somebody stands in it: we ourselves. */
static bool can_exchange(const set *s)
{
    struct stat here, folder;
    if (stat(s->folder, &folder) != 0) return false;
    char *current = g_get_current_dir();
    bool good = true;
    for (char *at = g_strdup(current), *up; good; at = up) { /* the current folder, and above */
        good = stat(at, &here) != 0 || here.st_ino != folder.st_ino || here.st_dev != folder.st_dev;
        up = g_path_get_dirname(at);
        bool top = strcmp(up, at) == 0;
        g_free(at);
        if (top || !good) {
            g_free(up);
            break;
        }
    }
    g_free(current);
    GDir *d = good ? g_dir_open(s->folder, 0, NULL) : NULL;
    good = good && d != NULL;
    for (const char *name; good && (name = g_dir_read_name(d)) != NULL;) {
        char *path = g_build_filename(s->folder, name, NULL);
        good = lstat(path, &here) == 0 && !S_ISDIR(here.st_mode) &&
               (S_ISREG(here.st_mode) || !is_of_set(s, name));
        g_free(path);
    }
    if (d != NULL) g_dir_close(d);
    return good;
}

/* All files of the set, whole and without a name. */
static bl_status fill_set(set *s)
{
    for (size_t i = 0; i < s->count; i++) {
        const replace_file *f = &s->files[i];
        char *path = g_build_filename(s->folder, f->name, NULL);
        struct stat old;
        bool there = stat(path, &old) == 0;
        bl_status status = there ? check_target(path, &old, s->sink) : BL_OK;
        if (status == BL_OK) {
            s->fds[i] = open(s->folder, O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666);
            if (s->fds[i] < 0)
                status = BL_E_UNSUPPORTED;
            else if (!fill(s->fds[i], there ? &old : NULL, f->bytes, f->count))
                status = tell(path, "", errno, s->sink);
        }
        g_free(path);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

/* What else lies in the folder is there under the same name in the fresh one. */
static bool link_others(const set *s)
{
    GDir *d = g_dir_open(s->folder, 0, NULL);
    bool good = d != NULL;
    for (const char *name; good && (name = g_dir_read_name(d)) != NULL;) {
        if (is_of_set(s, name) || g_str_has_prefix(name, temporary)) continue;
        char *from = g_build_filename(s->folder, name, NULL);
        char *to = g_build_filename(s->fresh, name, NULL);
        good = linkat(AT_FDCWD, from, AT_FDCWD, to, 0) == 0;
        g_free(from);
        g_free(to);
    }
    if (d != NULL) g_dir_close(d);
    return good;
}

static bool link_set(const set *s)
{
    bool good = true;
    for (size_t i = 0; i < s->count && good; i++) {
        char *to = g_build_filename(s->fresh, s->files[i].name, NULL);
        good = link_name(s->fds[i], NULL, to);
        g_free(to);
    }
    return good;
}

static int exchange_now(void *context)
{
    const set *s = context;
    struct stat old;
    bool good = stat(s->folder, &old) == 0 && g_mkdir(s->fresh, 0700) == 0;
    good = good && link_others(s) && link_set(s);
    if (good && chown(s->fresh, old.st_uid, old.st_gid) != 0) errno = 0;
    good = good && chmod(s->fresh, old.st_mode & 07777) == 0 &&
           renameat2(AT_FDCWD, s->fresh, AT_FDCWD, s->folder, RENAME_EXCHANGE) == 0;
    remove_temporary(s->fresh); /* now the old one; or what could not be finished */
    return good ? 0 : EIO;
}

/* The moment in which all is new. BL_E_UNSUPPORTED: it cannot be done here; all is old. */
static bl_status exchange(set *s)
{
    sigset_t before;
    char *above = g_path_get_dirname(s->folder);
    replace_clean(above);
    s->fresh = temporary_name(above);
    hold_signals(&before);
    int error = do_whole(exchange_now, s);
    let_signals(&before);
    g_free(above);
    return error == 0 ? BL_OK : BL_E_UNSUPPORTED;
}

/* Where folders cannot be exchanged: one file after the other. */
static bl_status replace_each(const set *s)
{
    bl_status status = BL_OK;
    sigset_t before;
    for (size_t i = 0; i < s->count && status == BL_OK; i++) { /* what is sure to fail, first */
        struct stat old;
        char *path = g_build_filename(s->folder, s->files[i].name, NULL);
        if (stat(path, &old) == 0 && S_ISREG(old.st_mode))
            status = check_target(path, &old, s->sink);
        g_free(path);
    }
    hold_signals(&before);
    for (size_t i = 0; i < s->count && status == BL_OK; i++) {
        char *path = g_build_filename(s->folder, s->files[i].name, NULL);
        status = replace_one(path, s->files[i].bytes, s->files[i].count, s->sink);
        g_free(path);
    }
    let_signals(&before);
    return status;
}

bl_status replace_set(const char *folder, const replace_file *files, size_t count,
                      const bl_sink *sink)
{
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        bl_report(sink, BL_ERROR, folder, 0, NULL, "this folder cannot be made: %s",
                  g_strerror(errno));
        return BL_E_IO;
    }
    char *real = realpath(folder, NULL);
    if (real == NULL) return tell(folder, "", errno, sink);
    set s = {files, count, g_new(int, count + 1), real, NULL, sink};
    for (size_t i = 0; i < count; i++)
        s.fds[i] = -1;
    replace_clean(s.folder);
    bl_status status = can_exchange(&s) ? fill_set(&s) : BL_E_UNSUPPORTED;
    if (status == BL_OK) status = exchange(&s);
    for (size_t i = 0; i < count; i++)
        if (s.fds[i] >= 0) close(s.fds[i]);
    if (status == BL_E_UNSUPPORTED) status = replace_each(&s);
    g_free(s.fds);
    g_free(s.fresh);
    free(real);
    return status;
}

/* ---- a folder that is new ---- */

static bool write_inside(const char *folder, const replace_file *f)
{
    char *path = g_build_filename(folder, f->name, NULL);
    int fd = open(path, O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666);
    bool good = fd >= 0 && write_all(fd, f->bytes, f->count);
    if (fd >= 0 && close(fd) != 0) good = false;
    g_free(path);
    return good;
}

static int make_fresh(void *context)
{
    const set *s = context;
    bool good = g_mkdir(s->fresh, 0777) == 0;
    for (size_t i = 0; i < s->count && good; i++)
        good = write_inside(s->fresh, &s->files[i]);
    if (good && renameat2(AT_FDCWD, s->fresh, AT_FDCWD, s->folder, RENAME_NOREPLACE) == 0) return 0;
    int error = errno;
    if (good && error == EINVAL && rename(s->fresh, s->folder) == 0)
        return 0; /* no such call here */
    remove_temporary(s->fresh);
    return error;
}

bl_status replace_fresh(const char *folder, const replace_file *files, size_t count,
                        const bl_sink *sink)
{
    sigset_t before;
    char *path = g_strdup(folder), *above;
    while (strlen(path) > 1 && g_str_has_suffix(path, "/"))
        path[strlen(path) - 1] = '\0';
    above = g_path_get_dirname(path);
    set s = {files, count, NULL, path, temporary_name(above), sink};
    int error = g_file_test(path, G_FILE_TEST_EXISTS) || g_file_test(path, G_FILE_TEST_IS_SYMLINK)
                    ? EEXIST
                    : 0;
    if (error == 0) {
        replace_clean(above);
        hold_signals(&before);
        error = do_whole(make_fresh, &s);
        let_signals(&before);
    }
    bool taken = error == EEXIST || error == ENOTEMPTY;
    if (error != 0)
        bl_report(
            sink, BL_ERROR, folder, 0, taken ? "nothing is overwritten: choose another name" : NULL,
            taken ? "there is something of this name already" : "this folder cannot be made: %s",
            g_strerror(error));
    g_free(s.fresh);
    g_free(above);
    g_free(path);
    return error == 0 ? BL_OK : taken ? BL_E_BUSY : BL_E_IO;
}

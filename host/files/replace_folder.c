/* replace_folder.c - a folder's files, exchanged at once. */
#define _GNU_SOURCE /* O_TMPFILE, renameat2 */
#include "replace.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "replace_steps.h"

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
        bl_status status = there ? replace_check(path, &old, s->sink) : BL_OK;
        if (status == BL_OK) {
            s->fds[i] = open(s->folder, O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666);
            if (s->fds[i] < 0)
                status = BL_E_UNSUPPORTED;
            else if (!replace_fill(s->fds[i], there ? &old : NULL, f->bytes, f->count))
                status = replace_tell(path, "", errno, s->sink);
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
        if (is_of_set(s, name) || g_str_has_prefix(name, replace_prefix)) continue;
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
        good = replace_link(s->fds[i], NULL, to);
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
    replace_remove(s->fresh); /* now the old one; or what could not be finished */
    return good ? 0 : EIO;
}

/* The moment in which all is new. BL_E_UNSUPPORTED: it cannot be done here; all is old. */
static bl_status exchange_folders(set *s)
{
    sigset_t before;
    char *above = g_path_get_dirname(s->folder);
    replace_clean(above);
    s->fresh = replace_temporary(above);
    replace_hold_signals(&before);
    int error = replace_apart(exchange_now, s);
    replace_let_signals(&before);
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
            status = replace_check(path, &old, s->sink);
        g_free(path);
    }
    replace_hold_signals(&before);
    for (size_t i = 0; i < s->count && status == BL_OK; i++) {
        char *path = g_build_filename(s->folder, s->files[i].name, NULL);
        status = replace_one(path, s->files[i].bytes, s->files[i].count, s->sink);
        g_free(path);
    }
    replace_let_signals(&before);
    return status;
}

/* All new files are whole before the first takes its name; the rest is a process that is not
 * killed along. */
bl_status replace_set(const char *folder, const replace_file *files, size_t count,
                      const bl_sink *sink)
{
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        bl_report(sink, BL_ERROR, folder, 0, NULL, "this folder cannot be made: %s",
                  g_strerror(errno));
        return BL_E_IO;
    }
    char *real = realpath(folder, NULL);
    if (real == NULL) return replace_tell(folder, "", errno, sink);
    set s = {files, count, g_new(int, count + 1), real, NULL, sink};
    for (size_t i = 0; i < count; i++)
        s.fds[i] = -1;
    replace_clean(s.folder);
    bl_status status = can_exchange(&s) ? fill_set(&s) : BL_E_UNSUPPORTED;
    if (status == BL_OK) status = exchange_folders(&s);
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
    bool good = fd >= 0 && replace_write(fd, f->bytes, f->count);
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
    replace_remove(s->fresh);
    return error;
}

/* A folder that must not be there is made beside, and gets its name in one step. */
bl_status replace_fresh(const char *folder, const replace_file *files, size_t count,
                        const bl_sink *sink)
{
    sigset_t before;
    char *path = g_strdup(folder), *above;
    while (strlen(path) > 1 && g_str_has_suffix(path, "/"))
        path[strlen(path) - 1] = '\0';
    above = g_path_get_dirname(path);
    set s = {files, count, NULL, path, replace_temporary(above), sink};
    int error = g_file_test(path, G_FILE_TEST_EXISTS) || g_file_test(path, G_FILE_TEST_IS_SYMLINK)
                    ? EEXIST
                    : 0;
    if (error == 0) {
        replace_clean(above);
        replace_hold_signals(&before);
        error = replace_apart(make_fresh, &s);
        replace_let_signals(&before);
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

/* replace.c - one file, replaced whole. */
#define _GNU_SOURCE /* O_TMPFILE, renameat2 */
#include "replace.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "replace_steps.h"

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
    int fd = open(folder, O_TMPFILE | O_RDWR | O_CLOEXEC, 0666);
    if (fd >= 0 || (errno != EOPNOTSUPP && errno != EISDIR && errno != EINVAL && errno != ENOENT))
        return fd;
    *name = replace_temporary(folder);
    return open(*name, O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, 0666);
}

static bl_status write_device(const char *path, const void *bytes, size_t count,
                              const bl_sink *sink)
{
    int fd = open(path, O_WRONLY | O_CLOEXEC | O_NOCTTY);
    bool good = fd >= 0 && replace_write(fd, bytes, count);
    int error = errno;
    if (fd >= 0 && close(fd) != 0 && good) good = false, error = errno;
    return good ? BL_OK : replace_tell(path, "", error, sink);
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
    if (n->name == NULL && !replace_link(n->fd, NULL, n->between)) return errno;
    const char *name = n->name != NULL ? n->name : n->between;
    if (rename(name, n->target) == 0) return 0;
    int error = errno;
    unlink(name);
    return error;
}

/* What is to be in a file: filled in by somebody, or bytes. */
typedef struct contents {
    int (*fill)(int fd, void *context);
    void *context;
    const void *bytes;
    size_t count;
} contents;

static int fill_contents(int fd, const struct stat *old, const contents *c)
{
    int error = c->fill != NULL ? c->fill(fd, c->context) : 0;
    bool good = error == 0 && (c->fill != NULL ? replace_keep(fd, old)
                                               : replace_fill(fd, old, c->bytes, c->count));
    return good ? 0 : error != 0 ? error : errno != 0 ? errno : EIO;
}

/* The file has no name until it is whole; the step that gives it one is another process's, which
 * is not killed along. */
static bl_status put_file(const char *target, const struct stat *old, const contents *c,
                          const bl_sink *sink)
{
    char *folder = g_path_get_dirname(target), *name, *between = replace_temporary(folder);
    sigset_t before;
    int error = 0;
    replace_clean(folder);
    replace_hold_signals(&before);
    int fd = open_nameless(folder, &name);
    error = fd >= 0 ? fill_contents(fd, old, c) : errno;
    naming n = {fd, name, between, target};
    /* Where nothing was it needs no other name first. */
    bool named = error == 0 && old == NULL && name == NULL && replace_link(fd, NULL, target);
    if (error == 0 && !named) error = replace_apart(give_name, &n);
    if (error != 0 && name != NULL) g_unlink(name);
    if (fd >= 0) close(fd);
    replace_let_signals(&before);
    g_free(between);
    g_free(name);
    g_free(folder);
    return error == 0 ? BL_OK : replace_tell(target, "", error, sink);
}

static bl_status replace_contents(const char *path, const contents *c, const bl_sink *sink)
{
    char *target = target_of(path);
    struct stat old;
    bl_status status = BL_OK;
    bool there = stat(target, &old) == 0;
    if (!there && errno != ENOENT) /* a link that leads to itself, a folder that is none */
        status = replace_tell(path, "", errno, sink);
    else if (there && S_ISDIR(old.st_mode))
        status = replace_tell(path, "", EISDIR, sink);
    else if (there && !S_ISREG(old.st_mode))
        status = c->fill != NULL ? replace_tell(path, "", EINVAL, sink)
                                 : write_device(target, c->bytes, c->count, sink);
    else {
        if (there) status = replace_check(target, &old, sink);
        if (status == BL_OK) status = put_file(target, there ? &old : NULL, c, sink);
    }
    g_free(target);
    return status;
}

bl_status replace_one(const char *path, const void *bytes, size_t count, const bl_sink *sink)
{
    contents c = {.bytes = bytes, .count = count};
    return replace_contents(path, &c, sink);
}

bl_status replace_by(const char *path, int (*fill)(int fd, void *context), void *context,
                     const bl_sink *sink)
{
    contents c = {.fill = fill, .context = context};
    return replace_contents(path, &c, sink);
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

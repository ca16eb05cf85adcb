/* disk_image.c - sectors of a file, with what is written kept apart until it is all there. */
#define _GNU_SOURCE /* copy_file_range, SEEK_DATA */
#include "disk_image.h"

#include <errno.h>
#include <fcntl.h>
#include <linux/fs.h>
#include <stdio.h>
#include <string.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "files/replace.h"

enum { UNWRITTEN = 0xE5 }; /* what a disk holds that was formatted, and nothing else */

/* ---- sectors ---- */

static bool read_at(int fd, void *bytes, size_t count, uint64_t at)
{
    for (uint8_t *to = bytes; count > 0;) {
        ssize_t n = pread(fd, to, count, (off_t)at);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        to += n, count -= (size_t)n, at += (uint64_t)n;
    }
    return true;
}

static bool write_at(int fd, const void *bytes, size_t count, uint64_t at)
{
    for (const uint8_t *from = bytes; count > 0;) {
        ssize_t n = pwrite(fd, from, count, (off_t)at);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        from += n, count -= (size_t)n, at += (uint64_t)n;
    }
    return true;
}

static bl_status status_of(int error)
{
    switch (error) {
    case EROFS:
    case EACCES:
    case EBADF:
    case EPERM: return BL_E_PROTECTED;
    case ENOMEDIUM:
    case ENXIO:
    case ENODEV: return BL_E_NOT_READY;
    default: return BL_E_IO;
    }
}

static bl_status read_sector(void *context, uint32_t sector, uint8_t *bytes)
{
    const disk_image *i = context;
    uint16_t size = i->sectors.size;
    const void *written = g_hash_table_lookup(i->changed, GUINT_TO_POINTER(sector));
    if (sector >= i->sectors.count) return BL_E_RANGE;
    if (written != NULL) {
        memcpy(bytes, written, size);
        return BL_OK;
    }
    if (i->fd < 0 || (uint64_t)sector * size >= i->stored) {
        memset(bytes, i->fd < 0 ? 0 : UNWRITTEN, size);
        return BL_OK;
    }
    errno = 0;
    return read_at(i->fd, bytes, size, (uint64_t)sector * size) ? BL_OK : status_of(errno);
}

static bl_status write_sector(void *context, uint32_t sector, const uint8_t *bytes)
{
    disk_image *i = context;
    uint16_t size = i->sectors.size;
    if (sector >= i->sectors.count) return BL_E_RANGE;
    if (!i->in_place) {
        g_hash_table_insert(i->changed, GUINT_TO_POINTER(sector), g_memdup2(bytes, size));
        return BL_OK;
    }
    errno = 0;
    return write_at(i->fd, bytes, size, (uint64_t)sector * size) ? BL_OK : status_of(errno);
}

/* ---- opening ---- */

static void begin_sectors(disk_image *i, uint16_t sector)
{
    i->changed = g_hash_table_new_full(NULL, NULL, NULL, g_free);
    i->stored = i->bytes;
    i->sectors = (bl_sectors){i, read_sector, write_sector, (uint32_t)(i->bytes / sector), sector};
}

void disk_image_new(uint64_t bytes, uint16_t sector, disk_image *i)
{
    *i = (disk_image){.fd = -1, .bytes = bytes};
    begin_sectors(i, sector);
}

void disk_image_extend(disk_image *i, uint64_t bytes)
{
    if (bytes <= i->bytes || i->in_place) return;
    i->bytes = bytes;
    if (bytes % i->sectors.size != 0) i->sectors.size = 128;
    i->sectors.count = (uint32_t)(bytes / i->sectors.size);
}

static bl_status tell_image(const bl_sink *sink, bl_status status, const char *path, int error)
{
    bl_report(sink, BL_ERROR, path, 0, NULL, "cannot open: %s", g_strerror(error));
    return status;
}

static void stamp_of(const struct stat *s, uint64_t stamp[4])
{
    stamp[0] = (uint64_t)s->st_ino, stamp[1] = (uint64_t)s->st_size;
    stamp[2] = (uint64_t)s->st_mtim.tv_sec, stamp[3] = (uint64_t)s->st_mtim.tv_nsec;
}

/* How long it is: of a device the file system does not know. */
static bool measure_image(disk_image *i, const struct stat *s)
{
    if (S_ISREG(s->st_mode)) {
        i->bytes = (uint64_t)s->st_size;
        return true;
    }
    off_t end = lseek(i->fd, 0, SEEK_END);
    i->device = true;
    i->bytes = end > 0 ? (uint64_t)end : 0;
    return end > 0;
}

static bl_status check_image(disk_image *i, uint16_t *sector, const bl_sink *sink)
{
    if (*sector == 0) *sector = i->bytes % 512 == 0 ? 512 : 128;
    if (i->bytes > 0 && i->bytes % *sector == 0 && i->bytes / *sector <= UINT32_MAX) return BL_OK;
    bl_report(sink, BL_ERROR, i->path, 0, "it was cut off, or is no image of a disk",
              i->bytes == 0 ? "it is empty" : "its %llu bytes are no whole sectors of %u bytes",
              (unsigned long long)i->bytes, *sector);
    return BL_E_SYNTAX;
}

/* Who holds the lock, from the kernel's list; 0: not known. */
static long holder_of(const struct stat *s)
{
    char line[200];
    long holder = 0;
    FILE *list = fopen("/proc/locks", "re");
    while (list != NULL && holder == 0 && fgets(line, sizeof line, list) != NULL) {
        long process;
        unsigned major, minor;
        unsigned long long inode;
        if (sscanf(line, "%*d: FLOCK %*s WRITE %ld %x:%x:%llu", &process, &major, &minor, &inode) ==
                4 &&
            inode == (unsigned long long)s->st_ino)
            holder = process;
    }
    if (list != NULL) fclose(list);
    return holder;
}

static bool try_lock(int fd, disk_access access, unsigned milliseconds)
{
    enum { PAUSE = 10 };
    for (unsigned waited = 0;; waited += PAUSE) {
        if (flock(fd, (access == DISK_CHANGES ? LOCK_EX : LOCK_SH) | LOCK_NB) == 0) return true;
        if (errno != EWOULDBLOCK && errno != EINTR) return true; /* this file system has no locks */
        if (waited >= milliseconds) return false;
        g_usleep(PAUSE * 1000);
    }
}

/* Two that change an image at once would each put back what the other has changed. */
static bl_status lock_image(const disk_image *i, const struct stat *s, disk_access access,
                            const bl_sink *sink)
{
    if (try_lock(i->fd, access, access == DISK_CHANGES ? 3000 : 1000)) return BL_OK;
    long holder = holder_of(s);
    char who[40] = "another process";
    if (holder > 0) g_snprintf(who, sizeof who, "process %ld", holder);
    if (access == DISK_CHANGES)
        bl_report(sink, BL_ERROR, i->path, 0, "wait for it, or end it; nothing was changed",
                  "%s is changing this image", who);
    else
        bl_report(sink, BL_WARNING, i->path, 0, "read it again when that is over",
                  "%s is changing this image: what is read may be half of a change", who);
    return access == DISK_CHANGES ? BL_E_BUSY : BL_OK;
}

static bl_status open_once(const char *path, uint16_t sector, bool in_place, disk_access access,
                           const bl_sink *sink, disk_image *i)
{
    struct stat s;
    *i = (disk_image){.fd = -1};
    int flags = O_CLOEXEC | O_NOCTTY;
    if (stat(path, &s) != 0)
        return tell_image(sink, errno == ENOENT ? BL_E_NOT_FOUND : BL_E_IO, path, errno);
    bool device = S_ISBLK(s.st_mode);
    if (!device && !S_ISREG(s.st_mode)) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "this is neither a file nor a disk device");
        return BL_E_IO;
    }
    i->in_place = in_place || device;
    i->fd = open(path, (i->in_place ? O_RDWR | (device ? O_SYNC : 0) : O_RDONLY) | flags);
    /* What cannot be written to can be looked at: writing then fails, and says so. */
    if (i->fd < 0 && i->in_place) i->fd = open(path, O_RDONLY | flags);
    if (i->fd < 0) return tell_image(sink, BL_E_IO, path, errno);
    i->path = g_strdup(path);
    bl_status status = lock_image(i, &s, access, sink);
    if (status == BL_OK && fstat(i->fd, &s) != 0) status = tell_image(sink, BL_E_IO, path, errno);
    stamp_of(&s, i->stamp);
    if (status == BL_OK)
        status = measure_image(i, &s) ? check_image(i, &sector, sink)
                                      : tell_image(sink, BL_E_IO, path, EIO);
    if (status == BL_OK) {
        begin_sectors(i, sector);
        host_note_read(path);
        return BL_OK;
    }
    disk_image_close(i);
    return status;
}

/* While the lock was waited for another file may have taken the place of this one. */
bl_status disk_image_open(const char *path, uint16_t sector, bool in_place, disk_access access,
                          const bl_sink *sink, disk_image *i)
{
    for (;;) {
        struct stat s;
        bl_status status = open_once(path, sector, in_place, access, sink, i);
        if (status != BL_OK || stat(path, &s) != 0 || (uint64_t)s.st_ino == i->stamp[0])
            return status;
        disk_image_close(i);
    }
}

void disk_image_close(disk_image *i)
{
    if (i->fd >= 0) close(i->fd);
    if (i->changed != NULL) g_hash_table_destroy(i->changed);
    g_free(i->path);
    *i = (disk_image){.fd = -1};
}

/* ---- putting it in place ---- */

/* Copies the runs of a file that hold something: what was never written stays so. */
static int copy_runs(int from, int to, uint64_t bytes)
{
    off_t at = 0;
    while ((uint64_t)at < bytes) {
        off_t data = lseek(from, at, SEEK_DATA), hole;
        if (data < 0) return errno == ENXIO ? 0 : errno; /* nothing but a hole is left */
        hole = lseek(from, data, SEEK_HOLE);
        if (hole < 0) return errno;
        off_t source = data, target = data;
        for (size_t left = (size_t)(hole - data); left > 0;) {
            ssize_t n = copy_file_range(from, &source, to, &target, left, 0);
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) return errno;
            if (n == 0) return EIO;
            left -= (size_t)n;
        }
        at = hole;
    }
    return 0;
}

/* Where the kernel cannot copy for us. */
static int copy_plainly(int from, int to, uint64_t bytes)
{
    enum { PIECE = 1 << 20 };
    uint8_t *piece = g_malloc(PIECE);
    int error = 0;
    for (uint64_t at = 0; at < bytes && error == 0; at += PIECE) {
        size_t count = (size_t)MIN(bytes - at, PIECE);
        errno = 0;
        if (!read_at(from, piece, count, at) || !write_at(to, piece, count, at))
            error = errno != 0 ? errno : EIO;
    }
    g_free(piece);
    return error;
}

/* What lies behind what the file has, and nobody wrote. */
static int fill_rest(int fd, const disk_image *i)
{
    uint8_t bytes[4096];
    memset(bytes, UNWRITTEN, sizeof bytes);
    for (uint64_t at = i->stored; at < i->bytes; at += sizeof bytes) {
        errno = 0;
        if (!write_at(fd, bytes, (size_t)MIN(i->bytes - at, sizeof bytes), at))
            return errno != 0 ? errno : EIO;
    }
    return 0;
}

/* All that was there, and over it what was written; then what was written is read again. */
static int fill_image(int fd, void *context)
{
    const disk_image *i = context;
    uint16_t size = i->sectors.size;
    uint8_t *back = g_malloc(size);
    GHashTableIter all;
    gpointer sector, bytes;
    int error = ftruncate(fd, (off_t)i->bytes) == 0 ? 0 : errno;
    if (error == 0 && i->fd >= 0 && ioctl(fd, FICLONE, i->fd) != 0) {
        error = copy_runs(i->fd, fd, i->stored);
        if (error != 0) error = copy_plainly(i->fd, fd, i->stored);
    }
    if (error == 0) error = fill_rest(fd, i);
    for (unsigned turn = 0; turn < 2 && error == 0; turn++) {
        g_hash_table_iter_init(&all, i->changed);
        while (error == 0 && g_hash_table_iter_next(&all, &sector, &bytes)) {
            uint64_t at = (uint64_t)GPOINTER_TO_UINT(sector) * size;
            errno = 0;
            bool good = turn == 0 ? write_at(fd, bytes, size, at)
                                  : read_at(fd, back, size, at) && memcmp(back, bytes, size) == 0;
            if (!good) error = errno != 0 ? errno : EIO;
        }
    }
    g_free(back);
    return error;
}

bl_status disk_image_commit(disk_image *i, const char *path, const bl_sink *sink)
{
    struct stat s;
    uint64_t stamp[4];
    if (i->in_place) {
        if (fsync(i->fd) == 0) return BL_OK;
        bl_report(sink, BL_ERROR, i->path, 0, NULL, "cannot write: %s", g_strerror(errno));
        return BL_E_IO;
    }
    bool same = i->path != NULL && strcmp(path, i->path) == 0;
    if (same && g_hash_table_size(i->changed) == 0) return BL_OK;
    if (same && stat(path, &s) == 0) {
        stamp_of(&s, stamp);
        if (memcmp(stamp, i->stamp, sizeof stamp) != 0) {
            bl_report(sink, BL_ERROR, path, 0, "nothing was changed by this command; do it again",
                      "somebody else has changed this image meanwhile");
            return BL_E_BUSY;
        }
    }
    return replace_by(path, fill_image, i, sink);
}

bl_status disk_image_copy(const disk_image *from, disk_image *to, const bl_sink *sink)
{
    uint16_t size = from->sectors.size;
    uint8_t *bytes = g_malloc(size), *back = g_malloc(size);
    bl_status status = BL_OK;
    uint32_t i = 0;
    if (size != to->sectors.size || from->sectors.count > to->sectors.count) status = BL_E_FULL;
    for (; i < from->sectors.count && status == BL_OK; i++) {
        status = from->sectors.read(from->sectors.context, i, bytes);
        if (status == BL_OK) status = to->sectors.write(to->sectors.context, i, bytes);
        if (status == BL_OK) status = to->sectors.read(to->sectors.context, i, back);
        if (status == BL_OK && memcmp(bytes, back, size) != 0) status = BL_E_DIFFERS;
    }
    if (status == BL_E_FULL)
        bl_report(sink, BL_ERROR, to->path, 0, NULL, "it is smaller than the template");
    else if (status != BL_OK)
        bl_report(sink, BL_ERROR, to->path, 0, NULL, "sector %u: %s", i - 1,
                  bl_status_text(status));
    g_free(bytes);
    g_free(back);
    return status;
}

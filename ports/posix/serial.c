/* serial.c - termios, poll, and the monotonic clock. */
#include "serial.h"

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <string.h>
#include <sys/ioctl.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

static bool speed_of(uint32_t baud, speed_t *speed)
{
    static const struct {
        uint32_t baud;
        speed_t speed;
    } known[] = {
        {300, B300},     {600, B600},       {1200, B1200},     {2400, B2400},
        {4800, B4800},   {9600, B9600},     {19200, B19200},   {38400, B38400},
        {57600, B57600}, {115200, B115200}, {230400, B230400},
    };
    for (size_t i = 0; i < sizeof known / sizeof known[0]; i++) {
        if (known[i].baud != baud) continue;
        *speed = known[i].speed;
        return true;
    }
    return false;
}

static bl_status configure(int file, uint32_t baud)
{
    struct termios t;
    speed_t speed;
    if (!speed_of(baud, &speed)) {
        errno = EINVAL;
        return BL_E_UNSUPPORTED;
    }
    if (tcgetattr(file, &t) != 0) return BL_E_UNSUPPORTED;
    cfmakeraw(&t);
    t.c_cflag |= CLOCAL | CREAD;
    t.c_cflag &= (tcflag_t) ~(CSTOPB | PARENB | CRTSCTS);
    t.c_cc[VMIN] = 1; /* so that "nothing yet" (EAGAIN) and "hung up" (0 bytes) differ */
    t.c_cc[VTIME] = 0;
    if (cfsetispeed(&t, speed) != 0 || cfsetospeed(&t, speed) != 0) return BL_E_UNSUPPORTED;
    if (tcsetattr(file, TCSANOW, &t) != 0) return BL_E_IO;
    tcflush(file, TCIOFLUSH);
    return BL_OK;
}

/* What a killed program has left exclusive is free again within milliseconds where somebody holds
 * the other end, so a second look is worth it. */
static int open_free(const char *path)
{
    struct timespec pause = {0, 20 * 1000 * 1000};
    int file = -1;
    for (unsigned i = 0; i < 10; i++) {
        file = open(path, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
        if (file >= 0 ? !posix_lock_exclusive(file) : errno != EBUSY) break;
        if (i == 9) break;
        if (file >= 0) close(file);
        nanosleep(&pause, NULL);
    }
    return file;
}

bl_status posix_serial_open(posix_serial *s, const char *path, uint32_t baud)
{
    s->file = open_free(path);
    if (s->file < 0) return errno == ENOENT ? BL_E_NOT_FOUND : errno == EBUSY ? BL_E_BUSY : BL_E_IO;
    bl_status status = isatty(s->file) ? BL_OK : BL_E_UNSUPPORTED;
    /* One program owns the port; a second one would steal bytes, or change the rate. */
    if (status == BL_OK) status = posix_lock_take(&s->lock, s->file, path);
    bool locked = status == BL_OK;
    if (status == BL_OK) status = configure(s->file, baud);
    if (status != BL_OK) {
        int kept = errno;
        if (locked) posix_lock_release(&s->lock, s->file);
        close(s->file);
        errno = kept;
        s->file = -1;
    }
    return status;
}

void posix_serial_close(posix_serial *s)
{
    if (s->file < 0) return;
    posix_lock_release(&s->lock, s->file);
    close(s->file);
    s->file = -1;
}

bl_status posix_serial_rate(posix_serial *s, uint32_t baud)
{
    return configure(s->file, baud);
}

/* The system takes a break for a pseudo-terminal without an error, and drops it. */
bl_status posix_serial_break(posix_serial *s)
{
    char name[64];
    if (ttyname_r(s->file, name, sizeof name) == 0 && strncmp(name, "/dev/pts/", 9) == 0)
        return BL_E_UNSUPPORTED;
    return tcsendbreak(s->file, 0) == 0 ? BL_OK : BL_E_IO;
}

static bl_status send_bytes(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    posix_serial *s = context;
    ssize_t n = write(s->file, bytes, count);
    *taken = n > 0 ? (size_t)n : 0;
    return n >= 0 || errno == EAGAIN || errno == EINTR ? BL_OK : BL_E_IO;
}

static bl_status receive_bytes(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    posix_serial *s = context;
    ssize_t n = capacity > 0 ? read(s->file, bytes, capacity) : 1;
    *got = n > 0 && capacity > 0 ? (size_t)n : 0;
    return n > 0 || (n < 0 && (errno == EAGAIN || errno == EINTR)) ? BL_OK : BL_E_IO;
}

static bl_status wait_bytes(void *context, uint32_t microseconds)
{
    posix_serial *s = context;
    struct pollfd p = {.fd = s->file, .events = POLLIN};
    int n = poll(&p, 1, (int)((microseconds + 999) / 1000));
    if (n < 0 && errno != EINTR) return BL_E_IO;
    if (n > 0 && (p.revents & POLLIN) == 0 && (p.revents & (POLLHUP | POLLERR | POLLNVAL)) != 0)
        return BL_E_IO;
    return BL_OK;
}

/* Looks every few milliseconds: tcdrain would wait for ever where a handshake holds the bytes. */
static bl_status drain_bytes(void *context, uint32_t microseconds)
{
    posix_serial *s = context;
    for (uint32_t waited = 0;; waited += 2000) {
        int held = 0;
        struct pollfd p = {.fd = s->file};
        if (ioctl(s->file, TIOCOUTQ, &held) != 0) return BL_E_IO;
        int n = poll(&p, 1, held > 0 && waited < microseconds ? 2 : 0);
        if (n > 0 && (p.revents & (POLLHUP | POLLERR | POLLNVAL)) != 0) return BL_E_IO;
        if (held == 0) return BL_OK;
        if (waited >= microseconds) return BL_E_BUSY;
    }
}

static uint64_t now_us(void *context)
{
    struct timespec t;
    (void)context;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return (uint64_t)t.tv_sec * 1000000u + (uint64_t)t.tv_nsec / 1000u;
}

bl_serial posix_serial_port(posix_serial *s)
{
    return (bl_serial){.context = s,
                       .send = send_bytes,
                       .receive = receive_bytes,
                       .wait = wait_bytes,
                       .now = now_us,
                       .drain = drain_bytes};
}

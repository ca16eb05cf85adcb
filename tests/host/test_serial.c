/* The posix port over a pseudo-terminal: what goes in comes out, and what goes wrong is told apart.
 */
#include "harness.h"
#include "posix/pty.h"
#include "posix/serial.h"
#include <stdio.h>
#include <string.h>
#include <sys/time.h>
#include <unistd.h>

TEST(bytes_cross_a_pseudo_terminal_unchanged)
{
    posix_pty pty;
    posix_serial serial;
    uint8_t all[256], got[256];
    size_t taken = 0, n = 0;
    for (unsigned i = 0; i < 256; i++)
        all[i] = (uint8_t)i;
    CHECK_INT(posix_pty_open(&pty), BL_OK);
    CHECK_INT(posix_serial_open(&serial, pty.name, 19200), BL_OK);
    bl_serial port = posix_serial_port(&serial);
    CHECK_INT(port.send(port.context, all, 256, &taken), BL_OK);
    CHECK_INT(taken, 256);
    for (unsigned i = 0; n < 256 && i < 100; i++) {
        posix_pty_wait(&pty, &pty, 20);
        n += posix_pty_read(&pty, got + n, 256 - n);
    }
    CHECK_BYTES(got, n, all, 256);
    CHECK_INT(posix_pty_write(&pty, all, 256), 256);
    for (unsigned i = 0, part = 0; i < 100 && (n = part) < 256; i++) {
        size_t more = 0;
        CHECK_INT(port.wait(port.context, 20000), BL_OK);
        CHECK_INT(port.receive(port.context, got + part, 256 - part, &more), BL_OK);
        part += (unsigned)more;
        n = part;
    }
    CHECK_BYTES(got, n, all, 256);
    posix_serial_close(&serial);
    posix_pty_close(&pty);
}

TEST(waiting_ends_with_the_time_or_with_a_byte)
{
    posix_pty pty;
    posix_serial serial;
    CHECK_INT(posix_pty_open(&pty), BL_OK);
    CHECK_INT(posix_serial_open(&serial, pty.name, 9600), BL_OK);
    bl_serial port = posix_serial_port(&serial);
    uint64_t began = port.now(port.context);
    CHECK_INT(port.wait(port.context, 50000), BL_OK);
    uint64_t waited = port.now(port.context) - began;
    CHECK(waited >= 49000 && waited < 2000000);
    posix_pty_write(&pty, (const uint8_t *)"x", 1);
    began = port.now(port.context);
    CHECK_INT(port.wait(port.context, 5000000), BL_OK);
    CHECK(port.now(port.context) - began < 2000000);
    posix_serial_close(&serial);
    posix_pty_close(&pty);
}

TEST(devices_that_cannot_be_used)
{
    posix_serial serial, second;
    posix_pty pty;
    CHECK_INT(posix_serial_open(&serial, "/dev/there-is-no-such", 9600), BL_E_NOT_FOUND);
    CHECK_INT(posix_serial_open(&serial, "/dev/null", 9600), BL_E_UNSUPPORTED);
    CHECK_INT(posix_pty_open(&pty), BL_OK);
    CHECK_INT(posix_serial_open(&serial, pty.name, 12345), BL_E_UNSUPPORTED);
    CHECK_INT(posix_serial_open(&serial, pty.name, 115200), BL_OK);
    CHECK_INT(posix_serial_open(&second, pty.name, 115200),
              BL_E_BUSY); /* one program owns a port */
    posix_serial_close(&serial);
    CHECK_INT(posix_serial_open(&second, pty.name, 115200), BL_OK);
    bl_serial port = posix_serial_port(&second);
    posix_pty_close(&pty); /* unplugged */
    uint8_t byte;
    size_t n;
    bl_status status = BL_OK;
    for (unsigned i = 0; i < 5 && status == BL_OK; i++) {
        status = port.wait(port.context, 1000);
        if (status == BL_OK) status = port.receive(port.context, &byte, 1, &n);
        if (status == BL_OK) status = port.send(port.context, &byte, 1, &n);
    }
    CHECK_INT(status, BL_E_IO);
    posix_serial_close(&second);
}

/* Unplugged while nobody sends: what had come is still read, then it is an error at once, in wait
 * or in receive, also after bytes have been left unread. */
TEST(a_port_that_is_unplugged_is_noticed_by_listening)
{
    for (unsigned unread = 0; unread < 3; unread++) {
        posix_pty pty;
        posix_serial serial;
        uint8_t bytes[8];
        size_t got = 0, n;
        CHECK_INT(posix_pty_open(&pty), BL_OK);
        CHECK_INT(posix_serial_open(&serial, pty.name, 9600), BL_OK);
        bl_serial port = posix_serial_port(&serial);
        CHECK_INT(port.receive(port.context, bytes, sizeof bytes, &n), BL_OK); /* nothing yet */
        CHECK_INT(n, 0);
        CHECK_INT(port.drain(port.context, 100000), BL_OK);
        CHECK_INT(posix_pty_write(&pty, (const uint8_t *)"ab", unread), unread);
        if (unread > 0) CHECK_INT(port.wait(port.context, 2000000), BL_OK);
        posix_pty_close(&pty);
        bl_status status = BL_OK;
        unsigned turns = 0;
        for (; turns < 10 && status == BL_OK; turns++) {
            n = 0;
            status = port.wait(port.context, 50000);
            if (status == BL_OK) status = port.receive(port.context, bytes, sizeof bytes, &n);
            got += n;
        }
        CHECK_INT(status, BL_E_IO);
        CHECK(turns <= 3 && got <= unread);
        CHECK_INT(port.receive(port.context, bytes, sizeof bytes, &n), BL_E_IO);
        CHECK_INT(port.drain(port.context, 100000), BL_E_IO);
        posix_serial_close(&serial);
    }
}

/* A lock file is believed when its process is there and belongs to whoever made it: in a folder
 * that anybody may write to, anybody could name a process that never ends. */
TEST(lock_files_of_others)
{
    static const struct {
        const char *text;
        bool foreign, old, held;
    } all[] = {{"         1\n", false, false, true},
               {"         1\n", true, false, false},
               {"  99999999\n", false, false, false},
               {"", false, false, true},
               {"", false, true, false},
               {"nobody\n", false, true, false}};
    posix_pty pty;
    posix_serial serial;
    char path[100];
    CHECK_INT(posix_pty_open(&pty), BL_OK);
    const char *base = strrchr(pty.name, '/') + 1;
    snprintf(path, sizeof path, "/run/lock/LCK..%s", base);
    for (size_t i = 0; i < sizeof all / sizeof all[0] && geteuid() == 0; i++) {
        FILE *f = fopen(path, "w");
        if (f == NULL) break; /* no such folder here */
        fputs(all[i].text, f);
        fclose(f);
        if (all[i].foreign) CHECK_INT(chown(path, 12345, 12345), 0);
        struct timeval long_ago[2] = {{1000000, 0}, {1000000, 0}};
        if (all[i].old) CHECK_INT(utimes(path, long_ago), 0);
        bl_status status = posix_serial_open(&serial, pty.name, 9600);
        CHECK_INT(status, all[i].held ? BL_E_BUSY : BL_OK);
        if (status == BL_OK) posix_serial_close(&serial);
        unlink(path);
    }
    posix_pty_close(&pty);
}

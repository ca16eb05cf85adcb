/* peer_xmodem.c - a second XMODEM, written from the protocol's description alone and sharing
 * nothing with the library: it owns a pseudo-terminal, says its name, and then receives or sends
 * one file.
 *
 *   peer-xmodem receive FILE      peer-xmodem send FILE      (old: with checksums only)
 *   peer-xmodem receive-old FILE  peer-xmodem send-old FILE
 */
#define _GNU_SOURCE
#include <fcntl.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

static int line;

static void quit(const char *why)
{
    fprintf(stderr, "peer: %s\n", why);
    exit(1);
}

static int next_byte(int milliseconds)
{
    struct pollfd p = {.fd = line, .events = POLLIN};
    unsigned char c;
    if (poll(&p, 1, milliseconds) <= 0) return -1;
    return read(line, &c, 1) == 1 ? c : -1;
}

static void put_byte(int c)
{
    unsigned char b = (unsigned char)c;
    if (write(line, &b, 1) != 1) quit("cannot write");
}

/* x^16 + x^12 + x^5 + 1, a bit at a time as the text has it: data in front, 16 zeros behind. */
static unsigned remainder_of(const unsigned char *data, int count)
{
    unsigned long reg = 0;
    for (int i = 0; i < count + 2; i++)
        for (int bit = 7; bit >= 0; bit--) {
            unsigned in = i < count ? data[i] >> bit & 1u : 0;
            reg = reg << 1 | in;
            if (reg & 0x10000) reg ^= 0x11021;
        }
    return (unsigned)reg;
}

static void receive_file(FILE *out, int crc)
{
    unsigned char data[1024];
    int expected = 1, ask = crc ? 'C' : 21, begun = 0;
    for (int timeout = 0; timeout < 40; timeout++) {
        put_byte(ask);
        int head = next_byte(1000);
        for (;;) {
            if (head == 4) {
                put_byte(6);
                return;
            }
            if (head != 1 && head != 2) break;
            int size = head == 1 ? 128 : 1024, number = next_byte(1000), other = next_byte(1000);
            unsigned sum = 0, got = 0;
            int i = 0;
            for (int c; i < size && (c = next_byte(1000)) >= 0; i++) {
                data[i] = (unsigned char)c;
                sum += (unsigned)c;
            }
            for (int k = 0; k < (crc ? 2 : 1); k++)
                got = got << 8 | ((unsigned)next_byte(1000) & 0xFF);
            unsigned right = crc ? remainder_of(data, size) : sum & 0xFF;
            if (i < size || number + other != 255 || got != right) {
                while (next_byte(300) >= 0)
                    continue;
                put_byte(21);
            } else {
                if (number == (expected & 255)) {
                    fwrite(data, 1, (size_t)size, out);
                    expected++;
                }
                put_byte(6);
            }
            begun = 1;
            head = next_byte(10000);
        }
        if (begun) quit("the sender has gone");
    }
    quit("nobody sends");
}

static void send_file(FILE *in, int crc)
{
    unsigned char block[133];
    int number = 1, first;
    do
        first = next_byte(20000);
    while (first >= 0 && first != 21 && (!crc || first != 'C'));
    if (first < 0) quit("nobody asks");
    crc = first == 'C';
    for (;;) {
        memset(block, 26, sizeof block);
        if (fread(block + 3, 1, 128, in) == 0) break;
        block[0] = 1;
        block[1] = (unsigned char)number;
        block[2] = (unsigned char)(255 - block[1]);
        unsigned check = 0;
        for (int i = 0; i < 128 && !crc; i++)
            check += block[3 + i];
        if (crc) check = remainder_of(block + 3, 128);
        block[131] = (unsigned char)(crc ? check >> 8 : check);
        block[132] = (unsigned char)check;
        int answer = 21;
        for (int tries = 0; answer != 6 && tries < 10; tries++) {
            if (write(line, block, crc ? 133 : 132) < 0) quit("cannot write");
            answer = next_byte(10000);
        }
        if (answer != 6) quit("a block was not taken");
        number++;
    }
    int answer = 21;
    for (int tries = 0; answer != 6 && tries < 10; tries++) {
        put_byte(4);
        answer = next_byte(10000);
    }
    if (answer != 6) quit("the end was not taken");
}

int main(int argc, char **argv)
{
    struct termios t;
    if (argc != 3) quit("receive or send, and a file");
    int sends = strncmp(argv[1], "send", 4) == 0, old = strstr(argv[1], "-old") != NULL;
    FILE *f = fopen(argv[2], sends ? "rb" : "wb");
    line = posix_openpt(O_RDWR | O_NOCTTY);
    if (f == NULL || line < 0 || grantpt(line) != 0 || unlockpt(line) != 0) quit("cannot begin");
    int keep = open(ptsname(line), O_RDWR | O_NOCTTY); /* so that others may come and go */
    tcgetattr(keep, &t);
    cfmakeraw(&t);
    tcsetattr(keep, TCSANOW, &t);
    printf("%s\n", ptsname(line));
    fflush(stdout);
    if (sends)
        send_file(f, !old);
    else
        receive_file(f, !old);
    fclose(f);
    usleep(300000); /* the last byte is still to be read over there */
    return 0;
}

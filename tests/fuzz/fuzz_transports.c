/* fuzz_transports.c - every way of carrying bytes, sending and receiving, with a remote that says
 * anything. FUZZ_TRANSPORT is chosen by the build: xmodem, packets, acked, lines. */
#include "fuzz_memory.h"

enum { ROOM = 3000 };

static uint8_t bytes[ROOM], buffer[ROOM], seen[32];

static void drive(bl_transport *transport, fuzz_input *in, bool endless)
{
    uint8_t out[128];
    uint64_t now = 0;
    for (unsigned i = 0; i < 20000 && bl_transport_status(transport) == BL_E_BUSY; i++) {
        if (endless && in->left == 0) break;
        while (bl_transport_output(transport, out, sizeof out, now) > 0)
            continue;
        uint8_t some = in->left > 0 ? fuzz_byte(in) : 0;
        if (some < 0xF0) {
            uint8_t said = fuzz_byte(in);
            if (in->left > 0) bl_transport_input(transport, &said, 1, now);
            now += 100;
        }
        uint64_t next = bl_transport_deadline(transport);
        if ((some >= 0xF0 || in->left == 0) && next > now && next != UINT64_MAX) now = next;
        bl_transport_tick(transport, now);
    }
    if (transport->done > transport->total && transport->total > 0) abort();
}

static void xmodem(fuzz_input *in)
{
    uint8_t how = fuzz_byte(in);
    size_t count = 1 + fuzz_number(in) % ROOM;
    bl_xmodem x;
    if ((how & 1) != 0) {
        bl_xmodem_send(&x, 9600, bytes, count, (how & 2) != 0, 0x1A, 0);
    } else {
        bl_xmodem_receive(&x, 9600, buffer, count, (how & 4) != 0 ? count : 0, (how & 8) != 0, 0);
    }
    drive(&x.transport, in, false);
    if ((how & 16) != 0) {
        bl_xmodem_cancel(&x, 1000000000);
        drive(&x.transport, in, false);
    }
}

static void packets(fuzz_input *in)
{
    uint8_t how = fuzz_byte(in), payload = fuzz_byte(in);
    if (payload < BL_PACKET_MIN || payload > BL_PACKET_MAX) payload = BL_PACKET_USUAL;
    if ((how & 1) != 0) {
        bl_packets p;
        bl_packets_send(&p, 9600, fuzz_number(in), bytes, 1 + fuzz_number(in) % ROOM, payload,
                        (uint8_t)(how >> 1 & 3), 0);
        drive(&p.transport, in, false);
        return;
    }
    bl_packets_listener f;
    bl_packets_listen(&f, 9600, (how & 2) != 0 ? 0x1000 : 0xFFFFFF00, buffer,
                      (how & 2) != 0 ? ROOM : 0x100, seen, sizeof seen, payload);
    drive(&f.transport, in, true);
}

static void acked(fuzz_input *in)
{
    bl_piece pieces[] = {{fuzz_number(in) & 0x7FFF, 1u + fuzz_byte(in), bytes},
                         {0x9000, 1 + fuzz_number(in) % 1000, bytes + 300}};
    bl_acked a;
    bl_acked_send(&a, 9600, pieces, 2, fuzz_byte(in) & 1, 0x9000, 0);
    drive(&a.transport, in, false);
    volatile uint32_t where = bl_acked_where(&a);
    (void)where;
}

static void lines(fuzz_input *in)
{
    static const char *const words[] = {"", ".", "OK\r\n", "?", "\x18"};
    uint8_t how = fuzz_byte(in);
    bl_lines_manner manner = {
        "\r", words[how % 3], words[(how >> 2) % 4], words[how & 4], (how & 8) != 0, 0, 0, 100000};
    char text[600];
    size_t n = fuzz_number(in) % sizeof text;
    for (size_t i = 0; i < n; i++)
        text[i] = (char)(fuzz_byte(in) % 40 == 0 ? '\n' : 'A' + (char)(i % 20));
    bl_lines l;
    bl_lines_send(&l, 9600, (bl_text){text, n}, &manner, 0);
    drive(&l.transport, in, false);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    fuzz_input in = {data, size};
    (void)xmodem, (void)packets, (void)acked, (void)lines;
    FUZZ_TRANSPORT(&in);
    return 0;
}

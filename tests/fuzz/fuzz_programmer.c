/* fuzz_programmer.c - the programmer's own side, asked for anything: whole frames with any
 * contents, and bytes of no frame, at a socket whose chip says anything. */
#include "fuzz_memory.h"

typedef struct socket {
    uint8_t cells[0x20000], driven;
    uint32_t address;
    uint64_t now; /* nanoseconds */
    bool silly;   /* answers with noise */
    uint32_t noise;
} socket;

static socket chip;

static void set_address(void *context, uint32_t address)
{
    ((socket *)context)->address = address;
}

static void drive(void *context, uint8_t data)
{
    ((socket *)context)->driven = data;
}

static void release(void *context)
{
    (void)context;
}

static uint8_t sense(void *context)
{
    socket *s = context;
    s->noise = s->noise * 1664525u + 1013904223u;
    return s->silly ? (uint8_t)(s->noise >> 24) : s->cells[s->address % sizeof s->cells];
}

static void enables(void *context, bool select, bool output, bool write)
{
    socket *s = context;
    (void)output;
    if (select && write) s->cells[s->address % sizeof s->cells] = s->driven;
}

static void pause_ns(void *context, uint32_t nanoseconds)
{
    ((socket *)context)->now += nanoseconds;
}

static bool supply(void *context, uint8_t vcc, uint8_t vpp)
{
    (void)context;
    return vcc <= 60 && vpp <= 130;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const bl_chip_bus bus = {&chip, set_address, drive,    release,
                                    sense, enables,     pause_ns, supply};
    fuzz_input in = {data, size};
    bl_programmer p;
    uint8_t wire[BL_FRAME_WIRE], out[64], sequence = 0;
    chip.now = 0;
    chip.silly = (fuzz_byte(&in) & 1) != 0;
    bl_programmer_begin(&p, &bus, "fuzz");
    for (unsigned turn = 0; turn < 200 && in.left > 0; turn++) {
        uint8_t how = fuzz_byte(&in);
        size_t n = 0;
        if (how < 8) {
            for (n = 0; n < how; n++)
                wire[n] = fuzz_byte(&in);
        } else {
            bl_frame f = {.kind = (uint8_t)(fuzz_byte(&in) & 0x1F), .sequence = sequence++};
            f.length = (uint8_t)(how % (BL_FRAME_PAYLOAD + 1));
            if (how < 100) f.length = (uint8_t)(how % 32);
            for (uint8_t i = 0; i < f.length; i++)
                f.payload[i] = fuzz_byte(&in);
            n = bl_frame_encode(&f, wire);
        }
        bl_programmer_input(&p, wire, n, chip.now / 1000);
        for (unsigned i = 0; i < 300 && bl_programmer_deadline(&p) != UINT64_MAX; i++) {
            while (bl_programmer_output(&p, out, sizeof out) > 0)
                continue;
            uint64_t next = bl_programmer_deadline(&p) * 1000;
            chip.now = next > chip.now ? next : chip.now + 1000;
            bl_programmer_tick(&p, chip.now / 1000);
        }
        while (bl_programmer_output(&p, out, sizeof out) > 0)
            continue;
    }
    return 0;
}

/* fuzz_tape.c - any bytes as a packed block, as bytes that were heard from a tape, and as sound. */
#include "fuzz_memory.h"

#include <string.h>

/* Nothing is written in front of the room, or behind it. */
static void unpack(const uint8_t *data, size_t size)
{
    static uint8_t room[4000];
    size_t made, count = size < 256 ? size : 256;
    memset(room, 0xA5, sizeof room);
    bl_unpack(data, count, room + 1000, 500, 2000, &made);
    if (made > 2000) abort();
    for (size_t i = 0; i < sizeof room; i++)
        if ((i < 1000 || i >= 1000 + made) && room[i] != 0xA5) abort();
}

/* What is packed comes back. */
static void pack(const uint8_t *data, size_t size)
{
    uint8_t packed[256], back[4096];
    size_t taken, made, unpacked;
    for (size_t done = 0; done < size; done += taken) {
        if (bl_pack(&fuzz_memory, data + done, done, size - done, packed, 200, &taken, &made) !=
                BL_OK ||
            taken == 0 || made > 200)
            abort();
        memcpy(back, data, done);
        if (bl_unpack(packed, made, back + done, done, sizeof back - done, &unpacked) != BL_OK ||
            unpacked != taken || memcmp(back + done, data + done, taken) != 0)
            abort();
    }
}

static void blocks(const uint8_t *data, size_t size)
{
    static bl_tape_byte heard[4096];
    static bl_tape_block block;
    size_t from = 0, before = 0;
    uint64_t at = 0;
    for (size_t i = 0; i < size; i++) {
        bl_tape_byte *b = &heard[i];
        *b = (bl_tape_byte){.at = at += 30000 + (data[i] & 15) * 3000u, .value = data[i]};
        for (unsigned j = 0; j < 8; j++)
            b->bit[j] = (int8_t)((data[i] >> j & 1 ? 1 : -1) * (int)((i * 7 + j) % 101));
        b->framed = i % 13 != 0;
    }
    while (bl_block_next(heard, size, &from, &block)) {
        if (from <= before || block.label.count > 256) abort();
        before = from;
        for (size_t i = 0; i < block.label.count; i++)
            bl_block_byte(&block, i);
    }
}

static void hear(void *context, const bl_tape_byte *byte)
{
    (void)context;
    if (byte->certainty > 100) abort();
}

static void sound(const uint8_t *data, size_t size)
{
    bl_demodulator *d;
    bl_demodulator_config config = {
        .rate = 8000, .keyings = bl_keying_at(1), .count = 2, .piece = 500};
    int16_t samples[2048];
    if (bl_demodulator_open(&fuzz_memory, &config, (bl_tape_listener){NULL, hear, NULL}, &d) !=
        BL_OK)
        return;
    for (size_t i = 0; i + 1 < size; i += 2)
        samples[i / 2] = (int16_t)(data[i] | data[i + 1] << 8);
    for (unsigned turn = 0; turn < 4; turn++)
        bl_demodulator_feed(d, samples, size / 2);
    bl_demodulator_end(d);
    bl_demodulator_close(d);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    if (size == 0 || size > 4096) return 0;
    unpack(data, size);
    if (data[0] % 4 == 0) pack(data, size);
    blocks(data, size);
    if (data[0] % 4 == 1) sound(data, size);
    return 0;
}

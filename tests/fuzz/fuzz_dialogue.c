/* fuzz_dialogue.c - any bytes as a dialogue file; one that is accepted must make commands of every
 * kind and be written as a script. */
#include "fuzz_memory.h"

static void speak(const bl_dialogue *d, bl_talk_kind kind, uint32_t address, const uint8_t *bytes,
                  size_t count)
{
    bl_talk t;
    uint8_t out[64];
    uint64_t now = 0;
    bl_talk_begin(&t, d, kind, address, bytes, count, now);
    for (unsigned i = 0; i < 3000 && bl_talk_status(&t) == BL_E_BUSY; i++) {
        size_t n = bl_talk_output(&t, out, sizeof out, now);
        bl_talk_input(&t, out, n, now); /* a device that says back what it hears */
        bl_talk_tick(&t, now);
        if (n == 0) now = bl_talk_deadline(&t) > now ? bl_talk_deadline(&t) : now + 1;
    }
    volatile size_t length = strlen(bl_talk_expected(&t)) + strlen(t.said);
    (void)length;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const bl_talk_kind kinds[] = {BL_TALK_WAKE,  BL_TALK_WRITE, BL_TALK_READ, BL_TALK_FILL,
                                         BL_TALK_START, BL_TALK_LOAD,  BL_TALK_DUMP, BL_TALK_LEAVE};
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bl_writer writer = {&sum, fuzz_drop};
    bl_dialogue d;
    uint8_t bytes[300];
    if (bl_dialogue_read((bl_text){(const char *)data, size}, "fuzz", &sink, &d) != BL_OK) return 0;
    for (size_t i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)(i < size ? data[i] : i);
    for (size_t i = 0; i < sizeof kinds / sizeof kinds[0]; i++) {
        size_t max = kinds[i] == BL_TALK_READ ? d.read_block : d.write_block;
        speak(&d, kinds[i], 0x1000, bytes, max);
        speak(&d, kinds[i], 0xFFFFFFFF, bytes, max + (i & 1));
    }
    bl_piece piece = {0x1001, sizeof bytes, bytes};
    bl_dialogue_script(&d, &piece, d.start[0] != '\0', 0x1001, &writer);
    return 0;
}

/* fuzz_replies.c - a monitor that says anything at all, to any of our commands. The input: the
 * dialogue's manner, the command, then what the monitor says. */
#include "fuzz_memory.h"

static bl_dialogue dialogue_of(fuzz_input *in)
{
    static const char *const answers[] = {"{address}: {bytes}", "{bytes}", "{address}/ {bytes}",
                                          "{bytes} |{bytes}"};
    static const char *const separators[] = {" ", ",", "", "\r{wait:>}"};
    uint8_t manner = fuzz_byte(in), more = fuzz_byte(in);
    bl_dialogue d = {.prompt = ">",
                     .ending = "\r",
                     .wake = "\r",
                     .write = "D {address:4} {bytes}",
                     .read = "M {address:4} {last}",
                     .fill = "F {address} {last} {byte}",
                     .start = "G {address}",
                     .load = "L{wait:go}",
                     .loading = "+",
                     .dump = "S {address} {count}",
                     .dumping = "=",
                     .leave = "\x1b",
                     .refuse = "?",
                     .dumper = BL_METHOD_BARE,
                     .write_block = 16,
                     .baud = 9600,
                     .timeout_us = 100000};
    d.radix = (uint8_t[]){16, 10, 8, 16}[manner & 3];
    d.word = (manner & 4) != 0 ? 12 : 8;
    d.high_first = (manner & 8) != 0;
    if ((manner & 16) != 0) d.pace_us = 500;
    if ((manner & 32) != 0) memcpy(d.read, "M {address}{each:.}", 20);
    d.read_block = more;
    const char *answer = answers[more & 3], *separator = separators[more >> 2 & 3];
    memcpy(d.answer, answer, strlen(answer) + 1);
    memcpy(d.separator, separator, strlen(separator) + 1);
    return d;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    fuzz_input in = {data, size};
    bl_dialogue d = dialogue_of(&in);
    uint8_t bytes[BL_DIALOGUE_READ] = {1, 2, 3}, out[32];
    bl_talk_kind kind = (bl_talk_kind)(fuzz_byte(&in) % 8);
    size_t count = fuzz_byte(&in) % (BL_DIALOGUE_READ + 8);
    uint32_t address = fuzz_number(&in);
    uint64_t now = 0;
    bl_talk t;
    bl_talk_begin(&t, &d, kind, address, bytes, count, now);
    while (bl_talk_status(&t) == BL_E_BUSY) {
        bl_talk_output(&t, out, sizeof out, now);
        uint8_t said = fuzz_byte(&in);
        bl_talk_input(&t, &said, in.left > 0, now);
        uint64_t next = bl_talk_deadline(&t);
        now = in.left == 0 && next > now ? next : now + 100;
        bl_talk_tick(&t, now);
    }
    if (t.got > t.count || (kind == BL_TALK_READ && t.status == BL_OK && t.got != t.count)) abort();
    volatile size_t length = strlen(bl_talk_expected(&t)) + strlen(t.said);
    (void)length;
    return 0;
}

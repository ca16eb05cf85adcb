/* model_send.c - what is sent: mixtures of noise, runs and repetitions, with or without a belief.
 */
#include "model_send.h"

#include <string.h>

#include "bootlace/drive_frames.h"

enum { LONGEST = 6000 };

static const struct {
    const char *name;
    model_faults faults;
} lines[MODEL_LINES] = {
    {"a byte lost in 500", {.lose = 500}},
    {"a byte lost in 6,000", {.lose = 6000}},
    {"a bit flipped in 500 bytes", {.flip = 500}},
    {"a byte too many in 2,000", {.insert = 2000}},
    {"a burst in 3,000 bytes", {.burst = 3000}},
    {"what the FCS-16 does not see, in 1,500 bytes", {.kernel = 1500}},
    {"all of these, rarer", {9000, 9000, 9000, 9000, 9000}},
};

const char *model_line(unsigned line)
{
    return lines[line].name;
}

static void fill(machine_model *m, uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count;) {
        size_t row = 1 + model_below(m, 200), back = 1 + model_below(m, 64);
        unsigned kind = model_below(m, 3);
        uint8_t same = (uint8_t)model_below(m, 256);
        for (; row > 0 && i < count; row--, i++)
            bytes[i] = kind == 0 || i < back ? (uint8_t)model_below(m, 256)
                       : kind == 1           ? same
                                             : bytes[i - back];
    }
}

model_end model_send(const bl_memory *memory, unsigned line, model_quick quick, uint64_t seed,
                     size_t *wrong)
{
    static machine_model m;
    static uint8_t wanted[LONGEST], before[LONGEST];
    bl_exchange exchange;
    bl_transfer job;
    model_begin(&m, quick, &lines[line].faults, seed);
    size_t count = 1 + model_below(&m, model_below(&m, 4) == 0 ? LONGEST : LONGEST / 6);
    uint32_t first = 0x0300 + model_below(&m, 0x8000);
    bl_piece piece = {first, count, wanted}, known = {first, count, before};
    fill(&m, wanted, count);
    memcpy(before, wanted, count);
    unsigned history =
        model_below(&m, 4); /* nothing; it is there; a byte is not; it is not there */
    if (history == 1 || history == 2) memcpy(m.memory + first, wanted, count);
    if (history == 2) m.memory[first + model_below(&m, (uint32_t)count)] ^= 0x41;
    if (history > 0) before[model_below(&m, (uint32_t)count)] ^= 0x10;
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 128,
                             .region = 2048,
                             .who = BL_WHO_EYELET,
                             .known = &known,
                             .known_count = history > 0,
                             .sum_ns = 1000};
    bl_exchange_begin(&exchange, 10000000);
    if (bl_transfer_begin(&job, memory, &o) != BL_OK) return MODEL_FAILED;
    bl_serial port = model_port(&m);
    bl_status status = bl_drive_transfer(&port, &exchange, &job, NULL);
    bool proved = job.result.bytes_proved == count && job.result.proved_by != BL_PROOF_NONE;
    bl_transfer_end(&job);
    *wrong = 0;
    if (status != BL_OK) return MODEL_FAILED;
    for (size_t i = 0; i < count; i++)
        *wrong += m.memory[first + i] != wanted[i];
    return *wrong == 0 && proved ? MODEL_VERIFIED : MODEL_FALSE;
}

/* perf_tape.c - the decoder of recordings: how many times as fast as the tape, process time. */
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

#include "bootlace/bootlace.h"
#include "files/files.h"

enum { RATE = 44100, SECONDS = 600 };

typedef struct tape {
    int16_t *samples;
    size_t count;
} tape;

static bl_status keep(void *context, const int32_t *samples, size_t count)
{
    tape *t = context;
    for (size_t i = 0; i < count && t->count < (size_t)RATE * SECONDS; i++)
        t->samples[t->count++] = (int16_t)(samples[i] / 65536 + rand() % 2001 - 1000);
    return BL_OK;
}

static void count_byte(void *context, const bl_tape_byte *byte)
{
    size_t *heard = context;
    *heard += byte->certainty >= BL_CERTAIN;
}

int main(void)
{
    bl_keying all[4];
    tape t = {malloc((size_t)RATE * SECONDS * sizeof *t.samples), 0};
    for (size_t i = 0; i < 4; i++)
        all[i] = *bl_keying_at(i);
    for (size_t k = 0; k < 4 && t.samples != NULL; k++) {
        bl_modulator m;
        bl_demodulator *d;
        size_t heard = 0;
        bl_demodulator_config config = {.rate = RATE, .keyings = all, .count = 4};
        t.count = 0;
        bl_modulator_begin(&m, &all[k], RATE, BL_WAVE_SINE, 500, (bl_sample_sink){&t, keep});
        bl_modulator_idle(&m, 5000);
        while (t.count < (size_t)RATE * SECONDS)
            bl_modulator_byte(&m, (uint8_t)rand());
        if (bl_demodulator_open(&host_memory, &config, (bl_tape_listener){&heard, count_byte, NULL},
                                &d) != BL_OK)
            return 1;
        clock_t began = clock();
        bl_demodulator_feed(d, t.samples, t.count);
        bl_demodulator_end(d);
        double took = (double)(clock() - began) / CLOCKS_PER_SEC;
        printf("%4u baud: %zu bytes, %.2f s for %d s of sound: %.0f times as fast\n",
               (unsigned)bl_keying_baud(&all[k]), heard, took, SECONDS, SECONDS / took);
        bl_demodulator_close(d);
    }
    free(t.samples);
    return 0;
}

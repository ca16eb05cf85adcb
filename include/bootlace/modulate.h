/* modulate.h - bytes become sound: the samples of two-tone keying.
 *
 * The tone changes where the wave crosses zero, at the very moment and not at the next sample, so
 * there is no click and no drift at any sample rate.
 */
#ifndef BOOTLACE_MODULATE_H
#define BOOTLACE_MODULATE_H

#include "keying.h"

#ifdef __cplusplus
extern "C" {
#endif

typedef enum bl_wave { BL_WAVE_SINE, BL_WAVE_SQUARE } bl_wave;

/* Takes samples, full scale INT32_MIN to INT32_MAX. What it returns ends the modulation. */
typedef struct bl_sample_sink {
    void *context;
    bl_status (*samples)(void *context, const int32_t *samples, size_t count);
} bl_sample_sink;

enum { BL_MODULATOR_ROOM = 256 };

/* Owned by the caller; the fields are private. */
typedef struct bl_modulator {
    bl_keying keying;
    bl_sample_sink sink;
    bl_wave wave;
    int32_t peak;
    uint32_t rate;
    uint32_t step[2];  /* of the phase a sample, 2^32 a cycle */
    uint64_t position; /* in the bit, 2^31 half a cycle; what the last bit left over */
    uint8_t last;      /* whose step that was counted with */
    bool negative;     /* the next half wave goes down */
    uint64_t written;  /* samples so far */
    int32_t samples[BL_MODULATOR_ROOM];
    uint16_t waiting;
    bl_status status;
} bl_modulator;

/* rate in samples a second, 4000 to 384000, and more than twice the higher tone; level in
 * thousandths of full scale, 1 to 1000, negative: the first half wave goes down. BL_E_RANGE if not
 * so, or as bl_keying_check. */
bl_status bl_modulator_begin(bl_modulator *m, const bl_keying *keying, uint32_t rate, bl_wave wave,
                             int level, bl_sample_sink sink);
/* From now on bytes end with so many stop bits, 1 to 3. */
void bl_modulator_stop_bits(bl_modulator *m, uint8_t stop_bits);
/* All return what the sink did when it failed, now or before. */
bl_status bl_modulator_bit(bl_modulator *m, unsigned value);
bl_status bl_modulator_byte(bl_modulator *m, uint8_t byte);
/* The tone of the line at rest, for a time in milliseconds, in whole bits. */
bl_status bl_modulator_idle(bl_modulator *m, uint32_t milliseconds);
/* Gives what is left to the sink. */
bl_status bl_modulator_end(bl_modulator *m);

#ifdef __cplusplus
}
#endif
#endif

/* recording.h - recordings as a cassette player gives them back: made by other means than the
 * library's, and made worse. */
#ifndef TEST_RECORDING_H
#define TEST_RECORDING_H

#include "harness.h"

/* What a recording goes through; all 0: nothing. */
typedef struct impairment {
    double noise;             /* its power in dB below the signal's, over the full band; 0: none */
    bool equal_noise;         /* noise of 0 dB is meant */
    double speed;             /* factor; 0: 1 */
    double wow, flutter;      /* parts of the speed; wow at 0.7 Hz */
    double flutter_hz;        /* 0: 9 */
    double offset, hum, clip; /* of the signal's amplitude; clip: where it is cut off */
    double low_pass;          /* Hz, one pole; or a Butterworth filter of this order: */
    unsigned order;           /* 2, 4, 6 or 8 */
    double level;             /* of full scale; 0: 0.5 */
    bool inverted, square;
    unsigned bits;            /* 0: 16 */
    uint32_t rate;            /* 0: 44,100 */
    double drop_at, drop_for; /* seconds without a signal */
} impairment;

typedef struct recording {
    int16_t *samples;
    size_t count;
    uint32_t rate;
} recording;

/* Bytes in 8N2 at a rate of the Kansas City family, after a leader, with a second at rest behind.
 */
recording record_bytes(unsigned baud, double leader, const uint8_t *bytes, size_t count,
                       const impairment *i);
/* What a demodulator hears in it. keying NULL: any standard. Free with test_free. */
typedef struct heard_bytes {
    bl_tape_byte *at;
    size_t count;
} heard_bytes;
heard_bytes hear(const recording *r, const bl_keying *keying);
/* The same chance for every run of a test. */
unsigned chance(void);
void chance_from(unsigned seed);

#endif

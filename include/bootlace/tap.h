/* tap.h - listens to a port on the way: what was sent and what came back, to tell a dead line from
 * a loop-back, another monitor, or a wrong rate. */
#ifndef BOOTLACE_PUMP_TAP_H
#define BOOTLACE_PUMP_TAP_H

#include "port.h"

enum { BL_TAP_ROOM = 96 };

/* Told of all that passes; now in microseconds of the port's clock. passed NULL: nobody is. */
typedef struct bl_tap_watch {
    void *context;
    void (*passed)(void *context, bool sent, const uint8_t *bytes, size_t count, uint64_t now);
} bl_tap_watch;

typedef struct bl_tap {
    bl_serial inner;
    uint8_t sent[BL_TAP_ROOM], came[BL_TAP_ROOM]; /* the first of each */
    uint64_t sent_count, came_count;              /* of all */
    bl_tap_watch watch;                           /* may be set after bl_tap_begin */
} bl_tap;

typedef enum bl_heard {
    BL_HEARD_NOTHING,
    BL_HEARD_ECHO,    /* our own bytes: receive and transmit are connected */
    BL_HEARD_ANSWERS, /* one byte for each of ours, another one: as Aglet does */
    BL_HEARD_TEXT,    /* lines for people */
    BL_HEARD_OTHER,
} bl_heard;

/* Returns a port that passes everything on to inner, and notes it. */
bl_serial bl_tap_begin(bl_tap *tap, const bl_serial *inner);
bl_heard bl_tap_heard(const bl_tap *tap);
/* The first text that came, terminated; what cannot be printed as '.'; line ends as blanks. */
void bl_tap_text(const bl_tap *tap, char *text, size_t capacity);

#endif

/* front.h - the front of the simulated board: what people see of it and touch. */
#ifndef BOOTLACE_FRONT_H
#define BOOTLACE_FRONT_H

#include "sim/device/front/display.h"
#include "simulation.h"

typedef enum front_form {
    FRONT_NONE,  /* nothing is to be seen of it */
    FRONT_LAMPS, /* eight */
    FRONT_LAMP,
    FRONT_DIGIT,
    FRONT_DISPLAY,
    FRONT_BUTTON,
    FRONT_SWITCH,
    FRONT_KEYPAD,
    FRONT_BUZZER
} front_form;

enum { FRONT_TEXT = 512 };

typedef struct front_part {
    const char *name; /* of the bench file */
    const sim_device *device;
    front_form form;
} front_part;

/* Does it show eight lamps of its own? */
bool front_is_lamps(const sim_device *d);
/* The parts of the front in the order of the bench file: an array to be freed with g_array_unref.
 * Valid as long as the simulation is. */
GArray *front_parts(const simulation *s);
/* What a part shows, as text; lamps as * and . from bit 7 on. Lines end with \n. */
void front_shows(const front_part *p, char text[FRONT_TEXT]);
/* Of lamps and digits: what an eye sees, a bit each. */
uint16_t front_lit(const front_part *p);
/* The whole front as text, a part a line or some: free with g_free. */
char *front_text(const simulation *s);

/* Is there such a part, with such a key: "go", "keys 5"? BL_E_NOT_FOUND, reported with what there
 * is. */
bl_status front_check(const simulation *s, const char *what, const bl_sink *sink);
/* Somebody presses (down) or releases a part: "go", or a key of one, "keys 5". BL_E_NOT_FOUND:
 * there is none; reported, with what there is. */
bl_status front_touch(simulation *s, const char *what, bool down, const bl_sink *sink);

#endif

/* fields.h - what may stand in braces in the texts of a dialogue. */
#ifndef BOOTLACE_SRC_LINK_FIELDS_H
#define BOOTLACE_SRC_LINK_FIELDS_H

#include "base/core.h"

/* The first thing in braces of a key's text, from *at on, that is no field of that key. True:
 * *field is it, with its braces, and *hint says what could stand there. text is as it is written,
 * without its quotes. */
bool dialogue_wrong_field(bl_text key, bl_text text, bl_text *field, char *hint, size_t capacity);

#endif

/* image_commands.h - the commands that work on image files. */
#ifndef BOOTLACE_CLI_IMAGE_H
#define BOOTLACE_CLI_IMAGE_H

#include "subcommands.h"

/* image_files.c */
extern const subcommand image_join, image_cut, image_compare;

/* image.c: writes to the file of -o, in the format asked for. type_out receives it. Return exit
 * codes, faults told. */
int image_output_type(bl_filetype *type);
/* asked: what gaps hold was said, so a raw binary may be mostly gaps. */
int image_write(const bl_image *image, bl_filetype type, uint8_t fill, bool asked);
/* Only what lies in the range stays. */
int image_keep(bl_image **image, bl_range range, const char *shown);

#endif

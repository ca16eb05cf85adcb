/* image_objects.c - images as objects: put bytes, find a conflict, write Intel HEX, read it back.
 */
#include <bootlace/bootlace.h>
#include <stdio.h>
#include <stdlib.h>

typedef struct sheet_of_text {
    char text[1024];
    size_t length;
} sheet_of_text;

static bl_status keep(void *context, const void *bytes, size_t count)
{
    sheet_of_text *s = context;
    if (s->length + count > sizeof s->text) return BL_E_RANGE;
    for (size_t i = 0; i < count; i++)
        s->text[s->length++] = ((const char *)bytes)[i];
    return BL_OK;
}

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

int main(void)
{
    const bl_memory memory = {NULL, resize};
    sheet_of_text hex = {.length = 0};
    const bl_writer writer = {&hex, keep};
    bl_image *light = NULL, *back = NULL;
    uint32_t conflict = 0;
    if (bl_image_open(&memory, &light) != BL_OK || bl_image_open(&memory, &back) != BL_OK) return 1;
    bl_image_put(light, 0xC000, "\xA2\xFF\x9A", 3, (bl_origin){0, 0});
    bl_image_put(light, 0xFFFC, "\x00\xC0", 2, (bl_origin){0, 0});
    if (bl_image_conflict(light, (bl_range){0xC002, 8}, &conflict))
        printf("$%04lX is taken\n", (unsigned long)conflict);
    bl_status status = bl_imagefile_write(BL_FILE_HEX, light, 0xFF, NULL, &writer);
    if (status == BL_OK)
        status = bl_imagefile_read(BL_FILE_HEX, "light.hex", hex.text, hex.length, 0, back, NULL);
    printf("%.*s%lu bytes came back\n", (int)hex.length, hex.text,
           (unsigned long)bl_image_size(back));
    bl_image_close(light);
    bl_image_close(back);
    return status == BL_OK ? 0 : 1;
}

/* The manual's examples: every block marked asm in docs/language.md must assemble. */
#include <stdio.h>
#include <string.h>

#include "support.h"

TEST(every_example_of_the_manual_assembles)
{
    static char text[60000], example[8000];
    char path[512];
    snprintf(path, sizeof path, "%s/docs/language.md", test_source_folder());
    FILE *f = fopen(path, "rb");
    if (f == NULL) test_fail(__FILE__, __LINE__, "cannot read %s", path);
    size_t n = fread(text, 1, sizeof text - 1, f);
    fclose(f);
    text[n] = '\0';
    unsigned examples = 0;
    for (const char *at = strstr(text, "```asm\n"); at != NULL; at = strstr(at, "```asm\n")) {
        at += 7;
        const char *end = strstr(at, "```");
        CHECK(end != NULL && (size_t)(end - at) < sizeof example);
        snprintf(example, sizeof example, "%.*s", (int)(end - at), at);
        bl_program *p = assemble(example);
        CHECK(bl_image_size(bl_program_image(p)) > 0);
        bl_program_close(p);
        examples++;
    }
    CHECK(examples >= 9);
}

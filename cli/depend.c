/* depend.c - "out/lamp.hex: lamp.asm light.asm". */
#include "depend.h"

#include <string.h>

static char *path;
static GPtrArray *seen;

const GOptionEntry depend_options[] = {
    {"depend", 0, 0, G_OPTION_ARG_FILENAME, &path,
     "a file for make: which files the result was made of", "FILE"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

void *depend_begin(void)
{
    if (path != NULL && seen == NULL) seen = g_ptr_array_new_with_free_func(g_free);
    return seen;
}

/* Make's own characters: blanks, #, $ and the colon of a rule. */
static void add_name(GString *out, const char *name)
{
    for (; *name != '\0'; name++) {
        if (strchr(" #\\:", *name) != NULL) g_string_append_c(out, '\\');
        if (*name == '$') g_string_append_c(out, '$');
        g_string_append_c(out, *name);
    }
}

const char *depend_path(void)
{
    return path;
}

/* A rule for the result, and an empty one for each file, so that make goes on when one of them is
 * gone. */
int depend_write(const char *target, const char *bench_file)
{
    if (path == NULL) return EXIT_GOOD;
    GString *text = g_string_new(NULL);
    if (bench_file != NULL) g_ptr_array_add(seen, g_strdup(bench_file));
    add_name(text, target);
    g_string_append_c(text, ':');
    for (guint i = 0; i < seen->len; i++) {
        g_string_append(text, " \\\n  ");
        add_name(text, g_ptr_array_index(seen, i));
    }
    g_string_append_c(text, '\n');
    for (guint i = 0; i < seen->len; i++) {
        add_name(text, g_ptr_array_index(seen, i));
        g_string_append(text, ":\n");
    }
    host_output out;
    bl_writer writer;
    host_output_begin(&out, &writer);
    writer.write(writer.context, text->str, text->len);
    g_string_free(text, TRUE);
    return host_output_end(&out, path, &cli_sink) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

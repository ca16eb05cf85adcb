/* sheets.c - instruction sheets by name or from a file. */
#include "sheets.h"

#include <glib.h>
#include <string.h>

#include "files/files.h"

/* Sheets that are taken lie beside the one that takes; their texts live until it is read. */
typedef struct beside {
    char *folder;
    GPtrArray *texts;
} beside;

static bl_status find_sheet_text(void *context, bl_text name, bl_text *text)
{
    beside *b = context;
    char *file = g_strdup_printf("%.*s.sheet", (int)name.length, name.at), *contents = NULL;
    char *path = g_build_filename(b->folder, file, NULL);
    size_t length = 0;
    bl_status status = host_read_file(path, &contents, &length, NULL);
    if (status == BL_OK) {
        g_ptr_array_add(b->texts, contents);
        *text = (bl_text){contents, length};
    }
    g_free(file);
    g_free(path);
    return status == BL_OK ? BL_OK : BL_E_NOT_FOUND;
}

/* A name that is no file is looked for among the shipped sheets; a file may take them, and others
 * beside it. */
bl_status host_sheet_open(const char *cpu, const char *folder, const bl_sink *sink,
                          bl_sheet **sheet)
{
    char *text = NULL;
    size_t length = 0;
    if (!g_str_has_suffix(cpu, ".sheet"))
        return bl_sheet_open(&host_memory, (bl_text){cpu, strlen(cpu)}, sink, sheet);
    char *path = folder != NULL ? host_path_in(folder, cpu) : g_strdup(cpu);
    bl_status status = host_read_file(path, &text, &length, sink);
    if (status == BL_OK) {
        beside b = {g_path_get_dirname(path), g_ptr_array_new_with_free_func(g_free)};
        bl_sheet_source source = {&b, find_sheet_text};
        status = bl_sheet_read(&host_memory, path, (bl_text){text, length}, &source, sink, sheet);
        g_ptr_array_free(b.texts, TRUE);
        g_free(b.folder);
    }
    g_free(text);
    g_free(path);
    return status;
}

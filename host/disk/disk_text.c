/* disk_text.c - texts with a program's addresses in them. */
#include "disk_text.h"

#include <string.h>

static bl_status text_value(void *context, bl_text name, int64_t *value)
{
    const disk_text_source *s = context;
    static const char *const names[] = {"load", "last", "end", "entry", "length"};
    for (size_t i = 0; s->file != NULL && i < G_N_ELEMENTS(names); i++) {
        if (name.length != strlen(names[i]) || memcmp(name.at, names[i], name.length) != 0)
            continue;
        if (i == 3 && !s->file->has_entry) return BL_E_NOT_FOUND;
        if (i < 3 && !s->file->has_load) return BL_E_NOT_FOUND;
        *value = i == 3 ? s->file->entry : i == 4 ? s->length : s->file->load;
        if (i == 1) *value += (int64_t)s->length - 1;
        if (i == 2) *value += s->length;
        return BL_OK;
    }
    return s->program != NULL ? bl_program_value(s->program, name, value) : BL_E_NOT_FOUND;
}

/* A value as the form says. False: there is no such form. */
static bool add_value(GString *out, int64_t value, const char *form)
{
    unsigned digits = form[0] != '\0' ? (unsigned)g_ascii_strtoull(form + 1, NULL, 10) : 0;
    bool number = form[0] == '\0' || strspn(form + 1, "0123456789") == strlen(form + 1);
    if (!number || digits > 16) return false;
    switch (form[0]) {
    case '\0':
    case 'd': g_string_append_printf(out, "%0*lld", (int)digits, (long long)value); return true;
    case 'x':
        g_string_append_printf(out, "%0*llx", (int)digits, (unsigned long long)value);
        return true;
    case 'X':
        g_string_append_printf(out, "%0*llX", (int)digits, (unsigned long long)value);
        return true;
    case 'o':
        g_string_append_printf(out, "%0*llo", (int)digits, (unsigned long long)value);
        return true;
    default: return false;
    }
}

/* What stands between braces. */
static bool add_braces(GString *out, const char *inside, const disk_text_source *source,
                       const char *file, uint32_t line, const bl_sink *sink)
{
    bl_formula_source names = {.context = (void *)(uintptr_t)source, .name = text_value};
    bl_formula_fault fault = {.why = ""};
    const char *colon = strrchr(inside, ':'); /* ?: has blanks around it in a form */
    int64_t value = 0;
    if (strcmp(inside, "name") == 0) {
        g_string_append(out, source->name);
        return true;
    }
    bool has_form = colon != NULL && strchr(colon, ' ') == NULL;
    bl_text text = {inside, has_form ? (size_t)(colon - inside) : strlen(inside)};
    if (bl_formula_evaluate(text, &names, &value, &fault) != BL_OK) {
        bl_report(sink, BL_ERROR, file, line, "load, last, end, entry, length, or a symbol of it",
                  "{%s}: %s", inside, fault.why);
        return false;
    }
    if (add_value(out, value, has_form ? colon + 1 : "")) return true;
    bl_report(sink, BL_ERROR, file, line, "{load:x4}, X4, o6, d", "{%s}: there is no such form",
              inside);
    return false;
}

char *disk_text(const char *text, const disk_text_source *source, const char *file, uint32_t line,
                const bl_sink *sink)
{
    GString *out = g_string_new(NULL);
    for (const char *at = text; *at != '\0'; at++) {
        if (at[0] != '{') {
            g_string_append_c(out, *at);
            continue;
        }
        if (at[1] == '{') {
            g_string_append_c(out, *at++);
            continue;
        }
        const char *end = strchr(at, '}');
        char *inside = end != NULL ? g_strndup(at + 1, (gsize)(end - at - 1)) : NULL;
        bool good = inside != NULL && add_braces(out, inside, source, file, line, sink);
        if (end == NULL)
            bl_report(sink, BL_ERROR, file, line, "{{ is a brace", "a brace is not closed");
        g_free(inside);
        if (!good) {
            g_string_free(out, TRUE);
            return NULL;
        }
        at = end;
    }
    return g_string_free(out, FALSE);
}

/* define.c - reading -D. */
#include "define.h"

#include <string.h>

#include "project/places.h"

static char **given_defines;

const GOptionEntry define_options[] = {
    {"define", 'D', 0, G_OPTION_ARG_STRING_ARRAY, &given_defines,
     "a constant for the sources; without a value 1", "NAME[=VALUE]"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* NAME or NAME=VALUE; the name part is cut off in place. */
static bool read_definition(char *text, bl_definition *d)
{
    char *equals = strchr(text, '=');
    d->name = text;
    d->value = 1;
    bool named = g_ascii_isalpha(text[0]) || text[0] == '_';
    for (const char *p = text; named && *p != '\0' && p != equals; p++)
        named = g_ascii_isalnum(*p) || *p == '_';
    if (!named) return false;
    if (equals == NULL) return true;
    const char *value = equals + 1;
    if (places_eaten(value) ||
        bl_number_parse_signed((bl_text){value, strlen(value)}, &d->value) != BL_OK)
        return false;
    *equals = '\0';
    return true;
}

/* Names that are given twice are told here; what the bench file defines is not looked at yet. */
int define_take(project_extras *extras)
{
    static bl_definition *list; /* read once: reading cuts the names off in place */
    static size_t count;
    extras->definitions = list;
    extras->definition_count = count;
    if (list != NULL || given_defines == NULL) return EXIT_GOOD;
    count = g_strv_length(given_defines);
    list = g_new0(bl_definition, count + 1);
    for (size_t i = 0; i < count; i++) {
        char *text = given_defines[i], *equals = strchr(text, '=');
        if (read_definition(text, &list[i])) continue;
        bool eaten = equals != NULL && places_eaten(equals + 1);
        return cli_usage("-D %s: like NAME or NAME=12%s%s", text, eaten ? "; " : "",
                         eaten ? places_eaten_hint : "");
    }
    for (size_t i = 0; i < count; i++)
        for (size_t k = 0; k < i; k++)
            if (strcmp(list[i].name, list[k].name) == 0)
                return cli_usage("-D %s is given twice", list[i].name);
    extras->definitions = list;
    extras->definition_count = count;
    return EXIT_GOOD;
}

/* fields.c - {address}, {bytes} and the others: a misspelt one would be sent to the device as it
 * stands. */
#include "fields.h"

#include "bootlace/diag.h"

typedef struct field_use {
    const char *key;
    const char *fields[6]; /* those that may stand there */
} field_use;

static const field_use uses[] = {
    {"write", {"address", "count", "last", "bytes", "wait", NULL}},
    {"read", {"address", "count", "last", "each", "wait", NULL}},
    {"answer", {"address", "bytes", NULL}},
    {"separator", {"wait", NULL}},
    {"fill", {"address", "count", "last", "byte", "wait", NULL}},
    {"start", {"address", "wait", NULL}},
    {"load", {"address", "count", "last", "wait", NULL}},
    {"dump", {"address", "count", "last", "wait", NULL}},
};

static const field_use *use_of(bl_text key)
{
    for (size_t i = 0; i < sizeof uses / sizeof uses[0]; i++)
        if (bl_text_same(key, bl_text_of(uses[i].key))) return &uses[i];
    return NULL;
}

static bool takes_digits(bl_text name)
{
    return bl_text_same(name, bl_text_of("address")) || bl_text_same(name, bl_text_of("count")) ||
           bl_text_same(name, bl_text_of("last"));
}

static bool takes_text(bl_text name)
{
    return bl_text_same(name, bl_text_of("wait")) || bl_text_same(name, bl_text_of("each"));
}

/* Is what stands between the braces one of the key's fields, with what may follow its name? */
static bool is_field(const field_use *u, bl_text inside)
{
    size_t n = 0;
    while (n < inside.length && inside.at[n] != ':')
        n++;
    bl_text name = {inside.at, n};
    bool known = false;
    for (size_t i = 0; u->fields[i] != NULL; i++)
        known |= bl_text_same(name, bl_text_of(u->fields[i]));
    if (!known) return false;
    if (n == inside.length) return !bl_text_same(name, bl_text_of("each"));
    if (takes_text(name)) return inside.length > n + 1;
    return takes_digits(name) && inside.length == n + 2 && bl_is_digit(inside.at[n + 1]);
}

static const char *field_name(const void *list, size_t index)
{
    return ((const field_use *)list)->fields[index];
}

/* The nearest field, then all that may stand there. */
static void suggest(const field_use *u, bl_text inside, char *hint, size_t capacity)
{
    size_t length = 0;
    while (length < inside.length && inside.at[length] != ':')
        length++;
    bl_text name = {inside.at, length};
    unsigned distance;
    const char *near = bl_name_nearest(name, bl_name_tolerance(length), field_name, u, &distance);
    size_t n = 0;
    if (near != NULL && distance > 0) n = bl_format(hint, capacity, "did you mean {%s}? ", near);
    n += bl_format(hint + n, capacity - n, "'%s' takes", u->key);
    for (size_t i = 0; u->fields[i] != NULL && n < capacity; i++) {
        bl_text f = bl_text_of(u->fields[i]);
        n += bl_format(hint + n, capacity - n, " {%s%s}", u->fields[i],
                       takes_digits(f)                       ? ":DIGITS"
                       : bl_text_same(f, bl_text_of("wait")) ? ":TEXT"
                       : bl_text_same(f, bl_text_of("each")) ? ":TEXT"
                                                             : "");
    }
}

/* The first wrong field is told, with its place; an escaped brace is none. */
bool dialogue_wrong_field(bl_text key, bl_text text, bl_text *field, char *hint, size_t capacity)
{
    const field_use *u = use_of(key);
    if (u == NULL) return false;
    for (size_t i = 0; i < text.length; i++) {
        if (text.at[i] == '\\') {
            i++;
            continue;
        }
        if (text.at[i] != '{') continue;
        size_t end = i;
        while (end < text.length && text.at[end] != '}')
            end++;
        bool closed = end < text.length;
        bl_text inside = {text.at + i + 1, end - i - 1};
        *field = (bl_text){text.at + i, end - i + (closed ? 1u : 0u)};
        if (!closed)
            bl_format(hint, capacity, "the brace is never closed; \\x7B is a brace that is sent");
        else if (!is_field(u, inside))
            suggest(u, inside, hint, capacity);
        else {
            i = end;
            continue;
        }
        return true;
    }
    return false;
}

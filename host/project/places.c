/* places.c - "light+2", "ram", "$0300..$03FF". */
#include "places.h"

#include <glib.h>
#include <string.h>

const char places_eaten_hint[] =
    "a shell takes $ and what follows for itself: write 0x0300 or 0300h, not $0300";

/* ---- what a shell leaves ---- */

/* A shell makes nothing, or the shell's own name or number, of $0 and the like: what is left of
 * $0300 is recognised by that. */
bool places_eaten(const char *text)
{
    static const char *const shells[] = {"bash", "-bash", "sh",  "-sh", "dash", "-dash",
                                         "zsh",  "-zsh",  "ksh", "ash", "-ash", "fish"};
    for (size_t i = 0; i < G_N_ELEMENTS(shells); i++) {
        size_t n = strlen(shells[i]);
        if (strncmp(text, shells[i], n) == 0 && (g_ascii_isxdigit(text[n]) || text[n] == '\0'))
            return true;
    }
    if (*text == '\0' || g_str_has_prefix(text, "..") ||
        strchr(text, '/') != NULL) /* $0 in a script */
        return true;
    if (g_str_has_suffix(text, "..")) return true;
    /* Decimal numbers do not begin with 00: "$100" became "00", "$2000+256" became "000+256". */
    const char *p = text;
    for (;;) {
        size_t n = strspn(p, "0123456789");
        if (n >= 2 && p[0] == '0' && p[1] == '0' && !g_ascii_isalnum(p[n])) return true;
        p = strpbrk(p + n, "+.");
        if (p == NULL) return false;
        p += strspn(p, "+.");
    }
}

bool places_names(const char *text)
{
    places none = {.b = NULL};
    bl_range range;
    char *why = NULL;
    bool plain = places_range(&none, text, &range, &why);
    g_free(why);
    return !plain;
}

/* ---- names ---- */

/* board.DEVICE.REGISTER and area.NAME.first as the assembler has them, without a program. */
static bool board_name(const bench *b, const char *name, int64_t *value)
{
    for (size_t i = 0; i < b->definition_count; i++) {
        if (strcmp(b->definitions[i].name, name) != 0) continue;
        *value = b->definitions[i].value;
        return true;
    }
    for (size_t i = 0; i < b->area_count; i++) {
        const bl_area *a = &b->areas[i];
        if (strcmp(name, a->name) == 0) {
            *value = (int64_t)a->range.first;
            return true;
        }
        const char *rest = g_str_has_prefix(name, "area.") ? name + 5 : "";
        size_t n = strlen(a->name);
        if (strncmp(rest, a->name, n) != 0 || rest[n] != '.') continue;
        bool first = strcmp(rest + n + 1, "first") == 0, last = strcmp(rest + n + 1, "last") == 0;
        if (!first && !last && strcmp(rest + n + 1, "size") != 0) continue;
        *value = first  ? (int64_t)a->range.first
                 : last ? (int64_t)bl_range_last(a->range)
                        : (int64_t)a->range.count;
        return true;
    }
    return false;
}

/* What a symbol, and what a number, is multiplied with. */
static unsigned symbol_scale(const places *p)
{
    return p->b != NULL && p->count != PLACES_UNITS ? bl_sheet_unit_bytes(p->b->sheet) : 1;
}

static unsigned number_scale(const places *p)
{
    return p->count != PLACES_FILE ? symbol_scale(p) : 1;
}

/* The symbol nearest to a name that is none; NULL when none is near. Free with g_free. */
static void nearest_in(const whereis *w, const char *name, unsigned *best, char **found)
{
    bl_symbol s;
    for (size_t k = 0; w != NULL && k < w->count; k++)
        for (size_t i = 0; i < bl_program_symbols(w->programs[k]); i++) {
            if (bl_program_symbol(w->programs[k], i, &s) != BL_OK) continue;
            unsigned d = bl_name_distance((bl_text){name, strlen(name)},
                                          (bl_text){s.name, strlen(s.name)}, *best);
            if (d >= *best) continue;
            *best = d;
            g_free(*found);
            *found = g_strdup(s.name);
        }
}

static char *nearest(const places *p, const char *name)
{
    unsigned best = bl_name_tolerance(strlen(name)) + 1;
    char *found = NULL;
    nearest_in(p->w, name, &best, &found);
    nearest_in(p->after, name, &best, &found);
    return found;
}

static bool unknown_name(const places *p, const char *name, char **why)
{
    char *near = nearest(p, name);
    if (places_eaten(name))
        *why = g_strdup_printf("'%s' is no address; %s", name, places_eaten_hint);
    else if (near != NULL)
        *why = g_strdup_printf("undefined name '%s'; did you mean '%s'?", name, near);
    else if ((p->w == NULL || p->w->count == 0) && (p->after == NULL || p->after->count == 0))
        *why = g_strdup_printf(
            "'%s' is no number, and no program is at hand whose symbol it could be", name);
    else
        *why = g_strdup_printf("undefined name '%s'", name);
    g_free(near);
    return false;
}

/* "lamp-rom.light": a piece and a symbol of it. */
static bool piece_symbol(const places *p, const char *name, int64_t *value)
{
    for (size_t i = 0; p->built != NULL && i < p->built->piece_count; i++) {
        const project_piece *piece = &p->built->pieces[i];
        size_t n = strlen(piece->stem);
        if (strncmp(name, piece->stem, n) != 0 || name[n] != '.') continue;
        bl_text rest = {name + n + 1, strlen(name + n + 1)};
        if (bl_program_value(piece->program, rest, value) == BL_OK) return true;
    }
    return false;
}

/* Two programs may have the same symbol; then it must be the same address. Returns how many have
 * it; 0 after an error, told. */
static unsigned program_symbol(const whereis *w, const char *name, int64_t *value, char **why)
{
    unsigned found = 0;
    int64_t one;
    for (size_t i = 0; w != NULL && i < w->count; i++) {
        if (bl_program_value(w->programs[i], (bl_text){name, strlen(name)}, &one) != BL_OK)
            continue;
        if (found++ > 0 && one != *value) {
            *why = g_strdup_printf("'%s' is $%04lX in one program and $%04lX in another; put the "
                                   "piece before it, like lamp-rom.%s",
                                   name, (unsigned long)*value, (unsigned long)one, name);
            return 0;
        }
        *value = one;
    }
    return found;
}

static bool given_symbol(const places *p, const char *name, int64_t *value)
{
    for (size_t i = 0; i < p->name_count; i++) {
        const bl_text *n = &p->names[i].name;
        if (n->length != strlen(name) || memcmp(n->at, name, n->length) != 0) continue;
        *value = p->names[i].address;
        return true;
    }
    return false;
}

static bool symbol_value(const places *p, const char *name, int64_t *value, char **why)
{
    bool found = program_symbol(p->w, name, value, why) > 0;
    if (!found && *why == NULL) found = program_symbol(p->after, name, value, why) > 0;
    if (*why != NULL) return false;
    if (!found) found = given_symbol(p, name, value) || piece_symbol(p, name, value);
    if (!found && p->b != NULL) found = board_name(p->b, name, value);
    if (!found) return unknown_name(p, name, why);
    if (*value < 0 || *value > UINT32_MAX) return true; /* told when it is used */
    *value *= symbol_scale(p);
    return true;
}

/* ---- numbers ---- */

static bool number_value(const places *p, const char *text, int64_t *value, char **why)
{
    size_t used = 0, length = strlen(text);
    bool bare =
        p->machine_radix && p->b != NULL && strspn(text, "0123456789abcdefABCDEF") == length;
    if (bare) {
        char *end;
        *value = (int64_t)g_ascii_strtoull(text, &end, p->b->radix == BL_OCTAL ? 8 : 16);
        if (*end == '\0' && length > 0) return true;
    }
    if (places_eaten(text)) {
        *why = g_strdup_printf("'%s' is no address; %s", text, places_eaten_hint);
        return false;
    }
    if (bl_number_scan((bl_text){text, length}, &used, value) == BL_OK && used == length)
        return true;
    *why = g_strdup_printf("'%s' is not a number; like 0x0300, 0300h, 768", text);
    return false;
}

/* A number as the address, or the count, of bytes. */
static bool scaled_number(const places *p, const char *text, int64_t *value, char **why)
{
    if (!number_value(p, text, value, why)) return false;
    if (*value < 0 || *value > UINT32_MAX) {
        *why = g_strdup_printf("'%s' is beyond all addresses", text);
        return false;
    }
    *value *= number_scale(p);
    return true;
}

/* Where the first sign of a sum stands. A piece may have a hyphen in its name: lamp-rom.light. */
static size_t sign_at(const places *p, const char *text)
{
    for (size_t i = 0; p->built != NULL && i < p->built->piece_count; i++) {
        const char *stem = p->built->pieces[i].stem;
        size_t n = strlen(stem);
        if (strncmp(text, stem, n) == 0 && text[n] == '.') return n + strcspn(text + n, "+-");
    }
    return strcspn(text, "+-");
}

static bool is_name(const char *text)
{
    return g_ascii_isalpha(*text) || *text == '_';
}

/* Numbers may begin with a letter where digits alone are hexadecimal. A symbol of that name wins.
 */
static bool term(const places *p, const char *text, int64_t *value, char **why)
{
    char *ignored = NULL;
    if (!is_name(text)) return scaled_number(p, text, value, why);
    if (symbol_value(p, text, value, why)) return true;
    bool number = p->machine_radix && scaled_number(p, text, value, &ignored);
    g_free(ignored);
    if (!number) return false;
    g_free(*why);
    *why = NULL;
    return true;
}

/* A sum: what stands first, then numbers that are added or taken away. */
static bool sum(const places *p, const char *text, int64_t *value, char **why)
{
    char *copy = g_strstrip(g_strdup(text)), *at = copy;
    size_t n = sign_at(p, at);
    char sign = at[n];
    at[n] = '\0';
    bool good = term(p, g_strchomp(at), value, why);
    while (good && sign != '\0') {
        int64_t more = 0;
        char before = sign;
        at += n + 1;
        n = strcspn(at, "+-");
        sign = at[n];
        at[n] = '\0';
        good = scaled_number(p, g_strstrip(at), &more, why);
        if (good && *value > UINT32_MAX) {
            *why = g_strdup_printf("'%s' is beyond all addresses", text);
            good = false;
        }
        if (good) *value += before == '+' ? more : -more;
    }
    g_free(copy);
    return good;
}

bool places_address(const places *p, const char *text, uint32_t *address, char **why)
{
    int64_t value = 0;
    *why = NULL;
    if (!sum(p, text, &value, why)) return false;
    if (value < 0 || value > UINT32_MAX) {
        *why = g_strdup_printf("'%s' is beyond all addresses", text);
        return false;
    }
    *address = (uint32_t)value;
    return true;
}

static bool area_range(const places *p, const char *text, bl_range *range)
{
    const char *name = g_str_has_prefix(text, "area.") ? text + 5 : text;
    for (size_t i = 0; p->b != NULL && i < p->b->area_count; i++) {
        if (strcmp(p->b->areas[i].name, name) != 0) continue;
        *range = p->b->areas[i].range;
        range->first *= symbol_scale(p);
        range->count *= symbol_scale(p);
        return true;
    }
    return false;
}

/* "FIRST+COUNT": the last + parts it, so that what stands before may be a sum itself. */
static bool counted_range(const places *p, const char *text, const char *plus, bl_range *range,
                          char **why)
{
    char *first = g_strndup(text, (gsize)(plus - text));
    int64_t count = 0;
    bool good =
        places_address(p, first, &range->first, why) && scaled_number(p, plus + 1, &count, why);
    if (good &&
        (count < 1 || (uint64_t)range->first + (uint64_t)count > (uint64_t)UINT32_MAX + 1)) {
        *why = g_strdup_printf("'%s': the count must be 1 or more, and stay within all addresses",
                               text);
        good = false;
    }
    range->count = (uint64_t)count;
    g_free(first);
    return good;
}

/* One address alone is one unit: of the file for numbers, of the machine for symbols. */
bool places_range(const places *p, const char *text, bl_range *range, char **why)
{
    uint32_t last;
    const char *dots = strstr(text, ".."), *plus = strrchr(text, '+');
    *why = NULL;
    if (area_range(p, text, range)) return true;
    if (dots == NULL && plus != NULL && plus > text)
        return counted_range(p, text, plus, range, why);
    if (dots == NULL) {
        range->count = is_name(text) ? symbol_scale(p) : number_scale(p);
        return places_address(p, text, &range->first, why);
    }
    if (dots == text || dots[2] == '\0') {
        *why =
            g_strdup_printf("'%s' is not a range: FIRST..LAST (both included) or FIRST+COUNT; %s",
                            text, places_eaten_hint);
        return false;
    }
    char *first = g_strndup(text, (gsize)(dots - text));
    bool good =
        places_address(p, first, &range->first, why) && places_address(p, dots + 2, &last, why);
    if (good && last < range->first) {
        *why = g_strdup_printf("'%s' ends before it begins", text);
        good = false;
    }
    /* Of a word at the end both bytes belong to it. */
    if (good)
        range->count =
            (uint64_t)last - range->first + (is_name(dots + 2) ? symbol_scale(p) : number_scale(p));
    g_free(first);
    return good;
}

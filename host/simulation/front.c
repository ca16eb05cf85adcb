/* front.c - parts that people see and touch. */
#include "front.h"

#include <string.h>

#include "sim/device/front/glow.h"
#include "sim/sim_past.h"

static const struct {
    const char *kind;
    front_form form;
} forms[] = {
    {"display-16x2", FRONT_DISPLAY},
    {"display-20x4", FRONT_DISPLAY},
    {"digit-cathode", FRONT_DIGIT},
    {"digit-anode", FRONT_DIGIT},
    {"lamp", FRONT_LAMP},
    {"button", FRONT_BUTTON},
    {"button-clean", FRONT_BUTTON},
    {"switch", FRONT_SWITCH},
    {"keypad-16", FRONT_KEYPAD},
    {"buzzer", FRONT_BUZZER},
};

static front_form form_of(const sim_device_kind *kind)
{
    for (size_t i = 0; i < G_N_ELEMENTS(forms); i++)
        if (strcmp(forms[i].kind, kind->about.name) == 0) return forms[i].form;
    return FRONT_NONE;
}

/* Outputs that are wired are not looked at themselves, but what they are wired to is. */
bool front_is_lamps(const sim_device *d)
{
    for (unsigned pin = 0; pin < BL_DEVICE_PINS; pin++)
        if (d->nets[pin] != 0) return false;
    return d->kind->lamps != NULL;
}

GArray *front_parts(const simulation *s)
{
    GArray *parts = g_array_new(FALSE, FALSE, sizeof(front_part));
    for (size_t i = 0; i < s->sim.board.device_count; i++) {
        const sim_device *d = &s->sim.board.devices[i];
        front_part p = {simulation_described(s->b, i)->name, d,
                        front_is_lamps(d) ? FRONT_LAMPS : form_of(d->kind)};
        if (p.form != FRONT_NONE) g_array_append_val(parts, p);
    }
    return parts;
}

uint16_t front_lit(const front_part *p)
{
    if (p->form == FRONT_LAMPS) return p->device->kind->lamps(p->device);
    return p->form == FRONT_LAMP || p->form == FRONT_DIGIT ? sim_glow_seen(p->device) : 0;
}

void front_shows(const front_part *p, char text[FRONT_TEXT])
{
    if (p->form == FRONT_LAMPS) {
        uint16_t lit = front_lit(p);
        for (unsigned i = 0; i < 8; i++)
            text[i] = (lit >> (7 - i) & 1) != 0 ? '*' : '.';
        text[8] = '\0';
        return;
    }
    size_t n = p->device->kind->shows(p->device, text, FRONT_TEXT);
    g_assert(n < FRONT_TEXT);
}

char *front_text(const simulation *s)
{
    GString *all = g_string_new(NULL);
    GArray *parts = front_parts(s);
    for (guint i = 0; i < parts->len; i++) {
        const front_part *p = &g_array_index(parts, front_part, i);
        char text[FRONT_TEXT], *line = text;
        const char *bar = p->form == FRONT_DISPLAY ? "|" : "";
        front_shows(p, text);
        for (const char *name = p->name; line != NULL; name = "") {
            char *end = strchr(line, '\n');
            if (end != NULL) *end++ = '\0';
            g_string_append_printf(all, "  %-10s %s%s%s\n", name, bar, line, bar);
            line = end;
        }
    }
    g_array_unref(parts);
    return g_string_free(all, FALSE);
}

static void tell_parts(const GArray *parts, const char *what, const bl_sink *sink)
{
    GString *hint = g_string_new("parts that can be pressed:");
    guint none = (guint)hint->len;
    for (guint i = 0; i < parts->len; i++) {
        const front_part *p = &g_array_index(parts, front_part, i);
        if (p->device->kind->operate != NULL)
            g_string_append_printf(hint, " %s%s", p->name, p->form == FRONT_KEYPAD ? " 0..F" : "");
    }
    bl_report(sink, BL_ERROR, NULL, 0,
              hint->len > none ? hint->str : "the bench file describes no buttons, switches, keys",
              "nothing can be pressed that is called '%s'", what);
    g_string_free(hint, TRUE);
}

/* A part by name and, if it has several, key. NULL: there is none. */
static const sim_device *find_part(const GArray *parts, const char *what, const char **key)
{
    size_t length = strcspn(what, " ");
    *key = what + length + strspn(what + length, " ");
    for (guint i = 0; i < parts->len; i++) {
        const front_part *p = &g_array_index(parts, front_part, i);
        if (strlen(p->name) != length || memcmp(p->name, what, length) != 0) continue;
        bool one = strlen(*key) == 1 && g_ascii_isxdigit(**key);
        bool known = p->form == FRONT_KEYPAD ? one : **key == '\0';
        return p->device->kind->operate != NULL && known ? p->device : NULL;
    }
    return NULL;
}

bl_status front_check(const simulation *s, const char *what, const bl_sink *sink)
{
    const char *key;
    GArray *parts = front_parts(s);
    bool found = find_part(parts, what, &key) != NULL;
    if (!found) tell_parts(parts, what, sink);
    g_array_unref(parts);
    return found ? BL_OK : BL_E_NOT_FOUND;
}

/* It is an event from outside: what was remembered of the past is no help behind it. */
bl_status front_touch(simulation *s, const char *what, bool down, const bl_sink *sink)
{
    const char *key;
    GArray *parts = front_parts(s);
    const sim_device *part = find_part(parts, what, &key);
    if (part != NULL) {
        sim_device *d = &s->sim.board.devices[part - s->sim.board.devices];
        bool taken = d->kind->operate(d, s->sim.now, key, down);
        g_assert(taken); /* find_part knows the keys */
        if (s->sim.past != NULL) sim_past_changed(s->sim.past);
        if (s->sim.powered) sim_nets_settle(&s->sim.board, s->sim.now);
    } else {
        tell_parts(parts, what, sink);
    }
    g_array_unref(parts);
    return part != NULL ? BL_OK : BL_E_NOT_FOUND;
}

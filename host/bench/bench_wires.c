/* bench_wires.c - 'wires' of a device: which of its pins are wired to which of others. */
#include <glib.h>
#include <string.h>

#include "bench_read.h"

/* While wires are read each end knows the net that it is in; nets that meet become one. */
typedef struct wiring {
    reader *r;
    GArray *ends; /* bench_end */
    GArray *nets; /* guint for each end: the first end of its net */
} wiring;

static bool same_end(const bench_end *a, const bench_end *b)
{
    return a->what == b->what && a->device == b->device && a->pin == b->pin;
}

/* Ground and supply are in as many nets as there are wires to them. */
static guint index_of(wiring *w, const bench_end *end)
{
    bool tie = end->what == BENCH_END_LOW || end->what == BENCH_END_HIGH;
    for (guint i = 0; !tie && i < w->ends->len; i++)
        if (same_end(&g_array_index(w->ends, bench_end, i), end)) return i;
    guint own = w->ends->len;
    g_array_append_val(w->ends, *end);
    g_array_append_val(w->nets, own);
    return own;
}

static void join(wiring *w, const bench_end *a, const bench_end *b)
{
    guint one = index_of(w, a),
          two = index_of(w, b); /* before the array is looked into: it grows */
    guint first = g_array_index(w->nets, guint, one), second = g_array_index(w->nets, guint, two);
    for (guint i = 0; i < w->nets->len; i++)
        if (g_array_index(w->nets, guint, i) == second) g_array_index(w->nets, guint, i) = first;
}

/* "known: ..." for pins; free with g_free. */
static char *pin_list(const bl_device_kind *kind)
{
    GString *list = g_string_new("pins:");
    for (size_t i = 0; kind->pins != NULL && kind->pins[i] != NULL; i++)
        g_string_append_printf(list, " %s", kind->pins[i]);
    return g_string_free(list, FALSE);
}

static bool find_pin(wiring *w, yaml_node_t *node, const bench_device *d, const char *name,
                     bench_end *end)
{
    int pin = d->kind != NULL ? bl_device_pin(d->kind, bench_text(name)) : -1;
    *end = (bench_end){BENCH_END_DEVICE, (uint8_t)(d - w->r->b->devices), (uint8_t)pin};
    if (pin >= 0) return true;
    if (d->kind == NULL || d->kind->pins == NULL) {
        yaml_fault(&w->r->yaml, node, NULL, "device '%s' has no pins that can be wired", d->name);
        return false;
    }
    char *known = pin_list(d->kind);
    yaml_fault(&w->r->yaml, node, known, "device '%s' has no pin '%s'", d->name, name);
    g_free(known);
    return false;
}

static bool find_cpu_pin(wiring *w, yaml_node_t *node, const char *name, bench_end *end)
{
    if (strcmp(name, "clock") == 0) {
        *end = (bench_end){BENCH_END_CLOCK, 0, 0};
        return true;
    }
    uint8_t request = bench_request(w->r, name);
    bool reset = strcmp(name, "reset") == 0;
    *end = (bench_end){reset ? BENCH_END_RESET : BENCH_END_REQUEST, 0, reset ? 0 : request};
    if (reset || request != BENCH_NO_REQUEST) return true;
    char *list = bench_request_list(w->r), *known = g_strdup_printf("pins: %sreset clock", list);
    yaml_fault(&w->r->yaml, node, known, "the CPU has no pin '%s' that can be wired", name);
    g_free(known);
    g_free(list);
    return false;
}

/* "via.pb0", "cpu.nmi", "low", "high". */
static bool find_end(wiring *w, yaml_node_t *node, const char *text, bench_end *end)
{
    const bench *b = w->r->b;
    const char *dot = text != NULL ? strchr(text, '.') : NULL;
    if (text != NULL && (strcmp(text, "low") == 0 || strcmp(text, "high") == 0)) {
        *end = (bench_end){text[0] == 'l' ? BENCH_END_LOW : BENCH_END_HIGH, 0, 0};
        return true;
    }
    if (dot == NULL) {
        yaml_fault(&w->r->yaml, node, "DEVICE.PIN, cpu.nmi, low, high",
                   "'%s' is no place for a wire to end", text != NULL ? text : "");
        return false;
    }
    size_t length = (size_t)(dot - text);
    if (length == 3 && memcmp(text, "cpu", 3) == 0) return find_cpu_pin(w, node, dot + 1, end);
    for (size_t i = 0; i < b->device_count; i++)
        if (strlen(b->devices[i].name) == length && memcmp(b->devices[i].name, text, length) == 0)
            return find_pin(w, node, &b->devices[i], dot + 1, end);
    yaml_fault(&w->r->yaml, node, NULL, "no device is called '%.*s'", (int)length, text);
    return false;
}

/* A program reaches a part by the register that its pin is wired to: board.PART.PIN is the address,
 * board.PART.PIN_mask the bit, board.PART.PIN_direction the direction register, if there is one;
 * board.PART.PIN_at_port whether they are ports. */
static void define_pin(wiring *w, const bench_end *part, const bench_end *other)
{
    const bench *b = w->r->b;
    if (other->what != BENCH_END_DEVICE) return;
    const bench_device *d = &b->devices[part->device], *port = &b->devices[other->device];
    const bl_device_port *p = port->kind->ports;
    /* A clock is no bit: board.DEVICE.clock is its rate (bench_clocks.c). */
    if (d->kind->clocked && part->pin == bl_device_pin(d->kind, bench_text("clock"))) return;
    for (; p != NULL && p->width > 0; p++) {
        if (other->pin < p->pin || other->pin >= p->pin + p->width) continue;
        const char *pin = d->kind->pins[part->pin];
        bench_define(w->r, g_strdup_printf("board.%s.%s", d->name, pin), port->at + p->data);
        bench_define(w->r, g_strdup_printf("board.%s.%s_mask", d->name, pin),
                     1 << (other->pin - p->pin));
        bench_define(w->r, g_strdup_printf("board.%s.%s_at_port", d->name, pin), port->in_ports);
        if (p->has_direction)
            bench_define(w->r, g_strdup_printf("board.%s.%s_direction", d->name, pin),
                         port->at + p->direction);
    }
}

static void take_wires_of(wiring *w, yaml_node_t *map, const bench_device *d)
{
    yaml_node_t *key, *value;
    const char *name;
    if (map != NULL && map->type != YAML_MAPPING_NODE) {
        yaml_fault(&w->r->yaml, map, "wires: {e: via.pb0, d4: via.pb4}",
                   "pins, and where they are wired to, are expected here");
        return;
    }
    for (size_t i = 0; (name = yaml_pair(&w->r->yaml, map, i, &key, &value)) != NULL; i++) {
        bench_end own, other;
        if (!find_pin(w, key, d, name, &own)) continue;
        if (!find_end(w, value, yaml_text(value), &other)) continue;
        if (same_end(&own, &other))
            yaml_fault(&w->r->yaml, value, NULL, "the wire goes back to where it begins");
        join(w, &own, &other);
        define_pin(w, &own, &other);
    }
}

static bool is_wired(const wiring *w, size_t device, bl_text pin)
{
    int index = bl_device_pin(w->r->b->devices[device].kind, pin);
    for (guint i = 0; i < w->ends->len; i++) {
        const bench_end *e = &g_array_index(w->ends, bench_end, i);
        if (e->what == BENCH_END_DEVICE && e->device == device && e->pin == index) return true;
    }
    return false;
}

/* A part that has no address works by its pins: those that it needs must be wired. */
static void check_needs(wiring *w, yaml_node_t *node, size_t device)
{
    const bench_device *d = &w->r->b->devices[device];
    if (d->kind == NULL || d->kind->needs == NULL || d->size > 0) return;
    for (const char *at = d->kind->needs; *at != '\0'; at += strspn(at, " ")) {
        bl_text pin = {at, strcspn(at, " ")};
        if (!is_wired(w, device, pin))
            yaml_fault(&w->r->yaml, node, "wires: {PIN: DEVICE.PIN}",
                       "device '%s' cannot work: its pin %.*s is wired to nothing", d->name,
                       (int)pin.length, pin.at);
        at += pin.length;
    }
}

static void join_rule(wiring *w, yaml_node_t *at, const char *text, size_t rule, size_t bit)
{
    bench_end pin, own = {BENCH_END_RULE, 0, (uint8_t)(rule * BENCH_RULE_BITS + bit)};
    if (find_end(w, at, text, &pin)) join(w, &own, &pin);
}

/* Rules stand in the order in which they were read: banks, then those of areas. */
static void take_rule_wires(wiring *w)
{
    reader *r = w->r;
    yaml_node_t *root = yaml_root(&r->yaml), *list = yaml_key(&r->yaml, root, "banks");
    size_t rule = 0;
    for (unsigned i = 0; i < r->file->banks_count; i++, rule++) {
        yaml_node_t *by = yaml_key(&r->yaml, yaml_item(&r->yaml, list, i), "by");
        for (unsigned k = 0; k < r->file->banks[i].by_count; k++)
            join_rule(w, yaml_item(&r->yaml, by, k), r->file->banks[i].by[k], rule, k);
    }
    list = yaml_key(&r->yaml, root, "areas");
    for (unsigned i = 0; i < r->file->areas_count; i++) {
        const file_area *f = &r->file->areas[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        rule += f->repeats != NULL;
        const char *const keys[] = {"protect", "under"}, *const texts[] = {f->protect, f->under};
        for (unsigned k = 0; k < 2; k++) {
            if (texts[k] == NULL) continue;
            if (!r->b->rules[rule].always)
                join_rule(w, yaml_key(&r->yaml, node, keys[k]), texts[k], rule, 0);
            rule++;
        }
    }
}

/* From ends and the nets that they are in to nets and their ends. */
static void keep_nets(const wiring *w)
{
    bench *b = w->r->b;
    b->nets = g_new0(bench_net, w->ends->len + 1);
    for (guint i = 0; i < w->ends->len; i++) {
        GArray *net = g_array_new(FALSE, FALSE, sizeof(bench_end));
        for (guint k = 0; k < w->ends->len; k++)
            if (g_array_index(w->nets, guint, k) == i)
                g_array_append_val(net, g_array_index(w->ends, bench_end, k));
        size_t count = net->len;
        bench_end *ends = (bench_end *)(void *)g_array_free(net, count == 0);
        if (count > 0) b->nets[b->net_count++] = (bench_net){ends, count};
    }
}

void bench_take_wires(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "devices");
    wiring w = {r, g_array_new(FALSE, FALSE, sizeof(bench_end)),
                g_array_new(FALSE, FALSE, sizeof(guint))};
    for (size_t i = 0; i < r->b->device_count; i++) {
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        const bench_device *d = &r->b->devices[i];
        yaml_node_t *map = yaml_key(&r->yaml, node, "wires");
        if (d->kind != NULL || map == NULL)
            take_wires_of(&w, map, d);
        else
            yaml_fault(&r->yaml, map, NULL, "device '%s' has no pins that can be wired", d->name);
    }
    for (size_t i = 0; i < r->b->device_count; i++)
        check_needs(&w, yaml_item(&r->yaml, list, i), i);
    if (r->yaml.faults == 0) take_rule_wires(&w); /* all rules are there */
    if (r->yaml.faults == 0) keep_nets(&w);
    g_array_free(w.ends, TRUE);
    g_array_free(w.nets, TRUE);
}

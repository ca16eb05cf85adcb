/* bench_memory.c - what changes the memory that the CPU sees: banks, repeated and protected areas,
 * ROM that is switched out; and what is read where nothing is. */
#include <glib.h>
#include <string.h>

#include "bench_read.h"

static bench_rule *add_rule(reader *r, yaml_node_t *node, bench_rule_what what, bl_range range)
{
    static bench_rule none;
    if (r->b->rule_count == BENCH_RULES) {
        yaml_fault(&r->yaml, node, NULL, "more than %d banks and rules of areas", BENCH_RULES);
        return &none;
    }
    if (range.first + range.count > 0x10000)
        yaml_fault(&r->yaml, node, NULL,
                   "memory beyond the first 64 KiB is not switched, protected or repeated here");
    bench_rule *rule = &r->b->rules[r->b->rule_count++];
    *rule = (bench_rule){.what = what, .range = range};
    return rule;
}

/* Windows only; their wires are read with the others (bench_wires.c). */
void bench_take_banks(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "banks");
    for (unsigned i = 0; i < r->file->banks_count; i++) {
        const file_bank *f = &r->file->banks[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        bl_range window;
        uint32_t first = 0;
        if (!bench_seen_range(r, yaml_key(&r->yaml, node, "window"), f->window, &window)) continue;
        if (!bench_number(r, yaml_key(&r->yaml, node, "first"), f->first, 0xFFFFFF, &first))
            continue;
        if (f->by_count == 0 || f->by_count > BENCH_RULE_BITS) {
            yaml_fault(&r->yaml, node, "by: [page.q0, page.q1], the lowest bit first",
                       "1 to %d pins choose a bank", BENCH_RULE_BITS);
            continue;
        }
        bench_rule *rule = add_rule(r, node, BENCH_RULE_BANKS, window);
        rule->stored = first;
        rule->size = (uint32_t)(window.count << f->by_count);
    }
}

static void take_repeats(reader *r, yaml_node_t *node, const char *text, const bl_area *a)
{
    bl_range range;
    yaml_node_t *at = yaml_key(&r->yaml, node, "repeats");
    if (text == NULL || !bench_seen_range(r, at, text, &range)) return;
    if (range.first != a->range.first || range.count <= a->range.count) {
        yaml_fault(&r->yaml, at, NULL,
                   "area '%s' repeats in a range that begins where it does, and is larger",
                   a->name);
        return;
    }
    add_rule(r, at, BENCH_RULE_REPEATS, range)->size = (uint32_t)a->range.count;
}

/* "always", or a pin. */
static void take_switched(reader *r, yaml_node_t *node, const char *key, const char *text,
                          bench_rule_what what, const bl_area *a)
{
    yaml_node_t *at = yaml_key(&r->yaml, node, key);
    if (text == NULL) return;
    if ((a->kind == BL_AREA_RAM) != (what == BENCH_RULE_PROTECT)) {
        yaml_fault(&r->yaml, at, NULL, "'%s' is for areas of kind %s", key,
                   what == BENCH_RULE_PROTECT ? "ram" : "rom");
        return;
    }
    add_rule(r, at, what, a->range)->always = strcmp(text, "always") == 0;
}

static void take_undriven(reader *r)
{
    const char *text = r->file->undriven;
    r->b->undriven = text != NULL ? text : "high";
    if (text == NULL || strcmp(text, "high") == 0 || strcmp(text, "low") == 0 ||
        strcmp(text, "last") == 0)
        return;
    yaml_fault(&r->yaml, yaml_key(&r->yaml, yaml_root(&r->yaml), "undriven"),
               "high, low, or last: what was on the bus last",
               "'%s' is nothing that is read where nothing is", text);
}

/* What lies in a window cannot be seen. */
static void check_windows(reader *r, yaml_node_t *list)
{
    for (size_t i = 0; i < r->b->rule_count; i++) {
        const bench_rule *rule = &r->b->rules[i];
        for (size_t k = 0; rule->what == BENCH_RULE_BANKS && k < r->b->area_count; k++)
            if (r->b->areas[k].range.count > 0 && bl_range_meet(rule->range, r->b->areas[k].range))
                yaml_fault(&r->yaml, yaml_item(&r->yaml, list, k),
                           "what is seen there is stored from 'first' of the banks on",
                           "area '%s' lies in a window of banks", r->b->areas[k].name);
    }
}

void bench_take_rules(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "areas");
    for (unsigned i = 0; i < r->file->areas_count; i++) {
        const file_area *f = &r->file->areas[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        const bl_area *a = &r->b->areas[i];
        take_repeats(r, node, f->repeats, a);
        take_switched(r, node, "protect", f->protect, BENCH_RULE_PROTECT, a);
        take_switched(r, node, "under", f->under, BENCH_RULE_UNDER, a);
    }
    check_windows(r, list);
    take_undriven(r);
}

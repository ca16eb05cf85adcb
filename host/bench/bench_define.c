/* bench_define.c - 'define': constants for the sources, by names of the user's own. */
#include <glib.h>

#include "bench_read.h"

/* libcyaml knows no maps of names of the user's own, so these nodes are read directly. */
void bench_take_defines(reader *r)
{
    yaml_node_t *map = yaml_key(&r->yaml, yaml_root(&r->yaml), "define"), *key, *node;
    r->b->first_define = r->definitions->len;
    if (map == NULL) return;
    if (map->type != YAML_MAPPING_NODE) {
        yaml_fault(&r->yaml, map, "define: {FAST: 1, LAMPS: 0x8010}",
                   "names and values are expected here");
        return;
    }
    const char *name;
    for (size_t i = 0; (name = yaml_pair(&r->yaml, map, i, &key, &node)) != NULL; i++) {
        int64_t value = 0;
        const char *text = yaml_text(node);
        if (!bench_identifier(r, key, name)) continue;
        if (text == NULL || bl_number_parse_signed(bench_text(text), &value) != BL_OK) {
            yaml_fault(&r->yaml, node, "like 12, 0x8010, -1", "the value of '%s' is not a number",
                       name);
            continue;
        }
        for (guint k = (guint)r->b->first_define; k < r->definitions->len; k++)
            if (g_strcmp0(g_array_index(r->definitions, bl_definition, k).name, name) == 0)
                yaml_fault(&r->yaml, key, NULL, "'%s' is given twice", name);
        bench_define(r, g_strdup(name), value);
    }
}

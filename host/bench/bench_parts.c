/* bench_parts.c - memory parts of the bench file's own, like one that we know or from nothing. */
#include "bench_read.h"

const bench_measure bench_cycles = {BL_NANOSECONDS, "us"};
const bench_measure bench_delays = {BL_NANOSECONDS, "ns"};
const bench_measure bench_volts = {BL_MILLIVOLTS, "V"};

/* A number that is one, but out of bounds, is told otherwise than a text that is none. */
bool bench_quantity(reader *r, yaml_node_t *node, const char *text, const bench_measure *measure,
                    uint64_t min, uint64_t max, uint64_t *value)
{
    uint64_t found = 0;
    bl_status status =
        bl_quantity_parse(bench_text(text), measure->measure, measure->usual, &found);
    if (status == BL_OK && found >= min && found <= max) {
        *value = found;
        return true;
    }
    bool number = status == BL_OK || status == BL_E_RANGE;
    char *hint =
        g_strdup_printf("like 10 %s; %s", measure->usual, bl_measure_units(measure->measure));
    yaml_fault(&r->yaml, node, number ? NULL : hint,
               number ? "%s is too small or too large here"
                      : "'%s' needs to be a number and a unit",
               text);
    g_free(hint);
    return false;
}

typedef struct part_reader {
    reader *r;
    yaml_node_t *node;
} part_reader;

static void take_part_number(part_reader *p, const char *key, const char *text, uint32_t max,
                             uint32_t *value)
{
    if (text != NULL) bench_number(p->r, yaml_key(&p->r->yaml, p->node, key), text, max, value);
}

/* In units of so many of the measure's own. */
static void take_quantity(part_reader *p, const char *key, const char *text,
                          const bench_measure *measure, uint32_t unit, uint32_t max,
                          uint32_t *value)
{
    uint64_t v = 0;
    if (text == NULL) return;
    if (bench_quantity(p->r, yaml_key(&p->r->yaml, p->node, key), text, measure, 0,
                       (uint64_t)max * unit, &v))
        *value = (uint32_t)((v + unit / 2) / unit);
}

/* How it is written: 'algorithm', which was called 'method' before. */
static void take_algorithm(part_reader *p, const file_part *f, bl_part *part)
{
    static const char *const names[] = {
        [BL_ALGORITHM_PAGE] = "page",
        [BL_ALGORITHM_BYTE] = "byte",
        [BL_ALGORITHM_PULSE] = "pulses",
        [BL_ALGORITHM_COMMAND] = "commands",
    };
    const char *text = f->algorithm != NULL ? f->algorithm : f->method;
    yaml_node_t *at = yaml_key(&p->r->yaml, p->node, f->algorithm != NULL ? "algorithm" : "method");
    if (f->algorithm != NULL && f->method != NULL) {
        yaml_fault(&p->r->yaml, at, "leave 'method' out", "'algorithm' and 'method' are the same");
        return;
    }
    if (text == NULL) return;
    for (size_t i = 0; i < G_N_ELEMENTS(names); i++)
        if (strcmp(names[i], text) == 0) {
            part->algorithm = (uint8_t)i;
            return;
        }
    yaml_fault(&p->r->yaml, at, "page, byte, pulses or commands",
               "'%s' is no algorithm for writing a part", text);
}

static void take_access_times(part_reader *p, const char *text, bl_part *part)
{
    if (text == NULL) return;
    char **words = g_strsplit_set(text, " ,", 0);
    size_t n = 0;
    memset(part->access_ns, 0, sizeof part->access_ns);
    yaml_node_t *at = yaml_key(&p->r->yaml, p->node, "access");
    for (char **w = words; *w != NULL; w++) {
        uint32_t value = 0;
        if (**w == '\0' || !bench_number(p->r, at, *w, 5000, &value)) continue;
        if (n == BL_GRADES - 1) {
            yaml_fault(&p->r->yaml, at, NULL, "a part has at most %d access times", BL_GRADES - 1);
            break;
        }
        part->access_ns[n++] = (uint16_t)value;
    }
    g_strfreev(words);
}

/* Figures that are not given stay those of 'like', or of the usual part. */
static void take_figures(part_reader *p, const file_part *f, bl_part *part)
{
    uint32_t page = part->page, pins = part->pins, pulses = part->pulses, over = part->over;
    uint32_t vpp = part->vpp, vcc = part->vcc, window = part->window_us;
    take_part_number(p, "size", f->size, 0x1000000, &part->size);
    take_part_number(p, "pins", f->pins, 40, &pins);
    take_part_number(p, "page", f->page, BL_PAGE_MAX, &page);
    take_part_number(p, "pulses", f->pulses, 255, &pulses);
    take_part_number(p, "over", f->over, 255, &over);
    take_part_number(p, "sector", f->sector, 0x1000000, &part->sector);
    take_quantity(p, "cycle", f->cycle, &bench_cycles, 1000, 1000000, &part->cycle_us);
    take_quantity(p, "window", f->window, &bench_cycles, 1000, 65000, &window);
    take_quantity(p, "erase", f->erase, &bench_cycles, 1000, 20000000, &part->erase_us);
    take_quantity(p, "vpp", f->vpp, &bench_volts, 100, 255, &vpp);
    take_quantity(p, "supply", f->supply, &bench_volts, 100, 70, &vcc);
    part->page = (uint16_t)page;
    part->window_us = (uint16_t)window;
    part->pins = (uint8_t)pins, part->pulses = (uint8_t)pulses, part->over = (uint8_t)over;
    part->vpp = (uint8_t)vpp, part->vcc = (uint8_t)vcc;
}

/* What no single key can tell, the part as a whole does: bl_part_fault. */
static void take_part(reader *r, yaml_node_t *node, const file_part *f, bl_part *part)
{
    part_reader p = {r, node};
    const bl_part *like = f->like != NULL ? bl_part_named(bench_text(f->like)) : NULL;
    unsigned before = r->yaml.faults;
    if (f->like != NULL && like == NULL)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "like"),
                   "bootlace chip plan --parts lists them", "no part is called '%s'", f->like);
    *part = like != NULL ? *like : (bl_part){.pins = 28, .page = 64, .cycle_us = 10000, .vcc = 50};
    if (strlen(f->name) >= sizeof part->name)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                   "the name of a part has at most %d characters", BL_PART_NAME - 1);
    g_strlcpy(part->name, f->name, sizeof part->name);
    take_algorithm(&p, f, part);
    take_figures(&p, f, part);
    take_access_times(&p, f->access, part);
    const char *fault = bl_part_fault(part);
    if (fault != NULL && r->yaml.faults == before)
        yaml_fault(&r->yaml, node, "docs/parts.md tells what each algorithm needs", "part '%s': %s",
                   f->name, fault);
}

void bench_take_parts(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "parts");
    r->b->parts = g_new0(bl_part, r->file->parts_count + 1);
    for (unsigned i = 0; i < r->file->parts_count; i++)
        take_part(r, yaml_item(&r->yaml, list, i), &r->file->parts[i], &r->b->parts[i]);
    r->b->part_count = r->file->parts_count;
}

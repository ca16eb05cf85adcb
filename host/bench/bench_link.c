/* bench_link.c - the line to the machine, and who is at its other end. */
#include <glib.h>
#include <string.h>

#include "bench_read.h"
#include "files/files.h"

bl_dialogue *bench_take_dialogue(reader *r, yaml_node_t *node, const char *file)
{
    char *path = host_path_in(r->b->folder, file), *text = NULL;
    size_t length = 0;
    bl_dialogue *d = g_new0(bl_dialogue, 1);
    if (host_read_file(path, &text, &length, r->sink) != BL_OK ||
        bl_dialogue_read((bl_text){text, length}, path, r->sink, d) != BL_OK)
        yaml_fault(&r->yaml, node, "docs/dialogue.md", "the dialogue '%s' cannot be used", file);
    g_free(text);
    g_free(path);
    return d;
}

static void take_device(reader *r, yaml_node_t *node, const file_link *f)
{
    bench *b = r->b;
    for (size_t i = 0; f->device != NULL && i < b->device_count; i++)
        if (strcmp(b->devices[i].name, f->device) == 0) b->link_device = &b->devices[i];
    if (f->device != NULL && b->link_device == NULL)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "device"), NULL, "no device is called '%s'",
                   f->device);
}

static void take_line_rate(reader *r, yaml_node_t *node, const file_link *f)
{
    bench *b = r->b;
    yaml_node_t *at = yaml_key(&r->yaml, node, "baud");
    if (b->link_dialogue != NULL && b->link_dialogue->baud > 0)
        b->link_baud = b->link_dialogue->baud;
    if (f->baud != NULL)
        bench_number(r, at, f->baud, 1000000, &b->link_baud);
    else if (b->link_dialogue == NULL && b->method != BL_METHOD_PARALLEL)
        yaml_fault(&r->yaml, node, "baud: 9600", "the line's rate is missing");
    if (b->link_baud < 50)
        yaml_fault(&r->yaml, at, NULL, "%lu baud is too slow for any line",
                   (unsigned long)b->link_baud);
    bench_define(r, g_strdup("board.link.baud"), b->link_baud);
}

/* How bytes get there: as it is said, or as whoever is there takes them. */
static void take_method(reader *r, yaml_node_t *node, const file_link *f)
{
    bench *b = r->b;
    bool aglet = f->monitor != NULL && strcmp(f->monitor, "aglet") == 0;
    b->method = b->link_dialogue != NULL ? b->link_dialogue->loader
                : aglet                  ? BL_METHOD_ACKED
                                         : BL_METHOD_EYELET;
    if (f->monitor != NULL && !aglet && strcmp(f->monitor, "eyelet") != 0)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "monitor"),
                   "known: eyelet, aglet; others are described by a dialogue: file",
                   "no monitor is called '%s'", f->monitor);
    if (f->monitor != NULL && f->dialogue != NULL)
        yaml_fault(&r->yaml, node, NULL, "either a monitor of ours, or a dialogue");
    if (f->method == NULL) return;
    b->method = bl_method_named(bench_text(f->method));
    if (b->method == BL_METHOD_NONE) {
        char known[BL_METHOD_LIST + 8] = "known: ";
        bl_method_list(bl_method_any, known + strlen(known), BL_METHOD_LIST);
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "method"), known, "there is no method '%s'",
                   f->method);
    } else if (bl_method_of(b->method)->needs_dialogue && f->dialogue == NULL)
        yaml_fault(&r->yaml, node, "dialogue: FILE", "%s needs a dialogue: what is typed?",
                   f->method);
}

static void take_small(reader *r, yaml_node_t *node, const char *key, const char *text,
                       uint32_t min, uint32_t max, uint8_t *to)
{
    uint32_t value = min;
    if (text == NULL || !bench_number(r, yaml_key(&r->yaml, node, key), text, max, &value)) return;
    if (value < min)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, key), NULL, "'%s' is at least %u", key, min);
    *to = (uint8_t)value;
}

static void take_neighbour(reader *r, yaml_node_t *node, const file_link *f)
{
    char known[80] = "known:";
    r->b->neighbour = f->neighbour;
    if (f->neighbour == NULL) return;
    const char *name;
    for (size_t i = 0; (name = r->hardware->neighbour(i)) != NULL; i++) {
        if (strcmp(f->neighbour, name) == 0) return;
        g_strlcat(known, " ", sizeof known);
        g_strlcat(known, name, sizeof known);
    }
    yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "neighbour"), known,
               "nobody called '%s' is on the simulated bench", f->neighbour);
}

void bench_take_link(reader *r)
{
    yaml_node_t *node = yaml_key(&r->yaml, yaml_root(&r->yaml), "link");
    const file_link *f = r->file->link;
    bench *b = r->b;
    b->link_baud = 9600;
    b->method = BL_METHOD_EYELET;
    if (f == NULL) return;
    b->has_link = true;
    if (f->dialogue != NULL)
        b->link_dialogue =
            bench_take_dialogue(r, yaml_key(&r->yaml, node, "dialogue"), f->dialogue);
    take_device(r, node, f);
    take_method(r, node, f);
    take_line_rate(r, node, f);
    take_small(r, node, "packet", f->packet, BL_PACKET_MIN, BL_PACKET_MAX, &b->packet);
    take_small(r, node, "rounds", f->rounds, 1, 50, &b->rounds);
    take_neighbour(r, node, f);
}

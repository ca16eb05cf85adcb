/* bench_disk.c - 'disk': layouts and wrappers of the machine's disks, what its ROM boots from, and
 * the disk that a build ends in. */
#include <glib.h>

#include "bench_read.h"

static yaml_node_t *disk_node(reader *r)
{
    return yaml_key(&r->yaml, yaml_root(&r->yaml), "disk");
}

/* "1.44M" is what a floppy of 1,440 KiB is called. */
bool bench_disk_size(const char *text, uint64_t *bytes)
{
    char *end;
    double value = g_ascii_strtod(text, &end);
    if (end == text || !(value > 0 && value < 1e12)) return false;
    bool whole = strcspn(text, ".eExXpP") >= (size_t)(end - text);
    uint64_t unit = 1;
    if (*end == 'K' || *end == 'k') unit = 1024;
    if (*end == 'M' || *end == 'm') unit = whole ? 1024 * 1024 : 1000 * 1024;
    if (*end == 'G' || *end == 'g') unit = 1024u * 1024 * 1024;
    if (unit > 1) end++;
    if (*end == 'B' && unit > 1) end++;
    *bytes = (uint64_t)(value * (double)unit + 0.5);
    return *end == '\0' && (whole || unit == 1000 * 1024) && *bytes > 0;
}

/* A number that may be left out. */
static uint32_t number_of(reader *r, yaml_node_t *node, const char *key, const char *text,
                          uint32_t most, uint32_t usual)
{
    uint32_t value = usual;
    if (text != NULL) bench_number(r, yaml_key(&r->yaml, node, key), text, most, &value);
    return value;
}

/* The index of a word in a list that ends with NULL; -1: it is none, and was told. */
static int index_of_word(reader *r, yaml_node_t *node, const char *text, const char *const *words)
{
    GString *all = g_string_new(NULL);
    for (int i = 0; words[i] != NULL; i++) {
        if (strcmp(text, words[i]) == 0) {
            g_string_free(all, TRUE);
            return i;
        }
        g_string_append_printf(all, "%s%s", i > 0 ? ", " : "", words[i]);
    }
    yaml_fault(&r->yaml, node, all->str, "'%s' is none of those that are known", text);
    g_string_free(all, TRUE);
    return -1;
}

/* The same of a key that may be left out: then the first word is meant. */
static int choice_of(reader *r, yaml_node_t *node, const char *key, const char *text,
                     const char *const *words)
{
    return text == NULL ? 0 : index_of_word(r, yaml_key(&r->yaml, node, key), text, words);
}

/* ---- layouts ---- */

static void take_layout(reader *r, yaml_node_t *node, const file_layout *f, bl_classic *l)
{
    const char *why;
    if (strlen(f->name) >= sizeof l->name)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                   "a layout's name has at most %zu characters", sizeof l->name - 1);
    g_strlcpy(l->name, f->name, sizeof l->name);
    l->sector = (uint16_t)number_of(r, node, "sector", f->sector, 1024, 0);
    l->track = (uint16_t)number_of(r, node, "track", f->track, BL_CLASSIC_TRACK, 0);
    l->tracks = (uint16_t)number_of(r, node, "tracks", f->tracks, 65535, 0);
    l->system = (uint16_t)number_of(r, node, "system", f->system, 65535, 0);
    l->block = (uint16_t)number_of(r, node, "block", f->block, 16384, 0);
    l->entries = (uint16_t)number_of(r, node, "entries", f->entries, 65535, 0);
    l->skew = (uint8_t)number_of(r, node, "skew", f->skew, 255, 0);
    l->extents = (uint8_t)number_of(r, node, "extents", f->extents, 16, 0);
    yaml_node_t *order = yaml_key(&r->yaml, node, "order");
    if (f->order_count > 0 && f->order_count != l->track)
        yaml_fault(&r->yaml, order, NULL, "a track has %u sectors, and the order names %u",
                   l->track, f->order_count);
    for (unsigned i = 0; i < f->order_count && i < BL_CLASSIC_TRACK; i++) {
        uint32_t sector = 0;
        if (bench_number(r, yaml_item(&r->yaml, order, i), f->order[i], 255, &sector))
            l->order[i] = (uint8_t)sector;
    }
    if (f->order_count > 0 && l->order[0] == 0)
        yaml_fault(&r->yaml, order, NULL, "sectors of a track count from 1");
    if (r->yaml.faults == 0 && bl_classic_check_layout(l, &why) != BL_OK)
        yaml_fault(&r->yaml, node, NULL, "there can be no such disk: %s", why);
}

/* ---- wrappers ---- */

static const char *const field_words[] = {"text",   "number", "name",  "length", "load",
                                          "last",   "end",    "entry", "sum8",   "sum16",
                                          "minus8", "xor8",   "crc16", "crc32",  NULL};
static const uint8_t field_sizes[] = {0, 1, 0, 2, 2, 2, 2, 2, 1, 2, 1, 1, 2, 4};

/* Texts and names are as long as they say; numbers have 1 to 4 bytes. */
static void take_field_size(reader *r, yaml_node_t *node, const file_field *f, bl_wrap_field *w)
{
    bool text = w->kind == BL_WRAP_TEXT_FIELD || w->kind == BL_WRAP_FILE;
    uint32_t usual =
        w->kind == BL_WRAP_TEXT_FIELD ? (uint32_t)strlen(w->text) : field_sizes[w->kind];
    uint32_t size = number_of(r, node, "size", f->size, text ? 255 : 4, usual);
    if (size == 0 || (w->kind == BL_WRAP_TEXT_FIELD && size < strlen(w->text)))
        yaml_fault(&r->yaml, node, "size: 8",
                   text && size > 0 ? "the text is longer than its field"
                                    : "this field needs a size");
    w->size = (uint8_t)size;
}

static void take_field(reader *r, yaml_node_t *node, const file_field *f, bl_wrap_field *w)
{
    static const char *const orders[] = {"low-first", "high-first", NULL};
    static const char *const overs[] = {"data", "head", "all", NULL};
    int kind = index_of_word(r, yaml_key(&r->yaml, node, "field"), f->field, field_words);
    int order = choice_of(r, node, "order", f->order, orders);
    int over = choice_of(r, node, "over", f->over, overs);
    if (kind < 0 || order < 0 || over < 0) return;
    w->kind = (bl_wrap_kind)kind, w->big = order == 1, w->over = (bl_wrap_over)over;
    w->value = number_of(r, node, "value", f->value, UINT32_MAX, 0);
    w->pad = (uint8_t)number_of(r, node, "pad", f->pad, 255, ' ');
    const char *plus = f->plus != NULL && f->plus[0] == '-' ? f->plus + 1 : f->plus;
    w->plus = (int32_t)number_of(r, node, "plus", plus, 65535, 0);
    if (plus != f->plus) w->plus = -w->plus;
    if (f->text != NULL && strlen(f->text) > BL_WRAP_TEXT)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "text"), NULL,
                   "a text has at most %d characters", BL_WRAP_TEXT);
    g_strlcpy(w->text, f->text != NULL ? f->text : "", sizeof w->text);
    if (w->kind == BL_WRAP_TEXT_FIELD && f->text == NULL)
        yaml_fault(&r->yaml, node, "{field: text, text: SKERRY}", "a text field has a text");
    if (w->kind == BL_WRAP_NUMBER && f->value == NULL)
        yaml_fault(&r->yaml, node, "{field: number, value: 0x1A}", "a number field has a value");
    take_field_size(r, node, f, w);
}

static void take_wrap(reader *r, yaml_node_t *node, const file_wrap *f, bl_wrap *w)
{
    yaml_node_t *head = yaml_key(&r->yaml, node, "head"), *foot = yaml_key(&r->yaml, node, "foot");
    if (strlen(f->name) >= sizeof w->name || f->head_count + f->foot_count > BL_WRAP_FIELDS) {
        yaml_fault(&r->yaml, node, NULL,
                   "a wrapper has a name of at most %zu characters, and at most %d fields",
                   sizeof w->name - 1, BL_WRAP_FIELDS);
        return;
    }
    g_strlcpy(w->name, f->name, sizeof w->name);
    w->head = f->head_count, w->foot = f->foot_count;
    for (unsigned i = 0; i < f->head_count; i++)
        take_field(r, yaml_item(&r->yaml, head, i), &f->head[i], &w->field[i]);
    for (unsigned i = 0; i < f->foot_count; i++)
        take_field(r, yaml_item(&r->yaml, foot, i), &f->foot[i], &w->field[w->head + i]);
    if (w->head + w->foot == 0)
        yaml_fault(&r->yaml, node, "head: [{field: load}]", "a wrapper has a field at least");
}

/* ---- what the ROM boots from ---- */

static void take_rule(reader *r, const file_disk *f, bench_disk *d)
{
    static const char *const sums[] = {"sum8", "xor8", "words", "words-high-first", NULL};
    yaml_node_t *marks = yaml_key(&r->yaml, disk_node(r), "boot_marks");
    yaml_node_t *node = yaml_key(&r->yaml, disk_node(r), "boot_sum");
    const file_boot_sum *s = f->boot_sum;
    d->has_rule = f->boot_marks_count > 0 || s != NULL;
    if (f->boot_marks_count > BL_BOOT_MARKS) {
        yaml_fault(&r->yaml, marks, NULL, "a boot program has at most %d marks", BL_BOOT_MARKS);
        return;
    }
    for (unsigned i = 0; i < f->boot_marks_count; i++) {
        yaml_node_t *mark = yaml_item(&r->yaml, marks, i);
        uint32_t at = number_of(r, mark, "at", f->boot_marks[i].at, 0xFFFFFF, 0);
        uint32_t value = number_of(r, mark, "value", f->boot_marks[i].value, 255, 0);
        d->rule.mark[i].at = at, d->rule.mark[i].value = (uint8_t)value;
    }
    d->rule.mark_count = f->boot_marks_count;
    if (s == NULL) return;
    int kind = index_of_word(r, yaml_key(&r->yaml, node, "kind"), s->kind, sums);
    bl_range over;
    if (kind >= 0) d->rule.sum = (bl_boot_sum)((unsigned)BL_BOOT_SUM8 + (unsigned)kind);
    if (bl_range_parse(bench_text(s->over), &over) == BL_OK)
        d->rule.sum_from = (uint32_t)over.first, d->rule.sum_count = (uint32_t)over.count;
    else
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "over"), "over: 0..511",
                   "'%s' is no range of bytes", s->over);
    d->rule.sum_at = number_of(r, node, "at", s->at, 0xFFFFFF, 0);
    d->rule.total = (uint16_t)number_of(r, node, "total", s->total, 65535, 0);
}

/* ---- the disk that is built ---- */

static bool has_wrap(const bench_disk *d, const char *name)
{
    for (size_t i = 0; i < d->wrap_count; i++)
        if (strcmp(d->wraps[i].name, name) == 0) return true;
    return false;
}

static void take_disk_file(reader *r, yaml_node_t *node, const file_disk_file *f, bench_disk *d,
                           bench_disk_file *to)
{
    int given = (f->source != NULL) + (f->file != NULL) + (f->lines_count > 0);
    *to = (bench_disk_file){.source = f->source,
                            .file = f->file,
                            .lines = f->lines,
                            .line_count = f->lines_count,
                            .of = f->of,
                            .to = f->to,
                            .wrap = f->wrap,
                            .at = f->at,
                            .starts = f->starts,
                            .line = yaml_line(node)};
    if (given != 1)
        yaml_fault(&r->yaml, node,
                   "{source: lamp.asm}, {file: notes.txt} or {lines: [...], to: ...}",
                   "a file is made of a source, a file or lines of text: of one of them");
    static const char *const newlines[] = {"crlf", "lf", "cr", NULL};
    static const char *const endings[] = {"\r\n", "\n", "\r"};
    int newline = choice_of(r, node, "newline", f->newline, newlines);
    to->newline = endings[newline < 0 ? 0 : newline];
    if (f->lines_count > 0 && f->to == NULL)
        yaml_fault(&r->yaml, node, "to: START.TXT", "a text needs a name on the disk");
    if ((f->of != NULL || f->newline != NULL) && f->lines_count == 0)
        yaml_fault(&r->yaml, node, NULL, "'of' and 'newline' belong to lines of text");
    if (f->wrap != NULL && !has_wrap(d, f->wrap))
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "wrap"), "disk: {wraps: [{name: ...}]}",
                   "there is no wrapper '%s'", f->wrap);
    to->user = (uint8_t)number_of(r, node, "user", f->user, 15, 0);
}

static void take_built_disk(reader *r, const file_disk *f, bench_disk *d)
{
    yaml_node_t *node = disk_node(r);
    bool builds = f->files_count > 0 || f->boot != NULL || f->kind != NULL || f->image != NULL;
    if (f->kind != NULL) {
        d->kind = bl_disk_kind_named(bench_text(f->kind));
        if (d->kind == BL_DISK_UNKNOWN)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "kind"), "fat12, fat16, classic or bare",
                       "'%s' is no kind of disk", f->kind);
    }
    if (builds && f->kind == NULL && f->from == NULL)
        yaml_fault(&r->yaml, node, "kind: fat12, or from: TEMPLATE",
                   "the disk that is to be built has no kind");
    if (f->size != NULL && !bench_disk_size(f->size, &d->size))
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "size"), "size: 1440K",
                   "'%s' is no size of a disk", f->size);
    d->image = f->image != NULL ? f->image : builds ? "disk.img" : NULL;
    if (d->image != NULL && (strchr(d->image, '/') != NULL || d->image[0] == '.'))
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "image"), "image: skerry.img",
                   "the image is a file in the folder of what is built");
    d->label = f->label, d->layout = f->layout, d->from = f->from, d->boot = f->boot;
    d->partition = f->partition;
    yaml_node_t *list = yaml_key(&r->yaml, node, "files");
    d->files = g_new0(bench_disk_file, f->files_count + 1);
    d->file_count = f->files_count;
    for (unsigned i = 0; i < f->files_count; i++)
        take_disk_file(r, yaml_item(&r->yaml, list, i), &f->files[i], d, &d->files[i]);
}

void bench_take_disk(reader *r)
{
    const file_disk *f = r->file->disk;
    bench_disk *d = &r->b->disk;
    if (f == NULL) return;
    yaml_node_t *layouts = yaml_key(&r->yaml, disk_node(r), "layouts");
    yaml_node_t *wraps = yaml_key(&r->yaml, disk_node(r), "wraps");
    d->layouts = g_new0(bl_classic, f->layouts_count + 1);
    d->wraps = g_new0(bl_wrap, f->wraps_count + 1);
    d->layout_count = f->layouts_count, d->wrap_count = f->wraps_count;
    for (unsigned i = 0; i < f->layouts_count; i++)
        take_layout(r, yaml_item(&r->yaml, layouts, i), &f->layouts[i], &d->layouts[i]);
    for (unsigned i = 0; i < f->wraps_count; i++)
        take_wrap(r, yaml_item(&r->yaml, wraps, i), &f->wraps[i], &d->wraps[i]);
    take_rule(r, f, d);
    take_built_disk(r, f, d);
}

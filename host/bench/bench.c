/* bench.c - from the loaded file to a checked bench: every value parsed, every promise looked
 * after. */
#include "bench.h"

#include <glib.h>
#include <string.h>

#include "bench_read.h"
#include "files/files.h"
#include "project/sheets.h"

typedef struct owned {
    file_bench *file;
    GPtrArray *texts;
} owned;

static char *keep_text(reader *r, char *text)
{
    g_ptr_array_add(((owned *)r->b->owned)->texts, text);
    return text;
}

bool bench_clock(const char *text, uint32_t *hertz)
{
    uint64_t value;
    if (bl_quantity_parse(bench_text(text), BL_HERTZ, "Hz", &value) != BL_OK) return false;
    if (value < 1 || value > 100000000) return false;
    *hertz = (uint32_t)value;
    return true;
}

/* ---- values ---- */

bool bench_number(reader *r, yaml_node_t *node, const char *text, uint32_t max, uint32_t *value)
{
    if (bl_number_parse(bench_text(text), max, value) == BL_OK) return true;
    yaml_fault(&r->yaml, node, NULL, "'%s' is not a number from 0 to %lu", text,
               (unsigned long)max);
    return false;
}

/* What is stored may lie beyond what the CPU can see, where banks bring it into sight. */
static uint64_t stored_end(const reader *r)
{
    uint64_t end = (uint64_t)1 << bl_sheet_address_bits(r->b->sheet);
    for (size_t i = 0; i < r->b->rule_count; i++) {
        const bench_rule *rule = &r->b->rules[i];
        if (rule->what == BENCH_RULE_BANKS && rule->stored + (uint64_t)rule->size > end)
            end = rule->stored + (uint64_t)rule->size;
    }
    return end;
}

static bool range_below(reader *r, yaml_node_t *node, const char *text, uint64_t limit,
                        bl_range *value)
{
    bl_status status = bl_range_parse(bench_text(text), value);
    uint64_t end = (uint64_t)value->first + value->count;
    bool held = end * bl_sheet_unit_bytes(r->b->sheet) <= (uint64_t)UINT32_MAX + 1;
    if (status == BL_OK && end <= limit && held) return true;
    yaml_fault(&r->yaml, node, "FIRST..LAST (both included) or FIRST+COUNT",
               status == BL_OK         ? "'%s' goes beyond the CPU's addresses"
               : status == BL_E_SYNTAX ? "'%s' is not a range of addresses"
                                       : "'%s' ends before it begins, or beyond 32 bits",
               text);
    return false;
}

bool bench_range(reader *r, yaml_node_t *node, const char *text, bl_range *value)
{
    return range_below(r, node, text, stored_end(r), value);
}

bool bench_seen_range(reader *r, yaml_node_t *node, const char *text, bl_range *value)
{
    return range_below(r, node, text, (uint64_t)1 << bl_sheet_address_bits(r->b->sheet), value);
}

enum { MAX_NAME = 40 };

bool bench_identifier(reader *r, yaml_node_t *node, const char *name)
{
    bool good = g_ascii_isalpha(name[0]);
    for (const char *p = name; *p != '\0'; p++)
        good = good && (g_ascii_isalnum(*p) || *p == '_');
    if (strlen(name) > MAX_NAME) {
        yaml_fault(&r->yaml, node, NULL, "a name has at most %d characters", MAX_NAME);
        return false;
    }
    if (!good)
        yaml_fault(&r->yaml, node, "letters, digits and _; a letter first",
                   "'%s' cannot be used as a name", name);
    return good;
}

void bench_define(reader *r, char *name, int64_t value)
{
    bl_definition d = {keep_text(r, name), value};
    g_array_append_val(r->definitions, d);
}

/* ---- sections ---- */

/* Parts of the range that belong to others, or to nobody. */
static void take_holes(reader *r, yaml_node_t *node, const file_area *f, bl_area *a, size_t *used)
{
    yaml_node_t *list = yaml_key(&r->yaml, node, "holes");
    bl_range *holes = r->b->holes + *used;
    a->holes = holes;
    for (unsigned i = 0; i < f->holes_count; i++) {
        yaml_node_t *at = yaml_item(&r->yaml, list, i);
        if (!bench_range(r, at, f->holes[i], &holes[a->hole_count])) continue;
        if (!bl_range_holds(a->range, holes[a->hole_count]))
            yaml_fault(&r->yaml, at, NULL, "this hole is not inside of area '%s'", f->name);
        for (size_t k = 0; k < a->hole_count; k++)
            if (bl_range_meet(holes[k], holes[a->hole_count]))
                yaml_fault(&r->yaml, at, NULL, "two holes of area '%s' overlap", f->name);
        a->hole_count++;
    }
    *used += a->hole_count;
}

/* Is what they have in common in a hole of one of them? */
static bool areas_meet(const bl_area *a, const bl_area *b)
{
    if (a->range.count == 0 || b->range.count == 0 || !bl_range_meet(a->range, b->range))
        return false;
    uint32_t first = MAX(a->range.first, b->range.first),
             last = MIN(bl_range_last(a->range), bl_range_last(b->range));
    bl_range common = {first, (uint64_t)last - first + 1};
    for (size_t i = 0; i < a->hole_count; i++)
        if (bl_range_holds(a->holes[i], common)) return false;
    for (size_t i = 0; i < b->hole_count; i++)
        if (bl_range_holds(b->holes[i], common)) return false;
    return true;
}

/* Holes of all areas stand in one array, which must not move while areas point into it: so they
 * are counted first. */
static void take_areas(reader *r)
{
    static const char *const kinds[] = {
        [BL_AREA_RAM] = "ram",
        [BL_AREA_ROM] = "rom",
        [BL_AREA_IO] = "io",
    };
    _Static_assert(G_N_ELEMENTS(kinds) == BL_AREA_IO + 1, "one for each");
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "areas");
    bench *b = r->b;
    size_t holes = 0, hole = 0;
    for (unsigned i = 0; i < r->file->areas_count; i++)
        holes += r->file->areas[i].holes_count;
    b->areas = g_new0(bl_area, r->file->areas_count + 1);
    b->holes = g_new0(bl_range, holes + 1);
    for (unsigned i = 0; i < r->file->areas_count; i++) {
        const file_area *f = &r->file->areas[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        bl_area *a = &b->areas[i];
        uint32_t fill = 0xFF;
        size_t k = 0;
        a->name = f->name;
        bench_identifier(r, yaml_key(&r->yaml, node, "name"), f->name);
        while (k < 3 && g_ascii_strcasecmp(kinds[k], f->kind) != 0)
            k++;
        if (k == 3)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "kind"), "ram, rom or io",
                       "'%s' is no kind of area", f->kind);
        a->kind = (bl_area_kind)(k % 3);
        a->keeps = f->battery;
        if (f->battery && a->kind != BL_AREA_RAM)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "battery"), NULL,
                       "area '%s' is no RAM: a battery keeps nothing there", f->name);
        if (f->fill != NULL) bench_number(r, yaml_key(&r->yaml, node, "fill"), f->fill, 255, &fill);
        a->fill = (uint8_t)fill;
        if (!bench_range(r, yaml_key(&r->yaml, node, "range"), f->range, &a->range))
            a->range.count = 0;
        take_holes(r, node, f, a, &hole);
        for (unsigned j = 0; j < i; j++) {
            if (strcmp(b->areas[j].name, f->name) == 0)
                yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                           "area '%s' is described twice (first on line %u)", f->name,
                           yaml_line(yaml_item(&r->yaml, list, j)));
            if (areas_meet(a, &b->areas[j]))
                yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "range"), NULL,
                           "area '%s' overlaps area '%s' ($%04lX..$%04lX, line %u)", f->name,
                           b->areas[j].name, (unsigned long)b->areas[j].range.first,
                           (unsigned long)bl_range_last(b->areas[j].range),
                           yaml_line(yaml_item(&r->yaml, list, j)));
        }
    }
    b->area_count = r->file->areas_count;
}

/* Defaults first: a bench file without a programmer burns with ours. */
static void take_programmer(reader *r)
{
    const file_programmer *f = r->file->programmer;
    bench *b = r->b;
    uint64_t vpp = 21000; /* millivolts: what a programmer usually makes from its 5 V */
    b->programmer_baud = 115200;
    b->programmer_vpp = bench_tenths(vpp);
    if (f == NULL) return;
    yaml_node_t *p = yaml_key(&r->yaml, yaml_root(&r->yaml), "programmer");
    if (f->dialogue != NULL) {
        yaml_node_t *at = yaml_key(&r->yaml, p, "dialogue");
        b->dialogue = bench_take_dialogue(r, at, f->dialogue);
        b->programmer_baud = b->dialogue->baud;
        if (b->dialogue->write[0] == '\0' || b->dialogue->read[0] == '\0')
            yaml_fault(&r->yaml, at, "docs/dialogue.md",
                       "the dialogue of a programmer needs 'write' and 'read'");
    }
    if (f->baud != NULL)
        bench_number(r, yaml_key(&r->yaml, p, "baud"), f->baud, 1000000, &b->programmer_baud);
    if (b->programmer_baud < 50)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, p, "baud"), NULL,
                   "%lu baud is too slow for any line", (unsigned long)b->programmer_baud);
    if (f->vpp != NULL)
        bench_quantity(r, yaml_key(&r->yaml, p, "vpp"), f->vpp, &bench_volts, 5000, 25500, &vpp);
    b->programmer_vpp = bench_tenths(vpp);
}

/* Source or firmware, for chips or RAM; what is built from what is checked where it is built. */
static void take_pieces(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "build");
    bench *b = r->b;
    b->pieces = g_new0(bench_piece, r->file->build_count + 1);
    for (unsigned i = 0; i < r->file->build_count; i++) {
        const file_piece *f = &r->file->build[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        bench_piece *p = &b->pieces[i];
        *p = (bench_piece){f->source, f->firmware, strcmp(f->for_what, "chips") == 0,
                           yaml_line(node)};
        if (!p->for_chips && strcmp(f->for_what, "ram") != 0)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "for"), "chips or ram",
                       "nothing is built for '%s'", f->for_what);
        if ((f->source == NULL) == (f->firmware == NULL))
            yaml_fault(&r->yaml, node, "{source: FILE, for: ...} or {firmware: eyelet, for: ...}",
                       "a source or a firmware is needed here");
        bl_text cpu = bl_sheet_name(b->sheet);
        if (f->firmware != NULL && bench_firmware(b->sheet, f->firmware) == NULL)
            yaml_fault(
                &r->yaml, yaml_key(&r->yaml, node, "firmware"),
                "known: eyelet, aglet, grommet, tongue, tape-loader, tape-saver, disk-loader, "
                "disk-start",
                "no firmware '%s' comes with Bootlace for the %.*s", f->firmware, (int)cpu.length,
                cpu.at);
    }
    b->piece_count = r->file->build_count;
}

/* Two bench files in one folder have results and parts of their own: "slow.yaml" builds into
 * out-slow and keeps its chips in state-slow. */
static void take_folders(reader *r)
{
    bench *b = r->b;
    char *stem = host_stem(b->path);
    bool usual = strcmp(stem, "bench") == 0;
    char *out = usual ? g_strdup("out") : g_strconcat("out-", stem, NULL),
         *state = usual ? g_strdup("state") : g_strconcat("state-", stem, NULL);
    b->out = keep_text(r, host_path_in(b->folder, r->file->out != NULL ? r->file->out : out));
    b->state = keep_text(r, host_path_in(b->folder, state));
    g_free(out);
    g_free(state);
    g_free(stem);
}

/* A bench file comes from anywhere: what it has written lies in its own folder, unless it says
 * openly where. */
static void check_inside(reader *r, const char *key, const char *path)
{
    if (path == NULL || g_path_is_absolute(path)) return;
    int depth = 0;
    char **parts = g_strsplit(path, "/", 0);
    for (char **p = parts; *p != NULL && depth >= 0; p++)
        depth += strcmp(*p, "..") == 0 ? -1 : **p == '\0' || strcmp(*p, ".") == 0 ? 0 : 1;
    g_strfreev(parts);
    if (depth >= 0) return;
    yaml_fault(&r->yaml, yaml_key(&r->yaml, yaml_root(&r->yaml), key),
               "a path within it, or a whole one that begins with /",
               "'%s' leads out of the project's folder: %s", key, path);
}

/* The sheet is opened here: all that follows is checked against its widths. */
static void take_machine(reader *r)
{
    yaml_node_t *root = yaml_root(&r->yaml);
    const file_bench *f = r->file;
    bench *b = r->b;
    b->name = f->bench;
    b->version = f->version;
    b->logbook = f->logbook;
    check_inside(r, "logbook", f->logbook);
    check_inside(r, "out", f->out);
    take_folders(r);
    b->radix = BL_HEX;
    if (f->radix != NULL && strcmp(f->radix, "octal") == 0) b->radix = BL_OCTAL;
    if (f->radix != NULL && b->radix == BL_HEX && strcmp(f->radix, "hex") != 0)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, root, "radix"), "hex or octal", "'%s' is no radix",
                   f->radix);
    b->clock = 1000000;
    if (f->clock != NULL && !bench_clock(f->clock, &b->clock))
        yaml_fault(&r->yaml, yaml_key(&r->yaml, root, "clock"), "like 2 MHz, 1.8432 MHz, 500 kHz",
                   "'%s' is not a clock rate", f->clock);
    if (f->clock != NULL) bench_define(r, g_strdup("board.clock"), b->clock);
    bench_define(r, g_strdup("board.radix"), b->radix == BL_OCTAL ? 8 : 16);
    uint64_t decode = 0;
    if (f->decoder != NULL)
        bench_quantity(r, yaml_key(&r->yaml, root, "decoder"), f->decoder, &bench_delays, 0, 5000,
                       &decode);
    b->decode_ns = (uint16_t)decode;
    bool own = g_str_has_suffix(f->cpu, ".sheet");
    if (host_sheet_open(f->cpu, b->folder, own ? r->yaml.sink : NULL, &b->sheet) == BL_OK) return;
    char known[200] = "known:";
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        g_strlcat(known, " ", sizeof known);
        g_strlcat(known, bl_sheet_shipped_name(i).at, sizeof known);
    }
    yaml_fault(&r->yaml, yaml_key(&r->yaml, root, "cpu"), known, "no sheet for a CPU named '%s'",
               f->cpu);
}

/* ---- the whole ---- */

static void quiet(cyaml_log_t level, void *context, const char *format, va_list list)
{
    (void)level, (void)context, (void)format,
        (void)list; /* yaml_lines.c has told everything, with lines */
}

static void *cyaml_resize(void *context, void *block, size_t size)
{
    (void)context;
    return host_memory.resize(NULL, block, size);
}

static const cyaml_config_t config = {.log_fn = quiet,
                                      .mem_fn = cyaml_resize,
                                      .log_level = CYAML_LOG_ERROR,
                                      .flags = CYAML_CFG_NO_ALIAS};

/* In this order: each section uses what those before have checked. */
static bl_status read_sections(reader *r, const char *text, size_t length)
{
    cyaml_err_t err = cyaml_load_data((const uint8_t *)text, length, &config, &bench_schema,
                                      (cyaml_data_t **)&r->file, NULL);
    if (err != CYAML_OK) {
        bl_report(r->sink, BL_ERROR, r->b->path, 0,
                  "values have at most 200 characters, lists 256 items; aliases are not used",
                  "cannot be loaded: %s", cyaml_strerror(err));
        return BL_E_SYNTAX;
    }
    ((owned *)r->b->owned)->file = r->file;
    take_machine(r);
    if (r->b->sheet == NULL) return BL_E_SYNTAX;
    bench_take_banks(r);
    take_areas(r);
    bench_take_rules(r);
    bench_take_devices(r);
    bench_take_wires(r);
    if (r->yaml.faults == 0) bench_take_clocks(r);
    bench_take_parts(r);
    bench_take_chips(r);
    if (r->yaml.faults == 0) bench_check_rom(r);
    bench_take_link(r);
    take_programmer(r);
    bench_take_tape(r);
    bench_take_disk(r);
    take_pieces(r);
    bench_take_defines(r);
    return r->yaml.faults > 0 ? BL_E_SYNTAX : BL_OK;
}

/* A clock is needed wherever there is a CPU. */
static bool check_clock(reader *r)
{
    yaml_node_t *root = yaml_root(&r->yaml);
    const char *cpu = yaml_text(yaml_key(&r->yaml, root, "cpu"));
    if (root->type != YAML_MAPPING_NODE || yaml_key(&r->yaml, root, "clock") != NULL) return true;
    if (cpu != NULL && strcmp(cpu, "none") == 0) return true;
    yaml_fault(&r->yaml, root, "like clock: 2 MHz", "'clock' is missing here");
    return false;
}

/* Two readers look at one text: yaml_lines for places and unknown keys, libcyaml for values. Only
 * a file without a fault of the first is given to the second. */
bl_status bench_open(const char *path, const bench_hardware *hardware, const bl_sink *sink,
                     bench **out)
{
    char *text = NULL;
    size_t length = 0;
    bl_status status = host_read_file(path, &text, &length, sink);
    if (status != BL_OK) return status;
    bench *b = g_new0(bench, 1);
    owned *o = g_new0(owned, 1);
    o->texts = g_ptr_array_new_with_free_func(g_free);
    b->owned = o;
    reader r = {.b = b,
                .hardware = hardware,
                .sink = sink,
                .definitions = g_array_new(FALSE, FALSE, sizeof(bl_definition))};
    b->path = keep_text(&r, g_strdup(path));
    b->folder = keep_text(&r, g_path_get_dirname(path));
    status = BL_E_SYNTAX;
    if (yaml_file_open(&r.yaml, path, text, length, sink)) {
        bool good = yaml_file_check(&r.yaml, &bench_schema);
        if (check_clock(&r) && good) status = read_sections(&r, text, length);
        yaml_file_close(&r.yaml);
    }
    b->definition_count = r.definitions->len;
    b->definitions = (bl_definition *)(void *)g_array_free(r.definitions, FALSE);
    g_free(text);
    if (status != BL_OK) {
        bench_close(b);
        return status;
    }
    *out = b;
    return BL_OK;
}

void bench_close(bench *b)
{
    if (b == NULL) return;
    owned *o = b->owned;
    bl_sheet_close(b->sheet);
    g_free(b->areas);
    g_free(b->holes);
    g_free(b->devices);
    for (size_t i = 0; i < b->net_count; i++)
        g_free(b->nets[i].ends);
    g_free(b->nets);
    g_free(b->chips);
    g_free(b->parts);
    g_free(b->dialogue);
    g_free(b->link_dialogue);
    g_free(b->pieces);
    g_free(b->definitions);
    g_free(b->disk.files);
    g_free(b->disk.layouts);
    g_free(b->disk.wraps);
    if (o->file != NULL) cyaml_free(&config, &bench_schema, o->file, 0);
    g_ptr_array_free(o->texts, TRUE);
    g_free(o);
    g_free(b);
}

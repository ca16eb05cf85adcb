/* chip.c - bootlace chip plan | blank | write | verify | read. */
#include "connect.h"

#include <jansson.h>
#include <string.h>

static struct {
    char *image, *at;
    gboolean all, protect, unprotect, twice, corners;
} options;

static const GOptionEntry image_entries[] = {
    {"image", 0, 0, G_OPTION_ARG_FILENAME, &options.image,
     "take this image file instead of building", "FILE"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary begins, as the CPU sees it",
     "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry write_entries[] = {
    {"all", 0, 0, G_OPTION_ARG_NONE, &options.all, "write every page, not only what differs", NULL},
    {"protect", 0, 0, G_OPTION_ARG_NONE, &options.protect,
     "switch software protection on afterwards", NULL},
    {"unprotect", 0, 0, G_OPTION_ARG_NONE, &options.unprotect,
     "switch software protection off first", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry proof_entries[] = {
    {"twice", 0, 0, G_OPTION_ARG_NONE, &options.twice, "verify a second time", NULL},
    {"corners", 0, 0, G_OPTION_ARG_NONE, &options.corners,
     "verify at 4.5 and at 5.5 V; always done for UV EPROMs", NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage plan_words = {
    "chip plan", "Shows how the image is cut onto the chips, and what their last bytes hold.",
    "  bootlace chip plan"};
static const usage blank_words = {"chip blank [CHIP]", "Looks whether a chip is blank: all $FF.",
                                  "  bootlace chip blank U5 -p sim"};
static const usage write_words = {
    "chip write [CHIP]", "Writes a chip: only pages that differ, each byte verified afterwards.",
    "  bootlace chip write U5 -p sim\n  bootlace chip write U5 -p /dev/ttyUSB1 --image "
    "out/chips.hex"};
static const usage verify_words = {"chip verify [CHIP]", "Compares a chip with what was built.",
                                   "  bootlace chip verify U5 -p sim"};
static const usage read_words = {
    "chip read [CHIP] -o FILE",
    "Reads a whole chip into a file; addresses are offsets in the chip.",
    "  bootlace chip read U5 -p sim -o U5.bin"};

/* One chip and what belongs in it. */
typedef struct work {
    bench *b;
    project *p;
    bl_image *file; /* of --image */
    bl_image *image;
    const bl_chip *chip;
    size_t index;
    uint8_t *bytes; /* the chip's whole contents */
    uint32_t used;
    whereis names;
} work;

static void work_end(work *k)
{
    g_free(k->bytes);
    bl_image_close(k->file);
    project_close(k->p);
    bench_close(k->b);
}

static int find_chip(work *k, const char *name)
{
    char *known = g_strdup("");
    for (size_t i = 0; i < k->b->chip_count; i++) {
        bool only = name == NULL && k->b->chip_count == 1;
        char *more = g_strdup_printf("%s %s", known, k->b->chips[i].name);
        g_free(known);
        known = more;
        if (!only && (name == NULL || g_ascii_strcasecmp(name, k->b->chips[i].name) != 0)) continue;
        k->chip = &k->b->chips[i];
        k->index = i;
    }
    int code = EXIT_GOOD;
    if (k->b->chip_count == 0)
        code = fail("%s: there are no chips in it", k->b->path);
    else if (k->chip == NULL && name == NULL)
        code = cli_usage("which chip? The bench has:%s", known);
    else if (k->chip == NULL)
        code = cli_usage("no chip is called '%s'; the bench has:%s", name, known);
    g_free(known);
    return code;
}

/* Builds what belongs in the chips, or reads it from a file. */
static int get_image(work *k)
{
    if (options.image != NULL) {
        int code = cli_read_image(options.image, options.at, &k->file);
        k->image = k->file;
        if (code != EXIT_GOOD) return code;
        return bl_chip_strays(k->b->chips, k->b->chip_count, k->image, &cli_sink) == 0
                   ? EXIT_GOOD
                   : EXIT_FAILED;
    }
    if (project_build(k->b, PROJECT_CHIPS, NULL, &cli_sink, &k->p) != BL_OK) return EXIT_FAILED;
    k->image = k->p->chips;
    whereis_add_project(&k->names, k->p);
    return bl_image_size(k->image) > 0 ? EXIT_GOOD
                                       : fail("%s: nothing is built for chips", k->b->path);
}

static int work_begin(work *k, int argc, char **argv, bool with_image)
{
    memset(k, 0, sizeof *k);
    if (argc > 2) return cli_usage("one chip at a time");
    int code = cli_bench(true, &k->b);
    if (code == EXIT_GOOD) code = find_chip(k, argc == 2 ? argv[1] : NULL);
    if (code != EXIT_GOOD || !with_image) return code;
    code = get_image(k);
    if (code != EXIT_GOOD) return code;
    k->bytes = g_malloc(k->chip->part->size);
    bl_chip_contents(k->chip, k->image, k->bytes, &k->used);
    return EXIT_GOOD;
}

/* ---- jobs on the programmer ---- */

enum { REGION = 4096 /* bytes summed at once; a page is looked at when its region differs */ };

static int run_job(work *k, bl_transfer_options *o, connection *c, bl_transfer *job, bool tell)
{
    bl_piece piece = {0, k->chip->part->size, k->bytes};
    o->pieces = &piece;
    o->piece_count = o->goal == BL_GOAL_READ ? 0 : 1;
    o->block = k->chip->part->page;
    o->region = MIN(REGION, k->chip->part->size);
    o->part = k->chip->part;
    o->who = BL_WHO_PROGRAMMER;
    o->sum_ns = 5000;
    bl_status status = bl_transfer_begin(job, &host_memory, o);
    if (status == BL_OK) status = connect_run(c, job);
    if (status != BL_OK && (tell || status != BL_E_DIFFERS))
        explain(c, job, status, k->chip, &k->names);
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* What the pattern of the wrong bytes says. After a write that stopped at its first page, that page
 * is looked at: what follows is not written yet. */
static json_t *find_causes(work *k, connection *c, const bl_transfer *failed)
{
    json_t *list = json_array();
    bool one_page = failed->stage == BL_STAGE_WRITE;
    uint32_t page = k->chip->part->page, size = one_page ? page : k->chip->part->size;
    uint32_t first = one_page ? failed->difference[0].address / page * page : 0;
    uint8_t *found = g_malloc0(k->chip->part->size);
    bl_transfer job;
    bl_transfer_options o = {.goal = BL_GOAL_READ, .buffer = found, .range = {first, size}};
    bl_causes causes = {.count = 0};
    if (run_job(k, &o, c, &job, false) == EXIT_GOOD)
        bl_causes_find(k->bytes + first, found, size, &causes);
    bl_transfer_end(&job);
    g_free(found);
    for (size_t i = 0; i < causes.count; i++) {
        char text[300];
        bl_cause_text(&causes, i, text, sizeof text);
        json_array_append_new(list, json_string(text));
    }
    return list;
}

/* first: nothing else was named before */
static void tell_causes(const json_t *causes, bool first)
{
    for (size_t i = 0; i < json_array_size(causes); i++)
        say("  %s %s",
            i == 0 && first ? "probably:" : "or:", json_string_value(json_array_get(causes, i)));
}

static void show_json(const connection *c, const bl_transfer *job, const work *k, bool good,
                      json_t *causes)
{
    json_t *all = json_pack(
        "{s:s,s:s,s:b,s:I,s:I,s:I,s:I,s:f,s:I,s:i,s:i}", "chip", k->chip->name, "part",
        k->chip->part->name, "verified", good, "pages", (json_int_t)job->block_count, "written",
        (json_int_t)job->blocks_written, "proved", (json_int_t)job->bytes_proved, "different",
        (json_int_t)job->differences, "seconds", connect_seconds(c), "crc32",
        (json_int_t)bl_crc32(0, k->bytes, k->chip->part->size), "crc16",
        bl_crc16(0, k->bytes, k->chip->part->size), "sum16",
        bl_sum16(0, k->bytes, k->chip->part->size));
    if (job->differences > 0)
        json_object_set_new(
            all, "first",
            json_pack("{s:I,s:i,s:i}", "offset", (json_int_t)job->difference[0].address, "expected",
                      job->difference[0].expected, "found", job->difference[0].found));
    if (causes != NULL) json_object_set(all, "causes", causes);
    json_dumpf(all, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(6));
    printf("\n");
    json_decref(all);
}

/* The three by which a chip is known again. */
static void tell_checksums(const char *before, const uint8_t *bytes, size_t count,
                           const char *after)
{
    printf("%sCRC-32 %08X, CRC-16 %04X, sum-16 %04X%s\n", before, bl_crc32(0, bytes, count),
           bl_crc16(0, bytes, count), bl_sum16(0, bytes, count), after);
}

static const char *how_proved(const bl_transfer *job)
{
    bool twice = job->options.twice;
    if (job->options.corners)
        return twice ? " twice at 4.5 V and twice at 5.5 V" : " at 4.5 V and again at 5.5 V";
    if (job->no_corners)
        return twice ? " twice, at 5 V only: it cannot make other supplies"
                     : " at 5 V only: it cannot make other supplies";
    return twice ? " twice" : "";
}

static void tell_written(const work *k, const connection *c, const bl_transfer *job)
{
    const bl_chip *chip = k->chip;
    if (job->blocks_written == 0 && job->sectors_erased == 0)
        printf("%s (%s): holds exactly this already; nothing written\n", chip->name,
               chip->part->name);
    else
        printf("%s (%s): %zu of %zu %s written\n", chip->name, chip->part->name,
               job->blocks_written, job->block_count,
               chip->part->method == BL_METHOD_PAGE ? "pages" : "blocks");
    if (job->sectors_erased > 0)
        printf("  %zu sector%s of %u bytes erased first\n", job->sectors_erased,
               job->sectors_erased == 1 ? "" : "s", chip->part->sector);
    printf("%s %s read all %lu bytes back%s; every CRC-32 is right (%.2f s", cli_verified(),
           job->name, (unsigned long)job->bytes_proved, how_proved(job), connect_seconds(c));
    if (c->exchange.resends > 0) printf(", %u sent again", c->exchange.resends);
    printf(")\n");
    tell_checksums("  of the chip: ", k->bytes, chip->part->size,
                   options.protect ? "; software protection on" : "");
}

static int write_or_verify(int argc, char **argv, bool compare)
{
    work k;
    connection c;
    bl_transfer job = {.block_count = 0};
    int code = work_begin(&k, argc, argv, true);
    if (code == EXIT_GOOD && (options.protect || options.unprotect) && !k.chip->part->locks)
        code = cli_usage("a %s has no software protection", k.chip->part->name);
    if (code == EXIT_GOOD) code = connect_programmer(k.b, k.index, &c);
    if (code != EXIT_GOOD) {
        work_end(&k);
        return code;
    }
    bl_transfer_options o = {.goal = compare ? BL_GOAL_COMPARE : BL_GOAL_WRITE,
                             .every_block = options.all,
                             .twice = options.twice,
                             .corners =
                                 options.corners || k.chip->part->method == BL_METHOD_PULSE,
                             .protect = options.protect     ? BL_PROTECT_ON
                                        : options.unprotect ? BL_PROTECT_OFF
                                                            : BL_PROTECT_LEAVE};
    code = run_job(&k, &o, &c, &job, true);
    bool differs = job.differences > 0 && job.refusal != BL_ANSWER_NOT_BLANK &&
                   job.stage != BL_STAGE_FIT;
    json_t *causes = differs ? find_causes(&k, &c, &job) : NULL;
    if (!given.json) tell_causes(causes, job.refusal != BL_ANSWER_UNCHANGED);
    if (given.json)
        show_json(&c, &job, &k, code == EXIT_GOOD, causes);
    else if (code == EXIT_GOOD && compare)
        printf("%s (%s): same: %s read all %lu bytes%s; every CRC-32 is right (%.2f s)\n",
               k.chip->name, k.chip->part->name, job.name, (unsigned long)job.bytes_proved,
               how_proved(&job), connect_seconds(&c));
    else if (code == EXIT_GOOD)
        tell_written(&k, &c, &job);
    else if (!compare)
        say("%s is not good: do not use it as it is", k.chip->name);
    json_decref(causes);
    bl_transfer_end(&job);
    int end = connect_end(&c);
    work_end(&k);
    return code != EXIT_GOOD ? code : end;
}

static int blank(int argc, char **argv)
{
    work k;
    connection c;
    bl_transfer job = {.block_count = 0};
    int code = work_begin(&k, argc, argv, false);
    if (code == EXIT_GOOD) {
        k.bytes = g_malloc(k.chip->part->size);
        memset(k.bytes, 0xFF, k.chip->part->size);
        code = connect_programmer(k.b, k.index, &c);
    }
    if (code != EXIT_GOOD) {
        work_end(&k);
        return code;
    }
    bl_transfer_options o = {.goal = BL_GOAL_COMPARE};
    code = run_job(&k, &o, &c, &job, false);
    if (given.json)
        show_json(&c, &job, &k, code == EXIT_GOOD, NULL);
    else if (code == EXIT_GOOD)
        printf("%s (%s): blank, all %lu bytes are FF\n", k.chip->name, k.chip->part->name,
               (unsigned long)job.bytes_proved);
    else if (job.blocks_wrong > 0)
        printf("%s (%s): not blank: %lu bytes are not FF, the first at offset %s holds %02X\n",
               k.chip->name, k.chip->part->name, (unsigned long)job.differences,
               cli_address(k.b, job.difference[0].address), job.difference[0].found);
    bl_transfer_end(&job);
    int end = connect_end(&c);
    work_end(&k);
    return code != EXIT_GOOD ? code : end;
}

static int read_chip(int argc, char **argv)
{
    work k;
    connection c;
    if (given.out == NULL) return cli_usage("where to? Give -o FILE");
    bl_filetype type = cli_output_type();
    if (type == BL_FILE_UNKNOWN)
        return cli_usage("-o %s: give a format with -f bin, hex or srec", given.out);
    int code = work_begin(&k, argc, argv, false);
    if (code == EXIT_GOOD) code = connect_programmer(k.b, k.index, &c);
    if (code != EXIT_GOOD) {
        work_end(&k);
        return code;
    }
    k.bytes = g_malloc0(k.chip->part->size);
    bl_transfer_options o = {
        .goal = BL_GOAL_READ, .buffer = k.bytes, .range = {0, k.chip->part->size}};
    /* Once to read, once to have the check-sums of what was read compared. */
    for (int pass = 0; pass < 2 && code == EXIT_GOOD; pass++) {
        bl_transfer job;
        code = run_job(&k, &o, &c, &job, true);
        bl_transfer_end(&job);
        o.goal = BL_GOAL_COMPARE;
    }
    double seconds = connect_seconds(&c);
    int end = connect_end(&c);
    if (code == EXIT_GOOD) code = end;
    if (code == EXIT_GOOD)
        code = cli_save_bytes(type, 0, k.bytes, k.chip->part->size, k.chip->name);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes of %s (%s), CRC-32 %08X compared with the programmer's (%.2f s)",
            given.out, (unsigned long)k.chip->part->size, k.chip->name, k.chip->part->name,
            bl_crc32(0, k.bytes, k.chip->part->size), seconds);
    work_end(&k);
    return code;
}

/* ---- plan ---- */

static void plan_vectors(const work *k, const bl_chip *chip)
{
    for (size_t i = 0; i < bl_sheet_vectors(k->b->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(k->b->sheet, i);
        uint32_t offset;
        uint8_t bytes[2];
        char name[300];
        if (bl_chip_at(k->b->chips, k->b->chip_count, v->address, &offset) != chip) continue;
        if (bl_image_copy(k->image, v->address, 2, 0xFF, bytes) < 2) {
            printf("    %-6.*s %s  not set%s\n", (int)v->name.length, v->name.at,
                   cli_address(k->b, v->address), v->needed ? " - the CPU will not start" : "");
            continue;
        }
        if (v->runs) {
            whereis_describe(&k->names, v->address, name, sizeof name);
            printf("    %-6.*s %s  runs from here  %s\n", (int)v->name.length, v->name.at,
                   cli_address(k->b, v->address), name);
            continue;
        }
        bool little = bl_sheet_order(k->b->sheet) == BL_LITTLE;
        uint32_t target =
            little ? (uint32_t)(bytes[0] | bytes[1] << 8) : (uint32_t)(bytes[1] | bytes[0] << 8);
        whereis_describe(&k->names, target, name, sizeof name);
        printf("    %-6.*s %s  -> %s  %s\n", (int)v->name.length, v->name.at,
               cli_address(k->b, v->address), cli_address(k->b, target), name);
    }
}

static void plan_chip(const work *k, const bl_chip *chip)
{
    uint32_t used;
    uint8_t *bytes = g_malloc(chip->part->size);
    bl_chip_contents(chip, k->image, bytes, &used);
    printf("%s  %s, %u bytes, pages of %u: %u bytes from the image, the rest %02X\n", chip->name,
           chip->part->name, chip->part->size, chip->part->page, used, chip->fill);
    tell_checksums("    ", bytes, chip->part->size, "");
    g_free(bytes);
    printf("    %-16s %-16s %s\n", "CPU", "chip offset", "bytes used");
    for (size_t i = 0; i < chip->map_count; i++) {
        const bl_chip_map *m = &chip->maps[i];
        for (size_t n = 0; n < bl_image_pieces(k->image); n++) {
            bl_piece p = bl_image_piece(k->image, n);
            uint64_t first = MAX(p.first, m->cpu.first),
                     end = MIN((uint64_t)p.first + p.count, m->cpu.first + m->cpu.count);
            if (first >= end) continue;
            uint32_t last = (uint32_t)(end - 1);
            printf("    %s..%-9s %s..%-9s %lu\n", cli_address(k->b, (uint32_t)first),
                   cli_address(k->b, last),
                   cli_address(k->b, m->offset + (uint32_t)first - m->cpu.first),
                   cli_address(k->b, m->offset + last - m->cpu.first),
                   (unsigned long)(end - first));
        }
        printf("    decoded: %s..%s is offset %s..%s\n", cli_address(k->b, m->cpu.first),
               cli_address(k->b, bl_range_last(m->cpu)), cli_address(k->b, m->offset),
               cli_address(k->b, m->offset + (uint32_t)(m->cpu.count - 1)));
    }
    plan_vectors(k, chip);
}

static void plan_json(const work *k)
{
    json_t *list = json_array();
    for (size_t i = 0; i < k->b->chip_count; i++) {
        const bl_chip *chip = &k->b->chips[i];
        json_t *maps = json_array();
        uint32_t used;
        uint8_t *bytes = g_malloc(chip->part->size);
        bl_chip_contents(chip, k->image, bytes, &used);
        for (size_t n = 0; n < chip->map_count; n++)
            json_array_append_new(maps, json_pack("{s:I,s:I,s:I}", "cpu",
                                                  (json_int_t)chip->maps[n].cpu.first, "count",
                                                  (json_int_t)chip->maps[n].cpu.count, "offset",
                                                  (json_int_t)chip->maps[n].offset));
        json_array_append_new(list,
                              json_pack("{s:s,s:s,s:I,s:I,s:I,s:i,s:i,s:o}", "chip", chip->name,
                                        "part", chip->part->name, "size",
                                        (json_int_t)chip->part->size, "used", (json_int_t)used,
                                        "crc32", (json_int_t)bl_crc32(0, bytes, chip->part->size),
                                        "crc16", bl_crc16(0, bytes, chip->part->size), "sum16",
                                        bl_sum16(0, bytes, chip->part->size), "maps", maps));
        g_free(bytes);
    }
    json_dumpf(list, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(6));
    printf("\n");
    json_decref(list);
}

static int plan(int argc)
{
    work k;
    memset(&k, 0, sizeof k);
    if (argc != 1) return cli_usage("plan shows all chips; it takes no operand");
    int code = cli_bench(true, &k.b);
    if (code == EXIT_GOOD && k.b->chip_count == 0)
        code = fail("%s: there are no chips in it", k.b->path);
    if (code == EXIT_GOOD) code = get_image(&k);
    if (code == EXIT_GOOD && given.json) plan_json(&k);
    for (size_t i = 0; code == EXIT_GOOD && !given.json && i < k.b->chip_count; i++)
        plan_chip(&k, &k.b->chips[i]);
    work_end(&k);
    return code;
}

int command_chip(int argc, char **argv)
{
    static const char *const names[] = {"plan", "blank", "write", "verify", "read"};
    static const usage *const all[] = {&plan_words, &blank_words, &write_words, &verify_words,
                                       &read_words};
    const GOptionEntry *tables[][7] = {
        {image_entries, bench_options, json_options, NULL},
        {bench_options, port_options, json_options, NULL},
        {write_entries, proof_entries, image_entries, bench_options, port_options, json_options,
         NULL},
        {proof_entries, image_entries, bench_options, port_options, json_options, NULL},
        {output_options, bench_options, port_options, NULL},
    };
    if (argc >= 2 && strcmp(argv[1], "--help") == 0) {
        printf("Usage: bootlace chip plan | blank | write | verify | read\n\n");
        for (size_t i = 0; i < 5; i++)
            printf("  %-8s %s\n", names[i], all[i]->summary);
        printf("\nEach has --help. Example:\n  bootlace chip write U5 -p sim\n");
        return EXIT_GOOD;
    }
    for (size_t i = 0; argc >= 2 && i < 5; i++) {
        if (strcmp(argv[1], names[i]) != 0) continue;
        argc--, argv++;
        if (!cli_parse(&argc, &argv, all[i], tables[i])) return EXIT_USAGE;
        if (options.protect && options.unprotect)
            return cli_usage("--protect and --unprotect exclude each other");
        switch (i) {
        case 0: return plan(argc);
        case 1: return blank(argc, argv);
        case 4: return read_chip(argc, argv);
        default: return write_or_verify(argc, argv, i == 3);
        }
    }
    return cli_usage(
        "bootlace chip plan | blank | write | verify | read; see bootlace chip --help");
}

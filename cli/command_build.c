/* command_build.c - bootlace build. */
#include "cli.h"
#include "define.h"
#include "depend.h"
#include "disk/disk_build.h"
#include "json_answer.h"
#include "logbook.h"

static const usage words = {"build",
                            "Assembles everything the bench file asks for, checks it, and writes "
                            "it to out/ beside the bench file.",
                            "  bootlace build\n"
                            "  bootlace build -b bench.yaml -D FAST=1"};

/* A line a piece, then what is left of each ROM area: both are asked at every build. */
static void tell_build(const project *p)
{
    say("  %-12s %6s  %s", "piece", "bytes", "for");
    for (size_t i = 0; i < p->piece_count; i++) {
        const project_piece *piece = &p->pieces[i];
        bl_image *image = bl_program_image(piece->program);
        say("  %-12s %6lu  %s", piece->stem, (unsigned long)bl_image_size(image),
            piece->piece->for_chips ? "chips" : "RAM");
    }
    bool first = true;
    for (size_t i = 0; i < p->b->area_count; i++) {
        const bl_area *a = &p->b->areas[i];
        if (a->kind != BL_AREA_ROM) continue;
        if (first) say("  %-12s %6s  %6s  %s", "ROM area", "used", "free", "range");
        first = false;
        bl_range bytes = bench_bytes(p->b, a->range);
        uint64_t used = bl_image_count(p->chips, bytes), size = bl_area_size(a);
        size *= bl_sheet_unit_bytes(p->b->sheet);
        say("  %-12s %6lu  %6lu  %s..%s", a->name, (unsigned long)used,
            (unsigned long)(size - used), cli_address(p->b, bytes.first),
            cli_address(p->b, bl_range_last(bytes)));
    }
}

static json_t *area_json(const project *p, const bl_area *a)
{
    return json_pack("{s:s,s:I,s:I,s:I}", "name", a->name, "first", (json_int_t)a->range.first,
                     "size", (json_int_t)bl_area_size(a), "used",
                     (json_int_t)bl_image_count(p->chips, bench_bytes(p->b, a->range)));
}

static void tell_json(const project *p, size_t files)
{
    json_t *pieces = json_array(), *areas = json_array();
    for (size_t i = 0; i < p->piece_count; i++) {
        const project_piece *piece = &p->pieces[i];
        bl_image *image = bl_program_image(piece->program);
        json_array_append_new(pieces, json_pack("{s:s,s:I,s:s}", "name", piece->stem, "bytes",
                                                (json_int_t)bl_image_size(image), "for",
                                                piece->piece->for_chips ? "chips" : "ram"));
    }
    for (size_t i = 0; i < p->b->area_count; i++)
        if (p->b->areas[i].kind == BL_AREA_ROM)
            json_array_append_new(areas, area_json(p, &p->b->areas[i]));
    answer(json_pack("{s:s,s:s,s:I,s:o,s:o,s:s*}", "bench", p->b->name, "folder", p->b->out,
                     "files", (json_int_t)files, "pieces", pieces, "rom", areas, "disk",
                     p->b->disk.image));
}

/* The logbook is told what was built when all of it is in place. */
int command_build(int argc, char **argv)
{
    const GOptionEntry *tables[] = {bench_options, define_options, depend_options, json_options,
                                    NULL};
    bench *b;
    project *p = NULL;
    size_t files = 0;
    guint on_disk = 0;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 1) return cli_usage("build takes no operands; the bench file says what to build");
    project_extras extras = {.folders = NULL, .seen = depend_begin()};
    int code = define_take(&extras);
    if (code == EXIT_GOOD) code = cli_bench(true, &b);
    if (code != EXIT_GOOD) return code;
    code = EXIT_FAILED;
    if (b->piece_count == 0 && b->disk.image == NULL) {
        fail("%s: nothing to build; add a 'build:' list", b->path);
    } else if (project_build(b, PROJECT_ALL, &extras, &cli_sink, &p) != BL_OK ||
               disk_add_to_project(p, &extras, &cli_sink, &on_disk) != BL_OK) {
        say("%u error%s, nothing written", cli_errors(), cli_errors() == 1 ? "" : "s");
    } else if (project_write(p, &cli_sink, &files) == BL_OK) {
        logbook *book = logbook_open(b, &cli_sink);
        logbook_together(book, true);
        logbook_built(book, b, p->chips);
        for (size_t i = 0; i < p->piece_count; i++)
            logbook_piece(book, b, p->pieces[i].stem, p->pieces[i].program);
        logbook_together(book, false);
        logbook_close(book);
        if (given.json)
            tell_json(p, files);
        else
            tell_build(p);
        if (b->disk.image != NULL) say("  %-12s %6u  files on it", b->disk.image, on_disk);
        say("%s built: %zu files in %s", b->name, files, b->out);
        char *target = g_build_filename(b->out, "chips.hex", NULL);
        code = depend_write(target, b->path);
        g_free(target);
    }
    project_close(p);
    bench_close(b);
    return code;
}

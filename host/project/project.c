/* project.c - assembling pieces that know each other, and checking what they are together. */
#include "project.h"

#include <glib.h>
#include <string.h>

#include "bootlace/vector.h"
#include "files/replace.h"

static char *out_path(const bench *b, const char *stem, const char *ending)
{
    char *file = g_strconcat(stem, ending, NULL);
    char *path = g_build_filename(b->out, file, NULL);
    g_free(file);
    return path;
}

/* The bench file's, with -D in their place where it names the same. */
static bl_definition *merge_definitions(const bench *b, const project_extras *extras, size_t *count)
{
    size_t extra = extras != NULL ? extras->definition_count : 0;
    bl_definition *all = g_new0(bl_definition, b->definition_count + extra + 1);
    *count = 0;
    for (size_t i = 0; i < b->definition_count; i++) {
        bool replaced = false;
        for (size_t k = 0; k < extra && i >= b->first_define; k++)
            replaced |= strcmp(extras->definitions[k].name, b->definitions[i].name) == 0;
        if (!replaced) all[(*count)++] = b->definitions[i];
    }
    for (size_t k = 0; k < extra; k++)
        all[(*count)++] = extras->definitions[k];
    return all;
}

/* The definitions of the bench file and those of the command line are one list for the assembler.
 */
static bl_status assemble(project *p, const char *name, const project_extras *extras,
                          const bl_sink *sink, bl_program **program)
{
    const bench *b = p->b;
    size_t count;
    bl_definition *all = merge_definitions(b, extras, &count);
    p->sources.folders = extras != NULL ? extras->folders : NULL;
    p->sources.seen = extras != NULL ? extras->seen : NULL;
    bl_source_provider provider = host_source_provider(&p->sources);
    bl_asm_options o = {.memory = host_memory,
                        .sheet = b->sheet,
                        .areas = b->areas,
                        .area_count = b->area_count,
                        .definitions = all,
                        .definition_count = count,
                        .version = b->version,
                        .provider = &provider,
                        .sink = sink,
                        .radix = b->radix,
                        .strict = extras != NULL && extras->strict};
    bl_status status = bl_assemble(&o, name, program);
    g_free(all);
    return status;
}

/* Its symbols can be used from now on, as the file that a full build would write. */
static void offer_symbols(project *p, const char *stem, const bl_program *program)
{
    host_output out;
    bl_writer writer;
    host_output_begin(&out, &writer);
    if (bl_symbols_write(program, &writer) == BL_OK) {
        bl_text all = host_output_text(&out);
        char *path = out_path(p->b, stem, ".sym");
        host_sources_offer(&p->sources, path, all.at, all.length);
        g_free(path);
        /* Sources say "out/" whatever the folder of this bench file is called. */
        char *file = g_strconcat("out/", stem, ".sym", NULL);
        path = host_path_in(p->b->folder, file);
        host_sources_offer(&p->sources, path, all.at, all.length);
        g_free(path);
        g_free(file);
        /* Firmware is in no folder. */
        file = g_strconcat("<", stem, ".sym>", NULL);
        host_sources_offer(&p->sources, file, all.at, all.length);
        g_free(file);
    }
    host_output_drop(&out);
}

static char *source_name(const bench *b, const bench_piece *piece)
{
    if (piece->firmware != NULL)
        return g_strdup_printf("<%s>", bench_firmware(b->sheet, piece->firmware));
    return host_path_in(b->folder, piece->source);
}

static char *stem_of(const bench_piece *piece)
{
    return host_stem(piece->firmware != NULL ? piece->firmware : piece->source);
}

static bl_status add_to_chips(project *p, bl_program *program, const char *name,
                              const bl_sink *sink)
{
    uint32_t conflict = 0;
    bl_image *image = bl_program_image(program);
    bl_status status = bl_image_merge(p->chips, image, &conflict);
    if (status != BL_E_OVERLAP) return status;
    bl_origin first = bl_image_origin(p->chips, conflict),
              second = bl_image_origin(image, conflict);
    char hint[300];
    g_snprintf(hint, sizeof hint, "the first is at %s:%u", bl_image_file_name(p->chips, first.file),
               first.line);
    bl_report(sink, BL_ERROR, bl_image_file_name(image, second.file), second.line, hint,
              "address $%04lX is filled by two pieces (%s is the second)",
              (unsigned long)(conflict / bl_sheet_unit_bytes(p->b->sheet)), name);
    return status;
}

/* Bytes sent to a running machine must land in RAM. */
bl_status project_check_ram(const bench *b, bl_image *image, const bl_sink *sink)
{
    unsigned wide = bl_sheet_unit_bytes(b->sheet);
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_piece piece = bl_image_piece(image, i);
        for (size_t k = 0; k < piece.count; k++) {
            uint32_t address = piece.first + (uint32_t)k;
            const bl_area *area = NULL;
            for (size_t n = 0; n < b->area_count; n++)
                if (bl_area_holds(&b->areas[n], (bl_range){address / wide, 1})) area = &b->areas[n];
            if (area != NULL && area->kind == BL_AREA_RAM) continue;
            bl_origin o = bl_image_origin(image, address);
            bl_report(sink, BL_ERROR, bl_image_file_name(image, o.file), o.line,
                      "use .place with an area of kind ram", "this is for RAM, and $%04lX is %s",
                      (unsigned long)(address / wide),
                      area == NULL                ? "in no area"
                      : area->kind == BL_AREA_ROM ? "ROM"
                                                  : "a device");
            return BL_E_RANGE;
        }
    }
    return BL_OK;
}

/* A vector that is set must lead somewhere. */
static void check_vector_target(const project *p, const bl_vector *v, const bl_sink *sink)
{
    uint32_t target;
    if (!bl_vector_target(p->b->sheet, v, p->chips, &target)) return;
    for (size_t i = 0; i < p->b->area_count; i++)
        if (bl_area_holds(&p->b->areas[i], (bl_range){target, 1})) return;
    bl_origin o = bl_image_origin(p->chips, v->address * bl_sheet_unit_bytes(p->b->sheet));
    bl_report(sink, BL_WARNING, bl_image_file_name(p->chips, o.file), o.line, NULL,
              "the %.*s vector leads to $%04lX, which is in no area", (int)v->name.length,
              v->name.at, (unsigned long)target);
}

static void check_vectors(const project *p, const bl_sink *sink)
{
    uint8_t byte;
    uint32_t offset;
    for (size_t i = 0; i < bl_sheet_vectors(p->b->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(p->b->sheet, i);
        uint32_t at = v->address * bl_sheet_unit_bytes(p->b->sheet);
        check_vector_target(p, v, sink);
        if (!v->needed || bl_image_size(p->chips) == 0 || bl_image_get(p->chips, at, &byte))
            continue;
        if (bl_chip_at(p->b->chips, p->b->chip_count, at, &offset) == NULL) continue;
        bl_report(sink, BL_WARNING, NULL, 0,
                  v->runs ? "the CPU will not start; code belongs there"
                          : "the CPU will not start; give it with .vector",
                  v->runs ? "the CPU begins (%.*s) at $%04lX, where no piece for chips has a byte"
                          : "the %.*s vector at $%04lX is not set by any piece for chips",
                  (int)v->name.length, v->name.at, (unsigned long)v->address);
    }
}

static bl_status add_piece(project *p, const bench_piece *piece, const project_extras *extras,
                           const bl_sink *sink)
{
    project_piece *made = &p->pieces[p->piece_count];
    char *name = source_name(p->b, piece);
    bl_status status = assemble(p, name, extras, sink, &made->program);
    if (status == BL_OK) {
        made->piece = piece;
        made->stem = stem_of(piece);
        p->piece_count++;
        offer_symbols(p, made->stem, made->program);
        status = piece->for_chips ? add_to_chips(p, made->program, name, sink)
                                  : project_check_ram(p->b, bl_program_image(made->program), sink);
    }
    g_free(name);
    return status;
}

bl_status project_check_chips(const bench *b, bl_image *image, const bl_sink *sink)
{
    bl_status status = BL_OK;
    if (bl_chip_strays(b->chips, b->chip_count, image, sink) > 0) status = BL_E_RANGE;
    for (size_t i = 0; i < b->chip_count; i++) {
        uint8_t *bytes = g_try_malloc(b->chips[i].part->size);
        uint32_t used;
        if (bytes == NULL) return BL_E_MEMORY;
        bl_chip_contents(&b->chips[i], image, bytes, &used);
        if (bl_chip_conflicts(&b->chips[i], image, bytes, sink) > 0) status = BL_E_OVERLAP;
        g_free(bytes);
    }
    return status;
}

static bool wanted(const bench_piece *piece, project_scope scope)
{
    return scope == PROJECT_ALL || (scope == PROJECT_CHIPS && piece->for_chips) ||
           piece->firmware != NULL;
}

/* Results are called after their pieces: two of one name would be one file, and one symbol file. */
static bl_status check_stems(const bench *b, const bl_sink *sink)
{
    bl_status status = BL_OK;
    for (size_t i = 0; i < b->piece_count; i++) {
        char *stem = stem_of(&b->pieces[i]);
        bool chips = strcmp(stem, "chips") == 0; /* chips.hex is what all of them give together */
        for (size_t k = 0; k < i && !chips; k++) {
            char *other = stem_of(&b->pieces[k]);
            bool same = strcmp(stem, other) == 0;
            g_free(other);
            if (!same) continue;
            bl_report(sink, BL_ERROR, b->path, b->pieces[i].line, "rename one of the sources",
                      "two pieces are called '%s': their results would be the same files", stem);
            status = BL_E_OVERLAP;
            break;
        }
        if (chips) {
            bl_report(sink, BL_ERROR, b->path, b->pieces[i].line, "rename the source",
                      "a piece called 'chips' would be the file of all chips, %s/chips.hex",
                      b->out);
            status = BL_E_OVERLAP;
        }
        g_free(stem);
    }
    return status;
}

/* All pieces are assembled, so that all errors of an evening are seen at once; only then are they
 * put together. */
bl_status project_build(const bench *b, project_scope scope, const project_extras *extras,
                        const bl_sink *sink, project **out)
{
    project *p = g_new0(project, 1);
    p->b = b;
    p->pieces = g_new0(project_piece, b->piece_count + 1);
    bl_status worst = bl_image_open(&host_memory, &p->chips);
    if (worst == BL_OK) worst = check_stems(b, sink);
    char *serial = bench_serial(b);
    host_sources_offer(&p->sources, "<serial>", serial, strlen(serial));
    g_free(serial);
    if (worst != BL_OK) {
        project_close(p);
        return worst;
    }
    /* All errors of all pieces in one run: one broken piece does not hide those of the next. */
    for (size_t i = 0; i < b->piece_count; i++) {
        if (!wanted(&b->pieces[i], scope)) continue;
        bl_status status = add_piece(p, &b->pieces[i], extras, sink);
        if (worst == BL_OK) worst = status;
    }
    if (worst == BL_OK && scope != PROJECT_FIRMWARE) {
        worst = project_check_chips(b, p->chips, sink);
        check_vectors(p, sink);
    }
    if (worst != BL_OK) {
        project_close(p);
        return worst;
    }
    *out = p;
    return BL_OK;
}

bl_status project_assemble(project *p, const char *source, const project_extras *extras,
                           const bl_sink *sink, bl_program **program)
{
    return assemble(p, source, extras, sink, program);
}

void project_close(project *p)
{
    if (p == NULL) return;
    for (size_t i = 0; i < p->piece_count; i++) {
        bl_program_close(p->pieces[i].program);
        g_free(p->pieces[i].stem);
    }
    bl_image_close(p->chips);
    if (p->results != NULL) g_ptr_array_unref(p->results);
    host_sources_clear(&p->sources);
    g_free(p->pieces);
    g_free(p);
}

static void free_project_result(void *data)
{
    project_result *r = data;
    g_free(r->name);
    g_byte_array_unref(r->bytes);
    g_free(r);
}

void project_add_result(project *p, const char *name, GByteArray *bytes)
{
    project_result *r = g_new0(project_result, 1);
    r->name = g_strdup(name), r->bytes = bytes;
    if (p->results == NULL) p->results = g_ptr_array_new_with_free_func(free_project_result);
    g_ptr_array_add(p->results, r);
}

/* ---- files ---- */

/* What is built, file by file, until all of it is put into its folder at once. */
typedef struct results {
    GArray *files;    /* replace_file */
    GPtrArray *names; /* owned */
    GPtrArray *texts; /* host_output *, whose bytes the files have */
} results;

static bl_status add_result(results *r, const char *stem, const char *ending, host_output *out)
{
    bl_text all = host_output_text(out);
    replace_file f = {g_strconcat(stem, ending, NULL), all.at, all.length};
    g_ptr_array_add(r->names, (void *)(uintptr_t)f.name);
    g_ptr_array_add(r->texts, out);
    g_array_append_val(r->files, f);
    return out->status;
}

static void free_output(void *out)
{
    host_output_drop(out);
    g_free(out);
}

static bl_status add_piece_file(const project *p, const project_piece *piece, const char *ending,
                                results *r)
{
    host_output *out = g_new0(host_output, 1);
    bl_writer writer;
    bl_status status;
    host_output_begin(out, &writer);
    if (strcmp(ending, ".lst") == 0)
        status = bl_listing_write(piece->program, p->b->radix, false, &writer);
    else if (strcmp(ending, ".sym") == 0)
        status = bl_symbols_write(piece->program, &writer);
    else
        status = bl_imagefile_write(BL_FILE_HEX, bl_program_image(piece->program), 0xFF,
                                    piece->stem, &writer);
    bl_status added = add_result(r, piece->stem, ending, out);
    return status == BL_OK ? added : status;
}

static bl_status add_chip_file(const project *p, const bl_chip *chip, results *r)
{
    host_output *out = g_new0(host_output, 1);
    bl_writer writer;
    uint32_t used;
    uint8_t *bytes = g_try_malloc(chip->part->size);
    host_output_begin(out, &writer);
    if (bytes == NULL) {
        out->status = BL_E_MEMORY;
    } else {
        bl_chip_contents(chip, p->chips, bytes, &used);
        writer.write(writer.context, bytes, chip->part->size);
    }
    g_free(bytes);
    return add_result(r, chip->name, ".bin", out);
}

static bl_status add_chips_image(const project *p, results *r)
{
    host_output *out = g_new0(host_output, 1);
    bl_writer writer;
    host_output_begin(out, &writer);
    bl_status status = bl_imagefile_write(BL_FILE_HEX, p->chips, 0xFF, p->b->name, &writer);
    bl_status added = add_result(r, "chips", ".hex", out);
    return status == BL_OK ? added : status;
}

/* A result must not be one of the files that it was made of. */
static bl_status check_inputs(const project *p, const results *r, const bl_sink *sink)
{
    bl_status status = BL_OK;
    for (guint i = 0; i < r->names->len && status == BL_OK; i++) {
        char *path = g_build_filename(p->b->out, g_ptr_array_index(r->names, i), NULL);
        if (host_was_read(path)) {
            status = BL_E_OVERLAP;
            bl_report(sink, BL_ERROR, path, 0, "name another folder with 'out'",
                      "this file was read, and would be replaced by what was made of it");
        }
        g_free(path);
    }
    return status;
}

/* All files of a build are replaced as one set. */
bl_status project_write(const project *p, const bl_sink *sink, size_t *count)
{
    static const char *const endings[] = {".lst", ".sym", ".hex"};
    results r = {g_array_new(FALSE, FALSE, sizeof(replace_file)),
                 g_ptr_array_new_with_free_func(g_free),
                 g_ptr_array_new_with_free_func(free_output)};
    bl_status status = BL_OK;
    for (size_t i = 0; i < p->piece_count; i++)
        for (size_t k = 0; k < 3 && status == BL_OK; k++)
            status = add_piece_file(p, &p->pieces[i], endings[k], &r);
    if (status == BL_OK && bl_image_size(p->chips) > 0) {
        status = add_chips_image(p, &r);
        for (size_t i = 0; i < p->b->chip_count && status == BL_OK; i++)
            status = add_chip_file(p, &p->b->chips[i], &r);
    }
    for (guint i = 0; status == BL_OK && p->results != NULL && i < p->results->len; i++) {
        const project_result *one = g_ptr_array_index(p->results, i);
        replace_file f = {g_strdup(one->name), one->bytes->data, one->bytes->len};
        g_ptr_array_add(r.names, (void *)(uintptr_t)f.name);
        g_array_append_val(r.files, f);
    }
    *count = r.files->len;
    if (status != BL_OK)
        bl_report(sink, BL_ERROR, p->b->out, 0, NULL, "cannot write: %s", bl_status_text(status));
    if (status == BL_OK) status = check_inputs(p, &r, sink);
    if (status == BL_OK)
        status =
            replace_set(p->b->out, (const replace_file *)(void *)r.files->data, r.files->len, sink);
    g_array_free(r.files, TRUE);
    g_ptr_array_free(r.names, TRUE);
    g_ptr_array_free(r.texts, TRUE);
    return status;
}

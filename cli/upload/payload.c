/* payload.c - the SOURCE-or-IMAGE that a command is given, as an image. */
#include "payload.h"

#include "define.h"
#include "project/stored.h"
#include "where.h"

#include <string.h>

void payload_end(payload *l)
{
    if (l->owns_image) bl_image_close(l->image);
    bl_program_close(l->program);
    project_close(l->p);
}

char *only_ram_piece(const bench *b)
{
    const bench_piece *found = NULL;
    size_t count = 0;
    for (size_t i = 0; i < b->piece_count; i++) {
        if (b->pieces[i].for_chips || b->pieces[i].source == NULL) continue;
        found = &b->pieces[i];
        count++;
    }
    if (count != 1) return NULL;
    return host_path_in(b->folder, found->source);
}

bool payload_is_image(const char *name, const char *at)
{
    return at != NULL || bl_filetype_of((bl_text){name, strlen(name)}) != BL_FILE_UNKNOWN;
}

int payload_begin(const bench *b, const char *name, const char *at, const project_extras *extras,
                  payload *l)
{
    memset(l, 0, sizeof *l);
    l->name = name;
    if (payload_is_image(name, at)) {
        l->owns_image = true;
        return cli_read_image(b, name, at, &l->image);
    }
    project_extras e = {.folders = NULL};
    if (extras != NULL) e = *extras;
    int code = define_take(&e);
    if (code != EXIT_GOOD) return code;
    if (project_build(b, PROJECT_FIRMWARE, &e, &cli_sink, &l->p) != BL_OK) return EXIT_FAILED;
    if (project_assemble(l->p, name, &e, &cli_sink, &l->program) != BL_OK) return EXIT_FAILED;
    l->image = bl_program_image(l->program);
    whereis_add(&l->names, l->program);
    return EXIT_GOOD;
}

int payload_store(const bench *b, payload *l)
{
    char *why = NULL;
    bl_image *stored = stored_image(b, l->image, &why);
    if (stored == NULL) {
        int code = fail("%s: %s", l->name, why != NULL ? why : bl_status_text(BL_E_MEMORY));
        g_free(why);
        return code;
    }
    if (l->owns_image) bl_image_close(l->image);
    l->image = stored;
    l->owns_image = true;
    return EXIT_GOOD;
}

bool payload_cut(payload *l, bl_range range)
{
    bl_image *cut = NULL;
    if (bl_image_count(l->image, range) == 0 || bl_image_open(&host_memory, &cut) != BL_OK)
        return false;
    for (size_t i = 0; i < bl_image_pieces(l->image); i++) {
        bl_piece p = bl_image_piece(l->image, i);
        uint64_t first = MAX(range.first, p.first);
        uint64_t end = MIN(range.first + range.count, p.first + (uint64_t)p.count);
        if (first >= end) continue;
        bl_status status = bl_image_put(cut, (uint32_t)first, p.bytes + (first - p.first),
                                        (size_t)(end - first), (bl_origin){0, 0});
        if (status == BL_OK) continue;
        bl_image_close(cut);
        return false;
    }
    if (l->owns_image) bl_image_close(l->image);
    l->image = cut;
    l->owns_image = true;
    return true;
}

int payload_address(const bench *b, const payload *l, const char *option, const char *text,
                    uint32_t *address)
{
    places p = {.b = b, .w = &l->names};
    return where_address(&p, option, text, address);
}

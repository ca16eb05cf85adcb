/* tape_stage.c - the tape loader as a part of the machine's project. */
#include "tape_stage.h"

#include <glib.h>
#include <string.h>

static bool defines(const bench *b, const char *name)
{
    for (size_t i = b->first_define; i < b->definition_count; i++)
        if (strcmp(b->definitions[i].name, name) == 0) return true;
    return false;
}

bl_status tape_stage_begin(const bench *b, bool unpacks, const bl_sink *sink, tape_stage *s)
{
    static const bl_definition packed = {.name = "UNPACKS", .value = 1};
    const char *firmware = bench_firmware(b->sheet, "tape-loader");
    project_extras extras = {.definitions = &packed};
    *s = (tape_stage){0};
    if (firmware == NULL) {
        bl_text cpu = bl_sheet_name(b->sheet);
        bl_report(sink, BL_ERROR, b->path, 0, "blocks without a first stage: --as blocks",
                  "no first-stage loader comes with Bootlace for the %.*s", (int)cpu.length,
                  cpu.at);
        return BL_E_UNSUPPORTED;
    }
    if (unpacks && !defines(b, packed.name)) extras.definition_count = 1;
    bl_status status = project_build(b, PROJECT_FIRMWARE, NULL, sink, &s->p);
    if (status != BL_OK) return status;
    char *source = g_strdup_printf("<%s>", firmware);
    status = project_assemble(s->p, source, &extras, sink, &s->program);
    g_free(source);
    if (status == BL_OK) s->image = bl_program_image(s->program);
    return status;
}

void tape_stage_end(tape_stage *s)
{
    bl_program_close(s->program);
    project_close(s->p);
    *s = (tape_stage){0};
}

/* Areas that the loader has for itself. */
bool tape_stage_allows(const tape_stage *s, const bl_image *program, uint32_t *where)
{
    static const char *const names[] = {"loader", "loader_page", "loader_zero", "loader_data",
                                        "stack"};
    const bench *b = s->p->b;
    for (size_t i = 0; i < b->area_count; i++)
        for (size_t n = 0; n < G_N_ELEMENTS(names); n++)
            if (strcmp(b->areas[i].name, names[n]) == 0 &&
                bl_image_conflict(program, bench_bytes(b, b->areas[i].range), where))
                return false;
    return true;
}

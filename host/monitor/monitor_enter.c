/* monitor_enter.c - the line assembler: instructions into memory, with all names that are known. */
#include "monitor_parts.h"

#include <string.h>

static void add_definition(GArray *list, GHashTable *names, const char *name, int64_t value)
{
    if (g_hash_table_contains(names, name)) return;
    bl_definition d = {g_strdup(name), value};
    g_hash_table_add(names, (char *)d.name); /* which frees it in the end */
    g_array_append_val(list, d);
}

/* A piece and a symbol of it, as sources call it that use the piece's symbols: eyelet.poll. */
static void add_pieces(const monitor *m, GArray *list, GHashTable *names)
{
    for (size_t k = 0; m->built != NULL && k < m->built->piece_count; k++) {
        const project_piece *piece = &m->built->pieces[k];
        bl_text stem = {piece->stem, strlen(piece->stem)};
        bl_symbol s;
        for (size_t i = 0; bl_symbol_name_is_valid(stem) && i < bl_program_symbols(piece->program);
             i++) {
            if (bl_program_symbol(piece->program, i, &s) != BL_OK) continue;
            char *name = g_strconcat(piece->stem, ".", s.name, NULL);
            add_definition(list, names, name, s.value);
            g_free(name);
        }
    }
}

/* Names of the programs become definitions: each once, the first program's. */
static GArray *all_definitions(const monitor *m, GHashTable *names)
{
    GArray *list = g_array_new(FALSE, FALSE, sizeof(bl_definition));
    for (size_t i = 0; i < m->b->definition_count; i++)
        add_definition(list, names, m->b->definitions[i].name, m->b->definitions[i].value);
    for (size_t k = 0; k < m->debug.program_count; k++)
        for (size_t i = 0; i < bl_program_symbols(m->programs[k]); i++) {
            bl_symbol s;
            if (bl_program_symbol(m->programs[k], i, &s) == BL_OK)
                add_definition(list, names, s.name, s.value);
        }
    add_pieces(m, list, names);
    return list;
}

/* Messages of the assembler, without its file name: there is one line, and it is on the screen. */
static void keep_message(void *context, const bl_diag *d)
{
    monitor *m = context;
    if (d->severity == BL_NOTE) return;
    g_string_append_printf(m->said, "%s%s%s\n", d->message, d->hint != NULL ? "; " : "",
                           d->hint != NULL ? d->hint : "");
}

/* One instruction, or a directive that makes bytes. All of it is assembled before anything is
 * written, so that an error leaves everything as it was. */
static bool assemble_at(monitor *m, uint32_t address, const char *text, uint32_t *size)
{
    GHashTable *names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    monitor_need_build(m);
    GArray *definitions = all_definitions(m, names);
    bl_sink sink = {m, keep_message};
    bl_asm_options o = {.memory = host_memory,
                        .sheet = m->b->sheet,
                        .areas = m->b->areas,
                        .area_count = m->b->area_count,
                        .definitions = (const bl_definition *)definitions->data,
                        .definition_count = definitions->len,
                        .sink = &sink};
    char *source = g_strdup_printf("        .org $%X\n        %s\n", address, text);
    bl_program *program = NULL;
    bl_status status = bl_assemble_text(&o, "entered", (bl_text){source, strlen(source)}, &program);
    bool good = status == BL_OK;
    if (good && bl_image_pieces(bl_program_image(program)) != 1)
        good = monitor_fail(m, "this makes no bytes, or bytes in several places");
    if (good) {
        bl_piece p = bl_image_piece(bl_program_image(program), 0);
        status = p.first != address ? BL_E_RANGE : monitor_write(m, address, p.bytes, p.count);
        *size = (uint32_t)p.count;
        good = status == BL_OK || monitor_fail_status(m, "memory", status);
    }
    bl_program_close(program);
    g_free(source);
    g_array_free(definitions, TRUE);
    g_hash_table_destroy(names);
    return good;
}

/* What went in is shown as it is in memory now. */
static bool enter_one(monitor *m, const char *text)
{
    uint32_t size = 0, end, shown = 0;
    if (!assemble_at(m, m->entering, text, &size)) return false;
    end = m->entering + size;
    while (m->entering < end && (shown = monitor_put_code(m, m->entering)) > 0)
        m->entering += shown;
    m->entering = end;
    return true;
}

/* Up to an empty line. After an error the same place is asked for again. */
bool monitor_enter_line(monitor *m, const char *line)
{
    char *text = g_strstrip(g_strdup(line));
    bool good = true;
    if (*text == '\0')
        m->enters = false;
    else
        good = enter_one(m, text);
    g_free(text);
    return good;
}

const char *monitor_enters(monitor *m)
{
    if (!m->enters) return NULL;
    return monitor_address_text(m, m->entering_text, m->entering);
}

bool monitor_do_enter(monitor *m)
{
    if (!monitor_take_address(m, 1, &m->entering)) return false;
    m->enters = !monitor_has(m, 2);
    return m->enters || enter_one(m, monitor_rest(m, 2));
}

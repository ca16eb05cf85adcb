/* monitor.c - the life of a monitor, and what its words share: places, values, memory, texts. */
#include "monitor_parts.h"

#include <stdarg.h>
#include <string.h>

#include "files/files.h"
#include "project/sheets.h"

/* ---- life ---- */

/* Names that are neither registers nor of a program: areas, devices, pieces. */
static bl_status bench_name(void *context, bl_text name, int64_t *value)
{
    monitor *m = context;
    char *why = NULL, *text = g_strndup(name.at, name.length);
    uint32_t address = 0;
    places plain = m->where;
    plain.machine_radix = false;
    monitor_need_build(m);
    bool good =
        places_address(&plain, text, &address, &why) || monitor_older_address(m, text, &address);
    *value = address;
    g_free(text);
    g_free(why);
    return good ? BL_OK : BL_E_NOT_FOUND;
}

/* A register of a device in memory: board.NAME.REGISTER. */
static bool device_label(void *context, uint32_t address, char *buffer, size_t capacity)
{
    const bench *b = ((const monitor *)context)->b;
    for (size_t i = 0; i < b->device_count; i++) {
        const bench_device *d = &b->devices[i];
        char *head = g_strconcat("board.", d->name, ".", NULL);
        bool here = !d->in_ports && address >= d->at && address - d->at < d->size, found = false;
        for (size_t k = 0; here && !found && k < b->definition_count; k++) {
            found = b->definitions[k].value == (int64_t)address &&
                    g_str_has_prefix(b->definitions[k].name, head);
            if (found) g_strlcpy(buffer, b->definitions[k].name, capacity);
        }
        g_free(head);
        if (found) return true;
    }
    const char *older = monitor_older_name(context, address);
    if (older != NULL) g_strlcpy(buffer, older, capacity);
    return older != NULL;
}

static bool is_sheet(bl_text name, const bl_sheet *sheet)
{
    bl_text its = bl_sheet_name(sheet);
    return its.length == name.length && memcmp(its.at, name.at, name.length) == 0;
}

/* Of a CPU with a mode of 24 bits: what it is about to execute, by the mode that it is in; what was
 * assembled, as it was; else what lies beyond 64 KiB is code of that mode. */
static const bl_sheet *sheet_at(void *context, uint32_t address)
{
    monitor *m = context;
    uint32_t pc, wide;
    bl_place place;
    if (bl_debug_register(&m->debug, (bl_text){"PC", 2}, &pc) == BL_OK && pc == address &&
        bl_debug_register(&m->debug, (bl_text){"ADL", 3}, &wide) == BL_OK)
        return wide != 0 ? m->mode : m->b->sheet;
    if (bl_debug_place(&m->debug, address, &place) && place.code)
        return is_sheet(place.cpu, m->mode) ? m->mode : m->b->sheet;
    return address > 0xFFFF ? m->mode : m->b->sheet;
}

/* "ez80+z80" comes up in the mode that is called behind the plus; "ez80" is the other. */
static void open_mode(monitor *m)
{
    bl_text name = bl_sheet_name(m->b->sheet);
    const char *plus = memchr(name.at, '+', name.length);
    if (bl_sheet_address_bits(m->b->sheet) <= 16 || plus == NULL) return;
    char *other = g_strndup(name.at, (gsize)(plus - name.at));
    if (host_sheet_open(other, NULL, NULL, &m->mode) == BL_OK) m->debug.sheet_at = sheet_at;
    g_free(other);
}

monitor *monitor_open(const bench *b, const bl_target *target, const project_extras *extras)
{
    monitor *m = g_new0(monitor, 1);
    m->b = b;
    m->extras = extras;
    bl_debug_begin(&m->debug, target, b->sheet);
    m->debug.context = m;
    m->debug.name = bench_name;
    m->debug.label = device_label;
    m->debug.programs = m->programs;
    m->where = (places){.b = b, .w = &m->names, .after = &m->later, .machine_radix = true};
    open_mode(m);
    m->space = bl_sheet_address_bits(b->sheet) > 16 ? 0x1000000 : 0x10000;
    m->before = g_malloc0(m->space);
    m->looked = g_malloc0(m->space);
    m->journal = monitor_new_journal();
    m->older = monitor_new_older();
    m->outdated = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    m->absent = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    return m;
}

void monitor_close(monitor *m)
{
    if (m == NULL) return;
    bl_debug_end(&m->debug);
    bl_sheet_close(m->mode);
    project_close(m->built);
    for (size_t i = 0; i < MONITOR_WATCHED; i++)
        g_free(m->watched[i]);
    g_free(m->before);
    g_free(m->looked);
    monitor_forget_memory(m);
    g_array_free(m->journal, TRUE);
    monitor_forget_older(m);
    g_array_free(m->older, TRUE);
    g_hash_table_destroy(m->outdated);
    g_hash_table_destroy(m->absent);
    g_free(m);
}

void monitor_set_watch(monitor *m, bl_debug_watch watch)
{
    m->watch = watch;
}

bool monitor_may_go_on(const monitor *m)
{
    return m->watch.go_on == NULL || m->watch.go_on(m->watch.context);
}

/* What was sent comes first, then what is built for RAM, then what is in chips; but for pieces of
 * which something older is in memory. Of pieces for RAM those that are not in memory come last:
 * several may have one place. */
void monitor_gather_names(monitor *m)
{
    size_t n = 0;
    m->names.count = m->later.count = 0;
    whereis_add(&m->names, m->sent);
    for (unsigned turn = 0; turn < 2; turn++)
        for (size_t i = 0; m->built != NULL && i < m->built->piece_count; i++) {
            const project_piece *piece = &m->built->pieces[i];
            bool absent = g_hash_table_contains(m->absent, piece->stem);
            if (absent != (turn == 1)) continue;
            if (g_hash_table_contains(m->outdated, piece->stem)) continue;
            whereis_add(piece->piece->for_chips ? &m->later : &m->names, piece->program);
        }
    for (size_t i = 0; i < m->names.count && n < G_N_ELEMENTS(m->programs); i++)
        m->programs[n++] = m->names.programs[i];
    for (size_t i = 0; i < m->later.count && n < G_N_ELEMENTS(m->programs); i++)
        m->programs[n++] = m->later.programs[i];
    m->debug.program_count = n;
    m->where.built = m->built;
}

void monitor_set_program(monitor *m, bl_program *program)
{
    m->sent = program;
    project_close(m->built);
    m->built = NULL;
    m->tried = false;
    monitor_gather_names(m);
}

/* Once: sources that change while somebody looks are another session. Without a build there are
 * numbers. */
void monitor_need_build(monitor *m)
{
    if (m->tried) return;
    m->tried = true;
    if (project_build(m->b, PROJECT_ALL, m->extras, NULL, &m->built) != BL_OK && m->said != NULL)
        g_string_append(m->said, "the bench's sources have faults (bootlace build tells them): "
                                 "there are no names\n");
    monitor_find_absent(m);
    monitor_gather_names(m);
}

/* ---- faults ---- */

bool monitor_fail(monitor *m, const char *message, ...)
{
    va_list list;
    va_start(list, message);
    g_string_append_vprintf(m->said, message, list);
    va_end(list);
    g_string_append_c(m->said, '\n');
    return false;
}

const char *monitor_reason(bl_status status)
{
    return status == BL_E_UNSUPPORTED ? "this machine's monitor cannot tell or do that"
           : status == BL_E_TIMEOUT
               ? "nobody answers: no power, or a program runs that does not poll the "
                 "line, or has written over the monitor's memory. NMI keeps memory as "
                 "it is; else reset the machine, and go on here"
           : status == BL_E_REFUSED ? "no program waits there (after a reset none does); 'run "
                                      "PLACE' starts one"
           : status == BL_E_DIFFERS ? "it is not kept there: no RAM, or a bad line"
           : status == BL_E_RANGE   ? "there are no such addresses, or values"
                                    : bl_status_text(status);
}

bool monitor_fail_status(monitor *m, const char *what, bl_status status)
{
    return monitor_fail(m, "%s: %s", what, monitor_reason(status));
}

/* The formula, and a mark under what is wrong in it. */
bool monitor_fail_formula(monitor *m, const char *text, const bl_formula_fault *fault)
{
    monitor_fail(m, "%s", text);
    return monitor_fail(m, "%*s^ %s", (int)fault->at, "", fault->why);
}

bool monitor_is(const monitor *m, size_t index, const char *text)
{
    return monitor_has(m, index) && !m->token[index].quoted &&
           strcmp(m->token[index].text, text) == 0;
}

bool monitor_at_most(monitor *m, size_t count)
{
    if (m->count <= count + 1) return true;
    return monitor_fail(m, "'%s' is too much; help %s tells what it takes",
                        m->token[count + 1].text, m->token[0].text);
}

/* ---- places and values ---- */

bool monitor_split_line(const char *text, bl_text *file, uint32_t *line)
{
    const char *colon = strrchr(text, ':');
    if (colon == NULL || colon == text) return false;
    *file = (bl_text){text, (size_t)(colon - text)};
    return bl_number_parse((bl_text){colon + 1, strlen(colon + 1)}, UINT32_MAX, line) == BL_OK;
}

/* "lamp.asm:14": the first address that this line made. False without a reason: it is no line. */
static bool line_address(monitor *m, const char *text, uint32_t *address, char **why)
{
    bl_text file;
    uint32_t line;
    if (!monitor_split_line(text, &file, &line)) return false;
    for (size_t i = 0; i < m->debug.program_count; i++)
        if (bl_program_line_places(m->programs[i], file, line, address, 1) > 0) return true;
    *why = g_strdup_printf("no instruction or data came from '%s'", text);
    return false;
}

/* As everywhere; else a line of a source; else a formula, which has registers and memory. */
bool monitor_address(monitor *m, const char *text, uint32_t *address, char **why)
{
    int64_t value = 0;
    bl_formula_fault fault;
    *why = NULL;
    monitor_need_build(m);
    if (line_address(m, text, address, why)) return true;
    if (*why != NULL) return false;
    if (places_address(&m->where, text, address, why)) return true;
    bl_status status = bl_debug_evaluate(&m->debug, (bl_text){text, strlen(text)}, &value, &fault);
    if (status == BL_OK && value >= 0 && value <= UINT32_MAX) {
        g_free(*why);
        *why = NULL;
        *address = (uint32_t)value;
        return true;
    }
    return false;
}

/* Without names a range is as everywhere; each of its ends may be a place of ours. */
bool monitor_range(monitor *m, const char *text, bl_range *range, char **why)
{
    uint32_t first, last;
    char *ignored = NULL;
    monitor_need_build(m);
    if (places_range(&m->where, text, range, why)) return true;
    const char *dots = strstr(text, ".."), *plus = strrchr(text, '+');
    const char *cut = dots != NULL ? dots : plus;
    char *head = cut != NULL ? g_strndup(text, (gsize)(cut - text)) : g_strdup(text);
    bool good = monitor_address(m, head, &first, &ignored);
    int64_t count = 1;
    if (good && dots != NULL) {
        good = monitor_address(m, dots + 2, &last, &ignored) && last >= first;
        count = (int64_t)last - first + 1;
    } else if (good && plus != NULL) {
        good = monitor_value_of(m, plus + 1, &count) && count > 0;
    }
    g_free(head);
    g_free(ignored);
    if (!good) return false;
    g_free(*why);
    *why = NULL;
    *range = (bl_range){first, (uint64_t)count};
    return true;
}

static bool has_operand(monitor *m, size_t index, const char *what)
{
    if (monitor_has(m, index)) return true;
    return monitor_fail(m, "%s is missing; help %s tells what it takes", what, m->token[0].text);
}

bool monitor_take_address(monitor *m, size_t index, uint32_t *address)
{
    char *why = NULL;
    if (!has_operand(m, index, "a place")) return false;
    bool good = monitor_address(m, m->token[index].text, address, &why);
    if (good && *address >= m->space) {
        good = false;
        why = g_strdup_printf("'%s' is beyond the machine's addresses", m->token[index].text);
    }
    if (!good) monitor_fail(m, "%s", why);
    g_free(why);
    return good;
}

bool monitor_take_range(monitor *m, size_t index, bl_range *range)
{
    char *why = NULL;
    if (!has_operand(m, index, "a range")) return false;
    bool good = monitor_range(m, m->token[index].text, range, &why);
    if (good && range->first + range->count > m->space) {
        good = false;
        why = g_strdup_printf("'%s' goes beyond the machine's addresses", m->token[index].text);
    }
    if (!good) monitor_fail(m, "%s", why);
    g_free(why);
    return good;
}

bool monitor_value_of(monitor *m, const char *text, int64_t *value)
{
    const char *digits = m->b->radix == BL_OCTAL ? "01234567" : "0123456789abcdefABCDEF";
    bl_formula_fault fault;
    size_t length = strlen(text);
    if (length > 0 && length <= 8 && strspn(text, digits) == length) {
        *value = (int64_t)g_ascii_strtoull(text, NULL, m->b->radix == BL_OCTAL ? 8 : 16);
        return true;
    }
    monitor_need_build(m);
    if (bl_debug_evaluate(&m->debug, (bl_text){text, length}, value, &fault) == BL_OK) return true;
    return monitor_fail_formula(m, text, &fault);
}

bool monitor_take_value(monitor *m, size_t index, int64_t low, int64_t high, int64_t *value)
{
    if (!has_operand(m, index, "a value")) return false;
    if (!monitor_value_of(m, m->token[index].text, value)) return false;
    if (*value >= low && *value <= high) return true;
    return monitor_fail(m, "'%s' is %lld, not %lld to %lld", m->token[index].text,
                        (long long)*value, (long long)low, (long long)high);
}

bool monitor_take_count(monitor *m, size_t index, int64_t most, int64_t *count)
{
    uint32_t value;
    if (!has_operand(m, index, "a number")) return false;
    const char *text = m->token[index].text;
    if (bl_number_parse((bl_text){text, strlen(text)}, UINT32_MAX, &value) != BL_OK || value < 1 ||
        value > most)
        return monitor_fail(m, "'%s' is not a number from 1 to %lld", text, (long long)most);
    *count = value;
    return true;
}

/* ---- memory ---- */

bl_status monitor_read(monitor *m, uint32_t address, uint8_t *bytes, size_t count)
{
    const bl_target *t = &m->debug.target;
    return t->read != NULL ? t->read(t->context, address, bytes, count) : BL_E_UNSUPPORTED;
}

bool monitor_is_device(const monitor *m, uint32_t address)
{
    for (size_t i = 0; i < m->b->area_count; i++)
        if (m->b->areas[i].kind == BL_AREA_IO &&
            bl_area_holds(&m->b->areas[i], (bl_range){address, 1}))
            return true;
    return false;
}

/* ---- the build ---- */

bool monitor_built_byte(const monitor *m, uint32_t address, uint8_t *byte)
{
    if (m->sent != NULL && bl_image_get(bl_program_image(m->sent), address, byte)) return true;
    for (unsigned chips = 0; chips < 2 && m->built != NULL; chips++)
        for (size_t i = 0; i < m->built->piece_count; i++) {
            const project_piece *piece = &m->built->pieces[i];
            if (piece->piece->for_chips == (chips == 1) &&
                bl_image_get(bl_program_image(piece->program), address, byte))
                return true;
        }
    return false;
}

bool monitor_source_line(const monitor *m, bl_text file, uint32_t line, bl_text *text)
{
    for (size_t i = 0; i < m->debug.program_count; i++)
        if (bl_program_line_text(m->programs[i], file, line, text)) return true;
    return false;
}

/* ---- texts ---- */

const char *monitor_address_text(const monitor *m, monitor_address_buffer buffer, uint32_t address)
{
    return bl_address_text(buffer, address, bl_sheet_address_bits(m->b->sheet), m->b->radix);
}

void monitor_put_address(monitor *m, uint32_t address)
{
    monitor_address_buffer text;
    g_string_append(m->out, monitor_address_text(m, text, address));
}

void monitor_put_byte(GString *s, const bench *b, uint8_t byte)
{
    g_string_append_printf(s, b->radix == BL_OCTAL ? "%03o" : "%02X", byte);
}

void monitor_put_name(monitor *m, const char *before, uint32_t address)
{
    char name[220];
    if (bl_debug_name(&m->debug, address, name, sizeof name) > 0)
        g_string_append_printf(m->out, "%s%s", before, name);
}

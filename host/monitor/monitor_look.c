/* monitor_look.c - what is in memory: bytes, instructions, texts, values, where something is, and
 * how it differs. */
#include "monitor_parts.h"

#include <string.h>

enum { ROW = 16, ROWS = 8, CODE_ROWS = 12, SOURCE_ROWS = 9, FOUND = 40, PART = 256, SHOWN = 20 };

/* ---- bytes ---- */

static char character_of(uint8_t byte)
{
    return byte >= ' ' && byte < 0x7F ? (char)byte : '.';
}

/* What is not a device's, in as few questions as can be. */
static bl_status read_around_devices(monitor *m, uint32_t address, uint8_t *bytes, size_t count)
{
    bl_status status = BL_OK;
    memset(bytes, 0, count);
    for (size_t i = 0, n; i < count && status == BL_OK; i += n) {
        bool device = monitor_is_device(m, address + (uint32_t)i);
        for (n = 1; i + n < count && monitor_is_device(m, address + (uint32_t)(i + n)) == device;)
            n++;
        if (!device) status = monitor_read(m, address + (uint32_t)i, bytes + i, n);
    }
    return status;
}

/* A star stands behind a byte that is another than at the last look. */
static void put_row(monitor *m, uint32_t address, const uint8_t *bytes, size_t count)
{
    bool octal = m->b->radix == BL_OCTAL;
    monitor_put_address(m, address);
    g_string_append_c(m->out, ' ');
    for (size_t i = 0; i < ROW; i++) {
        uint32_t at = address + (uint32_t)i;
        g_string_append(m->out, i == ROW / 2 ? " " : "");
        if (i >= count) {
            g_string_append(m->out, octal ? "    " : "   ");
            continue;
        }
        if (monitor_is_device(m, at)) {
            g_string_append(m->out, octal ? "--- " : "-- ");
            continue;
        }
        bool other = m->looked[at] != 0 && m->before[at] != bytes[i];
        monitor_put_byte(m->out, m->b, bytes[i]);
        g_string_append_c(m->out, other ? '*' : ' ');
        m->looked[at] = 1;
        m->before[at] = bytes[i];
    }
    g_string_append_c(m->out, ' ');
    for (size_t i = 0; i < count; i++)
        g_string_append_c(
            m->out, monitor_is_device(m, address + (uint32_t)i) ? ' ' : character_of(bytes[i]));
    g_string_append_printf(m->out, "%*s", (int)(ROW - count), "");
    monitor_put_name(m, "  ", address);
    while (m->out->len > 0 && m->out->str[m->out->len - 1] == ' ')
        g_string_truncate(m->out, m->out->len - 1);
    g_string_append_c(m->out, '\n');
}

/* Rows begin at round addresses, but the first where it was asked for. */
static bool put_rows(monitor *m, bl_range range)
{
    uint8_t bytes[ROW];
    uint32_t at = (uint32_t)range.first, end = (uint32_t)(range.first + range.count);
    while (at < end) {
        size_t n = ROW - at % ROW;
        if (n > end - at) n = end - at;
        bl_status status = read_around_devices(m, at, bytes, n);
        if (status != BL_OK) return monitor_fail_status(m, "memory", status);
        put_row(m, at, bytes, n);
        at += (uint32_t)n;
        if (!monitor_may_go_on(m)) break;
    }
    m->next = at % m->space;
    m->next_is_code = false;
    return true;
}

/* Without a range: on from the last one. One address alone: some rows from there. */
bool monitor_do_see(monitor *m)
{
    bl_range range = {m->next, ROW * ROWS};
    if (!monitor_at_most(m, 1)) return false;
    if (monitor_has(m, 1) && !monitor_take_range(m, 1, &range)) return false;
    const char *text = monitor_has(m, 1) ? m->token[1].text : "";
    if (range.count == 1 && strpbrk(text, "+.") == NULL) range.count = ROW * ROWS;
    if (range.first + range.count > m->space) range.count = m->space - range.first;
    return put_rows(m, range);
}

/* Bytes as lines of text: what is no character is its number. */
bool monitor_do_text(monitor *m)
{
    bl_range range;
    if (!monitor_at_most(m, 1) || !monitor_take_range(m, 1, &range)) return false;
    uint8_t *bytes = g_malloc((size_t)range.count);
    bl_status status = monitor_read(m, (uint32_t)range.first, bytes, (size_t)range.count);
    for (size_t i = 0; i < range.count && status == BL_OK; i++) {
        if (bytes[i] == '\n')
            g_string_append_c(m->out, '\n');
        else if (bytes[i] >= ' ' && bytes[i] < 0x7F)
            g_string_append_c(m->out, (char)bytes[i]);
        else if (bytes[i] != '\r')
            g_string_append_printf(m->out, "<%02X>", bytes[i]);
    }
    if (status == BL_OK && range.count > 0 && m->out->len > 0 &&
        m->out->str[m->out->len - 1] != '\n')
        g_string_append_c(m->out, '\n');
    g_free(bytes);
    return status == BL_OK || monitor_fail_status(m, "memory", status);
}

/* ---- instructions ---- */

/* "2", or "2+t" where something may add to it. */
static void put_cycles(monitor *m, const bl_form *f)
{
    g_string_append_printf(m->out, "%u", f->cycles);
    for (size_t i = 0; i < bl_sheet_extras(m->b->sheet); i++) {
        if ((f->extras >> i & 1) == 0) continue;
        const bl_extra *x = bl_sheet_extra(m->b->sheet, i);
        g_string_append_printf(m->out, "+%.*s", (int)x->name.length, x->name.at);
    }
}

/* A label on a line of its own; then address, bytes, instruction, cycles. What is no instruction is
 * a byte of data. */
uint32_t monitor_put_code(monitor *m, uint32_t address)
{
    bl_debug_instruction in;
    bl_place place;
    char text[200];
    bl_status status = bl_debug_decode(&m->debug, address, &in);
    if (status != BL_OK && status != BL_E_NOT_FOUND) {
        monitor_fail_status(m, "memory", status);
        return 0;
    }
    uint32_t size = status == BL_OK ? in.decoded.form->size : 1;
    if (bl_debug_place(&m->debug, address, &place) && place.beyond == 0 && place.label[0] != '\0')
        g_string_append_printf(m->out, "%s:\n", place.label);
    monitor_put_address(m, address);
    g_string_append(m->out, "  ");
    size_t column = m->out->len;
    for (uint32_t i = 0; i < size; i++) {
        monitor_put_byte(m->out, m->b, (uint8_t)in.units[i]);
        g_string_append_c(m->out, ' ');
    }
    g_string_append_printf(m->out, "%*s", MAX(0, (int)(column + 16) - (int)m->out->len), "");
    if (status == BL_OK) {
        bl_debug_text(&m->debug, &in, text, sizeof text);
        g_string_append_printf(m->out, "%-28s ", text);
        if (bl_sheet_has_cycles(m->b->sheet)) put_cycles(m, in.decoded.form);
    } else
        g_string_append_printf(m->out, ".byte $%02X", in.units[0]);
    g_string_append_c(m->out, '\n');
    return size;
}

/* Without a place: on from the last one, or from where the CPU stands. */
bool monitor_do_code(monitor *m)
{
    uint32_t at = m->next, pc;
    int64_t count = CODE_ROWS;
    if (!monitor_at_most(m, 2)) return false;
    bool stands = bl_debug_register(&m->debug, (bl_text){"PC", 2}, &pc) == BL_OK;
    if (!m->next_is_code && stands) at = pc;
    if (monitor_has(m, 1) && !monitor_take_address(m, 1, &at)) return false;
    if (monitor_has(m, 2) && !monitor_take_count(m, 2, m->space, &count)) return false;
    monitor_need_build(m);
    for (; count > 0 && at < m->space && monitor_may_go_on(m); count--) {
        uint32_t size = monitor_put_code(m, at);
        if (size == 0) return false;
        at += size;
    }
    m->next = at % m->space;
    m->next_is_code = true;
    return true;
}

/* Among the places where one could begin that ends here, one that a source made; or the nearest. */
uint32_t monitor_instruction_before(monitor *m, uint32_t address)
{
    uint32_t nearest = address > 0 ? address - 1 : 0;
    bool any = false;
    for (uint32_t size = 1; size <= BL_FORM_UNITS && size <= address; size++) {
        bl_debug_instruction in;
        bl_place place;
        if (bl_debug_decode(&m->debug, address - size, &in) != BL_OK ||
            in.decoded.form->size != size)
            continue;
        if (bl_debug_place(&m->debug, address - size, &place)) return address - size;
        if (!any) nearest = address - size;
        any = true;
    }
    return nearest;
}

/* ---- values ---- */

/* In the ways that people need it: hexadecimal, decimal, binary, as a character, as a name. */
bool monitor_do_value(monitor *m)
{
    int64_t value;
    bl_formula_fault fault;
    const char *text = monitor_rest(m, 1);
    if (*text == '\0') return monitor_fail(m, "a formula is missing, like: value byte(count) + 1");
    monitor_need_build(m);
    if (bl_debug_evaluate(&m->debug, (bl_text){text, strlen(text)}, &value, &fault) != BL_OK)
        return monitor_fail_formula(m, text, &fault);
    uint64_t shown = (uint64_t)value;
    if (m->b->radix == BL_OCTAL)
        g_string_append_printf(m->out, "0o%llo  ", (unsigned long long)shown);
    g_string_append_printf(m->out, "$%02llX  %lld", (unsigned long long)shown, (long long)value);
    if (value >= 0 && value <= 0xFFFF) {
        g_string_append(m->out, "  %");
        for (int bit = value > 0xFF ? 15 : 7; bit >= 0; bit--)
            g_string_append_c(m->out, (value >> bit & 1) != 0 ? '1' : '0');
        monitor_put_name(m, "  ", (uint32_t)value);
    }
    if (value >= ' ' && value < 0x7F) g_string_append_printf(m->out, "  '%c'", (char)value);
    g_string_append_c(m->out, '\n');
    return true;
}

/* ---- find ---- */

/* Values from an operand on, as bytes: numbers, texts, and words behind the word "words". */
static bool append_values(monitor *m, size_t index, GByteArray *pattern)
{
    bool wide = false, big = bl_sheet_order(m->b->sheet) == BL_BIG;
    if (!monitor_has(m, index)) return monitor_fail(m, "a value is missing");
    for (; index < m->count; index++) {
        int64_t value;
        if (m->token[index].quoted) {
            g_byte_array_append(pattern, (const uint8_t *)m->token[index].text,
                                (guint)strlen(m->token[index].text));
            continue;
        }
        if (monitor_is(m, index, "words") || monitor_is(m, index, "bytes")) {
            wide = monitor_is(m, index, "words");
            continue;
        }
        if (!monitor_take_value(m, index, wide ? -0x8000 : -0x80, wide ? 0xFFFF : 0xFF, &value))
            return false;
        uint8_t bytes[2] = {(uint8_t)value, (uint8_t)(value >> 8)};
        if (wide && big) bytes[0] = (uint8_t)(value >> 8), bytes[1] = (uint8_t)value;
        g_byte_array_append(pattern, bytes, wide ? 2 : 1);
    }
    return pattern->len > 0 || monitor_fail(m, "a value is missing");
}

bool monitor_take_bytes(monitor *m, size_t index, GByteArray **pattern)
{
    *pattern = g_byte_array_new();
    if (append_values(m, index, *pattern)) return true;
    g_byte_array_free(*pattern, TRUE);
    *pattern = NULL;
    return false;
}

static uint8_t *bytes_in_range(monitor *m, bl_range range)
{
    uint8_t *bytes = g_malloc((size_t)range.count + 1);
    for (size_t at = 0; at < range.count; at += PART) {
        size_t n = MIN(PART, (size_t)range.count - at);
        bl_status status = monitor_read(m, (uint32_t)(range.first + at), bytes + at, n);
        if (status == BL_OK && monitor_may_go_on(m)) continue;
        if (status != BL_OK)
            monitor_fail_status(m, "memory", status);
        else
            monitor_fail(m, "stopped");
        g_free(bytes);
        return NULL;
    }
    return bytes;
}

bool monitor_do_find(monitor *m)
{
    bl_range range;
    GByteArray *pattern;
    unsigned found = 0;
    if (!monitor_take_range(m, 1, &range) || !monitor_take_bytes(m, 2, &pattern)) return false;
    uint8_t *bytes = bytes_in_range(m, range);
    for (size_t at = 0; bytes != NULL && at + pattern->len <= range.count; at++) {
        if (memcmp(bytes + at, pattern->data, pattern->len) != 0) continue;
        if (found++ >= FOUND) continue;
        monitor_put_address(m, (uint32_t)(range.first + at));
        monitor_put_name(m, "  ", (uint32_t)(range.first + at));
        g_string_append_c(m->out, '\n');
    }
    if (found > FOUND) g_string_append_printf(m->out, "... and %u more\n", found - FOUND);
    bool good = bytes != NULL;
    if (good && found == 0) good = monitor_fail(m, "not found");
    g_byte_array_free(pattern, TRUE);
    g_free(bytes);
    return good;
}

/* ---- compare ---- */

/* What the build has of a range; what it has not is not compared. Returns how many bytes. */
static size_t built_bytes(const monitor *m, bl_range range, uint8_t *bytes, uint8_t *there)
{
    size_t count = 0;
    for (size_t i = 0; i < range.count; i++) {
        there[i] = monitor_built_byte(m, (uint32_t)(range.first + i), &bytes[i]);
        count += there[i];
    }
    return count;
}

/* Address, name, expected and found of each byte that differs, as many as can be looked at. */
static size_t put_differences(monitor *m, bl_range range, const uint8_t *expected,
                              const uint8_t *there, const uint8_t *found)
{
    size_t count = 0;
    char where[300];
    whereis all = {.count = MIN(m->debug.program_count, G_N_ELEMENTS(all.programs))};
    memcpy(all.programs, m->programs, all.count * sizeof all.programs[0]);
    for (size_t i = 0; i < range.count; i++) {
        if ((there != NULL && there[i] == 0) || expected[i] == found[i]) continue;
        if (count++ >= SHOWN) continue;
        monitor_put_address(m, (uint32_t)(range.first + i));
        g_string_append(m->out, "  expected ");
        monitor_put_byte(m->out, m->b, expected[i]);
        g_string_append(m->out, "  found ");
        monitor_put_byte(m->out, m->b, found[i]);
        whereis_describe(&all, (uint32_t)(range.first + i), where, sizeof where);
        g_string_append_printf(m->out, "%s%s\n", where[0] != '\0' ? "  " : "", where);
    }
    if (count > SHOWN) g_string_append_printf(m->out, "... and %zu more\n", count - SHOWN);
    return count;
}

/* Differences are a failure, so that a script ends there. */
bool monitor_do_compare(monitor *m)
{
    bl_range range, other;
    if (!monitor_at_most(m, 2) || !monitor_take_range(m, 1, &range)) return false;
    bool build = !monitor_has(m, 2) || monitor_is(m, 2, "build");
    if (!build && !monitor_take_address(m, 2, &other.first)) return false;
    other.count = range.count;
    if (!build && other.first + other.count > m->space)
        return monitor_fail(m, "the second range goes beyond the machine's addresses");
    monitor_need_build(m);
    uint8_t *there = g_malloc0((size_t)range.count), *expected = NULL,
            *found = bytes_in_range(m, range);
    size_t compared = (size_t)range.count, count = 0;
    if (build) {
        expected = g_malloc0((size_t)range.count);
        compared = built_bytes(m, range, expected, there);
    } else if (found != NULL)
        expected = bytes_in_range(m, other);
    bool good = found != NULL && expected != NULL;
    if (good && compared == 0) good = monitor_fail(m, "nothing of the build lies there");
    if (good) {
        count = put_differences(m, range, expected, build ? there : NULL, found);
        if (count == 0)
            g_string_append_printf(m->out, "all %zu bytes are the same\n", compared);
        else
            good = monitor_fail(m, "%zu of %zu bytes differ", count, compared);
    }
    g_free(there);
    g_free(expected);
    g_free(found);
    return good;
}

/* ---- source ---- */

/* So many lines around the one of a place; an arrow at it. */
static bool put_source(monitor *m, bl_text file, uint32_t line, uint32_t count)
{
    bl_text text;
    bool any = false;
    uint32_t first = line > count / 2 ? line - count / 2 : 1;
    for (uint32_t n = first; n < first + count; n++) {
        if (!monitor_source_line(m, file, n, &text)) continue;
        g_string_append_printf(m->out, "%s %5u  %.*s\n", n == line ? "->" : "  ", n,
                               (int)text.length, text.at);
        any |= n == line;
    }
    return any || monitor_fail(m, "no source of the build has a line %.*s:%u", (int)file.length,
                               file.at, line);
}

/* A line of a source need not have made anything. */
bool monitor_do_source(monitor *m)
{
    uint32_t at, line;
    bl_place place;
    bl_text file;
    char *why = NULL;
    int64_t count = SOURCE_ROWS;
    if (!monitor_at_most(m, 2)) return false;
    if (monitor_has(m, 2) && !monitor_take_count(m, 2, 1000, &count)) return false;
    monitor_need_build(m);
    const char *text = monitor_has(m, 1) ? m->token[1].text : "pc";
    if (monitor_split_line(text, &file, &line)) return put_source(m, file, line, (uint32_t)count);
    if (!monitor_address(m, text, &at, &why)) {
        monitor_fail(m, "%s", why);
        g_free(why);
        return false;
    }
    if (!bl_debug_place(&m->debug, at, &place))
        return monitor_fail(m, "no source of the build made something there");
    return put_source(m, (bl_text){place.file, strlen(place.file)}, place.line, (uint32_t)count);
}

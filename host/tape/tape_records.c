/* tape_records.c - finds the lines that are records, and looks at their checksums. */
#include "tape_records.h"

#include <string.h>

#include "files/files.h"

enum { LINE = 600 };

static void clear_fault(void *fault)
{
    g_free(((tape_record_fault *)fault)->line);
}

void tape_records_clear(tape_records *r)
{
    if (r->copies != NULL) g_ptr_array_unref(r->copies);
    if (r->faults != NULL) g_array_unref(r->faults);
    *r = (tape_records){0};
}

/* The bytes that digits from text[from] on stand for. Returns how many, or -1: not only digits. */
static int digit_pairs(const char *text, size_t from, size_t length, uint8_t *bytes)
{
    int count = 0;
    if ((length - from) % 2 != 0) return -1;
    for (size_t i = from; i < length; i += 2) {
        int high = g_ascii_xdigit_value(text[i]), low = g_ascii_xdigit_value(text[i + 1]);
        if (high < 0 || low < 0) return -1;
        bytes[count++] = (uint8_t)(high * 16 + low);
    }
    return count;
}

/* A record whose checksum is right. */
typedef struct record {
    bool ends, is_data;
    uint32_t address, count;
} record;

/* Intel HEX: count, address, type, data, and what makes the sum of all zero. */
static bool good_hex(const char *line, size_t length, record *r)
{
    uint8_t bytes[LINE], sum = 0;
    int count = digit_pairs(line, 1, length, bytes);
    if (count < 5 || bytes[0] != count - 5) return false;
    for (int i = 0; i < count; i++)
        sum = (uint8_t)(sum + bytes[i]);
    *r = (record){.ends = bytes[3] == 1, .is_data = bytes[3] == 0};
    r->address = (uint32_t)bytes[1] << 8 | bytes[2], r->count = bytes[0];
    return sum == 0;
}

/* S-record: type, count of what follows, address, data, complement of the sum. */
static bool good_srec(const char *line, size_t length, record *r)
{
    uint8_t bytes[LINE], sum = 0;
    int count = length > 4 ? digit_pairs(line, 2, length, bytes) : -1;
    int wide = line[1] - '1' + 2; /* bytes of the address of S1, S2, S3 */
    if (count < 3 || bytes[0] != count - 1 || line[1] < '0' || line[1] > '9') return false;
    for (int i = 0; i < count; i++)
        sum = (uint8_t)(sum + bytes[i]);
    *r = (record){.ends = line[1] >= '7', .is_data = line[1] >= '1' && line[1] <= '3'};
    for (int i = 1; r->is_data && i <= wide && i < count; i++)
        r->address = r->address << 8 | bytes[i];
    if (r->is_data && count >= wide + 2) r->count = (uint32_t)(count - wide - 2);
    return sum == 0xFF;
}

static void add_fault(tape_records *r, const tape_sum *where, const char *line, size_t length,
                      uint32_t after)
{
    tape_record_fault fault = {where->at, where->take, g_strndup(line, MIN(length, 48)), after,
                               UINT32_MAX};
    for (char *c = fault.line; *c != '\0'; c++)
        if ((unsigned char)*c < 32 || (unsigned char)*c > 126) *c = '?';
    g_array_append_val(r->faults, fault);
}

/* The faults since the last good record lie before this address. */
static void close_faults(tape_records *r, uint32_t next)
{
    for (guint i = r->faults->len; i-- > 0;) {
        tape_record_fault *fault = &g_array_index(r->faults, tape_record_fault, i);
        if (fault->next != UINT32_MAX) break;
        fault->next = next;
    }
}

/* Reads on: what a search through the row knows. */
typedef struct search {
    GString *copy;
    uint32_t after; /* the end of the last good record's data */
} search;

static void judge_line(tape_records *r, search *s, const tape_sum *where, const char *line,
                       size_t length)
{
    bool hex = line[0] == ':';
    record found;
    bool good = hex ? good_hex(line, length, &found) : good_srec(line, length, &found);
    if (good && r->type == BL_FILE_UNKNOWN) r->type = hex ? BL_FILE_HEX : BL_FILE_SREC;
    if (!good || hex != (r->type == BL_FILE_HEX)) {
        add_fault(r, where, line, length, s->after);
        return;
    }
    bool counts =
        !hex && (line[1] == '5' || line[1] == '6'); /* how many there were is told by gaps */
    if (!counts) {
        g_string_append_len(s->copy, line, (gssize)length);
        g_string_append_c(s->copy, '\n');
    }
    r->count++;
    if (found.is_data) close_faults(r, found.address), s->after = found.address + found.count;
    if (!found.ends) return;
    r->ended = true;
    g_ptr_array_add(r->copies, g_string_free(s->copy, FALSE));
    *s = (search){g_string_new(NULL), UINT32_MAX};
}

static bool begins(const GArray *row, guint i)
{
    uint8_t c = tape_sum_value(&g_array_index(row, tape_sum, i));
    if (c == ':') return true;
    if (c != 'S' || i + 1 >= row->len) return false;
    uint8_t next = tape_sum_value(&g_array_index(row, tape_sum, i + 1));
    return next >= '0' && next <= '9';
}

/* A copy whose end record was lost gets one, or it would be no file. */
static void close_copy(tape_records *r, search *s)
{
    if (s->copy->len > 0) {
        g_string_append(s->copy, r->type == BL_FILE_HEX ? ":00000001FF\n" : "S9030000FC\n");
        g_ptr_array_add(r->copies, g_string_free(s->copy, FALSE));
    } else {
        g_string_free(s->copy, TRUE);
    }
}

static void find_lines(const GArray *row, tape_records *r)
{
    search s = {g_string_new(NULL), UINT32_MAX};
    char line[LINE];
    for (guint i = 0, next; i < row->len; i = next) {
        size_t length = 0;
        next = i + 1;
        if (!begins(row, i)) continue;
        line[length++] = (char)tape_sum_value(&g_array_index(row, tape_sum, i));
        for (; next < row->len && length < LINE - 1; next++) {
            uint8_t c = tape_sum_value(&g_array_index(row, tape_sum, next));
            if (c < 32 || c == ':') break;
            line[length++] = (char)c;
        }
        judge_line(r, &s, &g_array_index(row, tape_sum, i), line, length);
    }
    close_copy(r, &s);
}

void tape_records_find(const GArray *row, tape_records *r)
{
    *r = (tape_records){.copies = g_ptr_array_new_with_free_func(g_free)};
    r->faults = g_array_new(FALSE, FALSE, sizeof(tape_record_fault));
    g_array_set_clear_func(r->faults, clear_fault);
    find_lines(row, r);
}

void tape_records_more(const GArray *row, tape_records *r)
{
    guint faults = r->faults->len, count = r->count;
    find_lines(row, r);
    g_array_set_size(r->faults, faults);
    r->count = count;
}

static bl_status add_copy(bl_image *all, const bl_image *copy, uint32_t *where)
{
    for (size_t i = 0; i < bl_image_pieces(copy); i++) {
        bl_piece p = bl_image_piece(copy, i);
        for (size_t j = 0; j < p.count; j++) {
            uint8_t there;
            *where = (uint32_t)(p.first + j);
            if (bl_image_get(all, *where, &there)) {
                if (there != p.bytes[j]) return BL_E_OVERLAP;
                continue;
            }
            bl_status status = bl_image_put(all, *where, p.bytes + j, 1, (bl_origin){0, 0});
            if (status != BL_OK) return status;
        }
    }
    return BL_OK;
}

static bool covered(const bl_image *image, const tape_record_fault *fault)
{
    if (fault->after == UINT32_MAX || fault->next == UINT32_MAX || fault->next <= fault->after)
        return false;
    bl_range range = {fault->after, fault->next - fault->after};
    return bl_image_count(image, range) == range.count;
}

bl_status tape_records_image(const tape_records *r, bl_image **image, uint32_t *where, guint *open)
{
    bl_status status = bl_image_open(&host_memory, image);
    *open = 0;
    for (guint i = 0; i < r->copies->len && status == BL_OK; i++) {
        bl_image *copy = NULL;
        uint32_t entry;
        status = bl_image_open(&host_memory, &copy);
        const char *text = g_ptr_array_index(r->copies, i);
        if (status == BL_OK)
            status = bl_imagefile_read(r->type, "tape", text, strlen(text), 0, copy, NULL);
        if (status == BL_OK) status = add_copy(*image, copy, where);
        if (status == BL_OK && bl_image_entry(copy, &entry)) bl_image_set_entry(*image, entry);
        bl_image_close(copy);
    }
    for (guint i = 0; i < r->faults->len; i++)
        if (!covered(*image, &g_array_index(r->faults, tape_record_fault, i))) (*open)++;
    return status;
}

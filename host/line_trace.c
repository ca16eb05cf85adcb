/* line_trace.c - rows of bytes, and what they mean. */
#include "line_trace.h"

#include "files/files.h"

#include <errno.h>
#include <glib.h>
#include <stdio.h>
#include <string.h>

#include "bootlace/exchange.h"

enum { ROW = 16 };
#define PAUSE_US 5000u /* bytes further apart do not share a row */

/* One direction. */
typedef struct side {
    bl_frame_reader reader;
    size_t block_left; /* of an XMODEM block */
    bool number_next;  /* the block's number comes */
} side;

struct line_trace {
    FILE *file;
    char *path;
    trace_protocol protocol;
    bool began;
    uint64_t begin, row_at, last;
    bool row_sent;
    uint8_t row[ROW];
    size_t count;
    GString *meaning; /* of the row that is being filled */
    side sides[2];    /* the remote's, the PC's */
    bool wide_check;  /* XMODEM with CRC-16 */
};

/* A trace is written as it happens, so it is no file that is replaced when it is whole. */
bl_status line_trace_open(const char *path, const char *line, uint32_t baud,
                          trace_protocol protocol, const bl_sink *sink, line_trace **trace)
{
    if (host_was_read(path)) {
        bl_report(sink, BL_ERROR, path, 0, "give the trace another name", "this file was read");
        return BL_E_ARGUMENT;
    }
    FILE *file = strcmp(path, "-") == 0 ? stdout : fopen(path, "w");
    if (file == NULL) {
        bl_report(sink, BL_ERROR, path, 0, NULL, "the trace cannot be written: %s",
                  g_strerror(errno));
        return BL_E_IO;
    }
    line_trace *t = g_new0(line_trace, 1);
    t->file = file;
    t->path = g_strdup(path);
    t->protocol = protocol;
    t->meaning = g_string_new(NULL);
    fprintf(file, "# line trace: %s, %u baud\n#    seconds  from  bytes\n", line, baud);
    *trace = t;
    return BL_OK;
}

/* ---- XMODEM ---- */

/* A block's bytes. What begins one, and what is said in single bytes, may stand in text as well: it
 * counts at the beginning of a row. */
static bool take_xmodem_byte(line_trace *t, side *s, uint8_t byte)
{
    if (s->number_next) {
        s->number_next = false;
        g_string_append_printf(t->meaning, "%u", byte);
        s->block_left--;
        return false;
    }
    if (s->block_left > 0) return --s->block_left == 0;
    if (t->count != 1 || (byte != 0x01 && byte != 0x02)) return false;
    size_t size = byte == 0x01 ? 128 : 1024;
    s->block_left = 2 + size + (t->wide_check ? 2 : 1);
    s->number_next = true;
    g_string_printf(t->meaning, "block of %zu bytes, number ", size);
    return false;
}

/* A row of one byte. */
static void explain_single(line_trace *t)
{
    static const struct {
        uint8_t byte;
        const char *name;
    } names[] = {{0x04, "EOT: that was all"},
                 {0x06, "ACK"},
                 {0x15, "NAK"},
                 {0x18, "CAN: cancelled"},
                 {'C', "C: begin, with CRC-16"}};
    for (size_t i = 0; i < G_N_ELEMENTS(names); i++) {
        if (names[i].byte != t->row[0]) continue;
        g_string_assign(t->meaning, names[i].name);
    }
}

/* Bytes, characters, and what they mean to the protocol, in columns that can be searched. */
static void end_row(line_trace *t)
{
    if (t->count == 0) return;
    if (t->protocol == TRACE_XMODEM && t->count == 1 && t->meaning->len == 0) explain_single(t);
    fprintf(t->file, "%12.6f  %-4s ", (double)(t->row_at - t->begin) / 1e6,
            t->row_sent ? "PC" : "far");
    for (size_t i = 0; i < ROW; i++)
        if (i < t->count)
            fprintf(t->file, " %02X", t->row[i]);
        else
            fputs("   ", t->file);
    fputs("  ", t->file);
    for (size_t i = 0; i < t->count; i++)
        fputc(t->row[i] >= ' ' && t->row[i] <= '~' ? t->row[i] : '.', t->file);
    fputc('\n', t->file);
    if (t->meaning->len > 0) fprintf(t->file, "                    = %s\n", t->meaning->str);
    /* How a receiver asks for the first block says how blocks are checked. */
    uint8_t last = t->row[t->count - 1];
    if (!t->row_sent && (last == 'C' || last == 0x15)) t->wide_check = last == 'C';
    g_string_truncate(t->meaning, 0);
    t->count = 0;
}

/* ---- frames ---- */

static const char *kind_name(uint8_t kind)
{
    switch (kind & ~BL_ANSWER) {
    case BL_ASK_HELLO: return "hello";
    case BL_ASK_READ: return "read";
    case BL_ASK_WRITE: return "write";
    case BL_ASK_SUMS: return "sums";
    case BL_ASK_RUN: return "run";
    case BL_ASK_RESUME: return "resume";
    case BL_ASK_POUR: return "pour";
    case BL_ASK_QUICK: return "quick";
    case BL_ASK_POURED: return "poured";
    case BL_ASK_SELECT: return "select";
    case BL_ASK_PROTECT: return "protect";
    case BL_ASK_ERASE: return "erase";
    case BL_ASK_SUPPLY: return "supply";
    default: return NULL;
    }
}

static const char *code_name(uint8_t code)
{
    static const char *const names[] = {
        [BL_ANSWER_GOOD] = "good",
        [BL_ANSWER_UNKNOWN] = "no such request",
        [BL_ANSWER_MALFORMED] = "malformed",
        [BL_ANSWER_RANGE] = "out of range",
        [BL_ANSWER_DIFFERS] = "read back wrong",
        [BL_ANSWER_NOT_READY] = "cycle does not end",
        [BL_ANSWER_NO_PART] = "no part selected",
        [BL_ANSWER_UNCHANGED] = "unchanged",
        [BL_ANSWER_NOT_BLANK] = "not blank",
        [BL_ANSWER_NO_SUPPLY] = "no such voltage",
    };
    _Static_assert(G_N_ELEMENTS(names) == BL_ANSWER_CODES, "one for each");
    return code < G_N_ELEMENTS(names) ? names[code] : "an unknown code";
}

/* Requests about memory begin with an address; those that carry data say how much. */
static void request_details(GString *m, const bl_frame *f)
{
    bool placed = f->kind == BL_ASK_READ || f->kind == BL_ASK_WRITE || f->kind == BL_ASK_SUMS ||
                  f->kind == BL_ASK_RUN || f->kind == BL_ASK_POUR || f->kind == BL_ASK_QUICK ||
                  f->kind == BL_ASK_ERASE;
    if (placed && f->length >= 3)
        g_string_append_printf(m, " at $%06X", bl_frame_number(f->payload, 3));
    if (f->kind == BL_ASK_WRITE && f->length > 3)
        g_string_append_printf(m, ", %u bytes", f->length - 3u);
    if (f->kind == BL_ASK_READ && f->length == 4)
        g_string_append_printf(m, ", %u bytes", f->payload[3]);
    if (f->kind == BL_ASK_POUR && f->length == 5)
        g_string_append_printf(m, ", %u bytes", bl_frame_number(f->payload + 3, 2));
    if ((f->kind == BL_ASK_SUMS || f->kind == BL_ASK_QUICK) && f->length == 6)
        g_string_append_printf(m, ", %u block%s of %u bytes", f->payload[5],
                               f->payload[5] == 1 ? "" : "s", bl_frame_number(f->payload + 3, 2));
}

static void explain_frame(line_trace *t, const bl_frame *f)
{
    const char *name = kind_name(f->kind);
    g_string_assign(t->meaning, "");
    if (name == NULL) {
        g_string_append_printf(t->meaning, "a frame of unknown kind $%02X", f->kind);
    } else if ((f->kind & BL_ANSWER) != 0) {
        g_string_append_printf(t->meaning, "answer to %s, number %u: %s", name, f->sequence,
                               f->length > 0 ? code_name(f->payload[0]) : "empty");
        if (f->length > 1) g_string_append_printf(t->meaning, ", %u bytes more", f->length - 1u);
    } else {
        g_string_append_printf(t->meaning, "asks %s, number %u", name, f->sequence);
        request_details(t->meaning, f);
    }
}

/* True where a row is to end. */
static bool take_frame_byte(line_trace *t, side *s, uint8_t byte)
{
    bl_frame frame;
    switch (bl_frame_take(&s->reader, byte, &frame)) {
    case BL_FRAME_GOOD: explain_frame(t, &frame); return true;
    case BL_FRAME_DAMAGED: g_string_assign(t->meaning, "a damaged frame"); return true;
    default: return false;
    }
}

/* ---- both ---- */

static bool means_something(line_trace *t, bool sent, uint8_t byte)
{
    side *s = &t->sides[sent];
    switch (t->protocol) {
    case TRACE_FRAMES: return take_frame_byte(t, s, byte);
    case TRACE_XMODEM: return take_xmodem_byte(t, s, byte);
    default: return false;
    }
}

void line_trace_passed(line_trace *t, bool sent, const uint8_t *bytes, size_t count, uint64_t now)
{
    if (!t->began) t->begin = now;
    t->began = true;
    for (size_t i = 0; i < count; i++) {
        if (t->count == ROW || (t->count > 0 && (sent != t->row_sent || now - t->last > PAUSE_US)))
            end_row(t);
        if (t->count == 0) t->row_at = now;
        t->row_sent = sent;
        t->row[t->count++] = bytes[i];
        t->last = now;
        if (means_something(t, sent, bytes[i])) end_row(t);
    }
}

bl_status line_trace_close(line_trace *t, const bl_sink *sink)
{
    if (t == NULL) return BL_OK;
    end_row(t);
    bool good = fflush(t->file) == 0 && ferror(t->file) == 0;
    if (t->file != stdout && fclose(t->file) != 0) good = false;
    if (!good)
        bl_report(sink, BL_ERROR, t->path, 0, NULL, "the trace is not complete: %s",
                  g_strerror(errno));
    g_string_free(t->meaning, TRUE);
    g_free(t->path);
    g_free(t);
    return good ? BL_OK : BL_E_IO;
}

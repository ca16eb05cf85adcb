/* lines.c - a line, its echo, its end, and what the remote says of it. */
#include "bootlace/lines.h"

#include "base/core.h"
#include "tail.h"

enum { MAX_RETRIES = 8 };
_Static_assert(BL_LINES_MARK > 1, "the end of what was heard is kept");

static void say_text(bl_lines *l, const char *text, size_t count, uint32_t timeout, uint64_t now)
{
    l->heard_count = 0;
    bl_transport_say(&l->transport, (const uint8_t *)text, count, timeout, now);
}

static void send_ending(bl_lines *l, uint64_t now)
{
    bool waits = l->manner.accept[0] != '\0';
    l->step = BL_LINES_ENDING;
    l->transport.rest_us = l->manner.rest_us;
    say_text(l, l->manner.ending, bl_length(l->manner.ending), waits ? l->manner.timeout_us : 0,
             now);
}

static void send_line(bl_lines *l, uint64_t now)
{
    BL_ASSERT(l->line_at + l->line_size <= l->text.length);
    l->step = BL_LINES_CHARACTERS;
    l->echoed = 0;
    l->echo_wrong = false;
    l->transport.rest_us = 0;
    say_text(l, l->text.at + l->line_at, l->line_size, l->manner.echo ? l->manner.timeout_us : 0,
             now);
    if (l->line_size == 0) send_ending(l, now);
}

/* The next line that is there. False: that was the last. */
static bool find_line(bl_lines *l)
{
    size_t at = l->line_next, end = at;
    if (at >= l->text.length) return false;
    while (end < l->text.length && l->text.at[end] != '\n')
        end++;
    l->line_at = at;
    l->line_next = end + 1;
    if (end > at && l->text.at[end - 1] == '\r') end--;
    l->line_size = end - at;
    l->line++;
    l->retries = 0;
    return true;
}

static void send_next_line(bl_lines *l, uint64_t now)
{
    l->transport.done = l->line_next < l->text.length ? l->line_next : l->text.length;
    if (find_line(l))
        send_line(l, now);
    else
        l->transport.status = BL_OK;
}

static void retry_line(bl_lines *l, bl_status why, uint64_t now)
{
    if (++l->retries == MAX_RETRIES) {
        l->transport.status = why;
        return;
    }
    l->transport.resends++;
    send_line(l, now);
}

/* ---- what comes back ---- */

static bool heard_ends_with(const bl_lines *l, const char *mark)
{
    return bl_tail_ends(l->heard, l->heard_count, mark);
}

static void take_echo(bl_lines *l, uint8_t byte, uint64_t now)
{
    if (byte == '\r' || byte == '\n') return; /* of the line before */
    if (l->echoed < l->line_size && (uint8_t)l->text.at[l->line_at + l->echoed] != byte)
        l->echo_wrong = true;
    if (++l->echoed < l->line_size || l->transport.out_sent < l->transport.out_count) return;
    if (!l->echo_wrong) send_ending(l, now);
}

static void take_line_byte(bl_transport *transport, uint8_t byte, uint64_t now)
{
    bl_lines *l = (bl_lines *)transport;
    if (l->step == BL_LINES_CANCEL) return;
    if (l->step == BL_LINES_CHARACTERS) {
        if (l->manner.echo) take_echo(l, byte, now);
        return;
    }
    bl_tail_keep(l->heard, sizeof l->heard, &l->heard_count, byte);
    if (l->manner.accept[0] == '\0') return;
    if (heard_ends_with(l, l->manner.reject))
        retry_line(l, BL_E_REFUSED, now);
    else if (heard_ends_with(l, l->manner.accept) && transport->out_sent == transport->out_count)
        send_next_line(l, now);
}

/* The echo did not come, or was wrong: the line is cancelled where that is possible. */
static void miss_echo(bl_lines *l, uint64_t now)
{
    if (l->manner.cancel[0] == '\0') {
        l->transport.status = l->echoed == 0 ? BL_E_TIMEOUT : BL_E_LINE;
        return;
    }
    l->step = BL_LINES_CANCEL;
    say_text(l, l->manner.cancel, bl_length(l->manner.cancel), 50000, now);
}

static void time_out_line(bl_transport *transport, uint64_t now)
{
    bl_lines *l = (bl_lines *)transport;
    if (l->step == BL_LINES_CANCEL)
        retry_line(l, BL_E_LINE, now);
    else if (l->step == BL_LINES_CHARACTERS && l->manner.echo)
        miss_echo(l, now);
    else if (l->step == BL_LINES_CHARACTERS)
        send_ending(l, now);
    else if (l->manner.accept[0] == '\0')
        send_next_line(l, now);
    else
        transport->status = l->heard_count == 0 ? BL_E_TIMEOUT : BL_E_LINE;
}

static const bl_transport_kind kind = {
    .name = "lines", .input = take_line_byte, .tick = time_out_line};

static bool lines_fit(bl_text text)
{
    size_t length = 0;
    for (size_t i = 0; i < text.length && length <= BL_LINES_LONGEST; i++)
        length = text.at[i] == '\n' ? 0 : length + 1;
    return length <= BL_LINES_LONGEST;
}

void bl_lines_send(bl_lines *l, uint32_t baud, bl_text text, const bl_lines_manner *manner,
                   uint64_t now)
{
    memset(l, 0, sizeof *l);
    bl_transport_begin(&l->transport, &kind, baud, text.length);
    l->manner = *manner;
    l->text = text;
    l->transport.pace_us = manner->pace_us;
    l->transport.status = lines_fit(text) ? BL_E_BUSY : BL_E_ARGUMENT;
    if (l->transport.status == BL_E_BUSY) send_next_line(l, now);
}

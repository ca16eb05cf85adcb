/* tap.c - passing on, and noting. */
#include "bootlace/tap.h"

#include "base/core.h"

static void note_bytes(uint8_t *kept, uint64_t *total, const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count && *total + i < BL_TAP_ROOM; i++)
        kept[*total + i] = bytes[i];
    *total += count;
}

static void tell_traced(const bl_tap *t, bool sent, const uint8_t *bytes, size_t count)
{
    if (count > 0 && t->watch.passed != NULL)
        t->watch.passed(t->watch.context, sent, bytes, count, t->inner.now(t->inner.context));
}

static bl_status tap_send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    bl_tap *t = context;
    bl_status status = t->inner.send(t->inner.context, bytes, count, taken);
    if (status == BL_OK) {
        note_bytes(t->sent, &t->sent_count, bytes, *taken);
        tell_traced(t, true, bytes, *taken);
    }
    return status;
}

static bl_status tap_receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    bl_tap *t = context;
    bl_status status = t->inner.receive(t->inner.context, bytes, capacity, got);
    if (status == BL_OK) {
        note_bytes(t->came, &t->came_count, bytes, *got);
        tell_traced(t, false, bytes, *got);
    }
    return status;
}

static bl_status tap_wait(void *context, uint32_t microseconds)
{
    bl_tap *t = context;
    return t->inner.wait(t->inner.context, microseconds);
}

static uint64_t tap_now(void *context)
{
    bl_tap *t = context;
    return t->inner.now(t->inner.context);
}

static bl_status tap_drain(void *context, uint32_t microseconds)
{
    bl_tap *t = context;
    return t->inner.drain(t->inner.context, microseconds);
}

bl_serial bl_tap_begin(bl_tap *t, const bl_serial *inner)
{
    memset(t, 0, sizeof *t);
    t->inner = *inner;
    return (bl_serial){t,        tap_send, tap_receive,
                       tap_wait, tap_now,  inner->drain != NULL ? tap_drain : NULL};
}

static bool is_plain_byte(uint8_t byte)
{
    return (byte >= ' ' && byte <= '~') || byte == '\r' || byte == '\n' || byte == '\t' ||
           byte == 7;
}

bl_heard bl_tap_heard(const bl_tap *t)
{
    size_t came = t->came_count < BL_TAP_ROOM ? (size_t)t->came_count : BL_TAP_ROOM;
    size_t sent = t->sent_count < BL_TAP_ROOM ? (size_t)t->sent_count : BL_TAP_ROOM;
    size_t same = came < sent ? came : sent, plain = 0;
    if (came == 0) return BL_HEARD_NOTHING;
    /* Short texts are echoed by monitors, too; these answer besides. */
    if (t->came_count <= t->sent_count && same >= 4 && memcmp(t->came, t->sent, same) == 0)
        return BL_HEARD_ECHO;
    if (t->came_count == t->sent_count && came >= 8) return BL_HEARD_ANSWERS;
    for (size_t i = 0; i < came; i++)
        plain += is_plain_byte(t->came[i]);
    return plain * 10 >= came * 9 ? BL_HEARD_TEXT : BL_HEARD_OTHER;
}

void bl_tap_text(const bl_tap *t, char *text, size_t capacity)
{
    size_t n = 0, came = t->came_count < BL_TAP_ROOM ? (size_t)t->came_count : BL_TAP_ROOM;
    for (size_t i = 0; i < came && n + 1 < capacity; i++) {
        uint8_t c = t->came[i];
        bool blank = c == '\r' || c == '\n' || c == ' ';
        if (blank && (n == 0 || text[n - 1] == ' ')) continue;
        text[n++] = blank ? ' ' : c >= ' ' && c <= '~' ? (char)c : '.';
    }
    while (n > 0 && text[n - 1] == ' ')
        n--;
    text[n] = '\0';
}

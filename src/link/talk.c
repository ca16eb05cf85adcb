/* talk.c - one exchange of a dialogue: a line is sent as slowly as the device wants it, and what
 * comes back is read until the prompt. */
#include "base/core.h"
#include "bootlace/dialogue.h"

/* ---- what is sent ---- */

static void add(bl_talk *t, char c)
{
    if (t->out_count < sizeof t->out) t->out[t->out_count++] = c;
}

static void add_number(bl_talk *t, uint32_t value, unsigned digits)
{
    char text[16];
    unsigned n = 0;
    do {
        unsigned digit = value % t->d->radix;
        text[n++] = (char)(digit < 10 ? '0' + digit : 'A' + digit - 10);
        value /= t->d->radix;
    } while (value > 0 && n < sizeof text);
    while (n < digits && n < sizeof text)
        text[n++] = '0';
    while (n > 0)
        add(t, text[--n]);
}

/* Digits that a byte has: all of them, but decimal ones as they come. */
static unsigned byte_digits(const bl_dialogue *d)
{
    return d->radix == 16 ? 2 : d->radix == 8 ? 3 : 1;
}

/* "{address:4}" at p? Returns how long it is, and the digits. */
static size_t field_at(const char *p, const char *name, unsigned *digits)
{
    size_t n = 1, length = bl_length(name);
    *digits = 1;
    if (p[0] != '{') return 0;
    for (; n <= length; n++)
        if (p[n] != name[n - 1]) return 0;
    if (p[n] == ':' && bl_is_digit(p[n + 1])) {
        *digits = (unsigned)(p[n + 1] - '0');
        n += 2;
    }
    return p[n] == '}' ? n + 1 : 0;
}

static void add_bytes(bl_talk *t)
{
    for (size_t i = 0; i < t->count; i++) {
        for (const char *s = t->d->separator; i > 0 && *s != '\0'; s++)
            add(t, *s);
        add_number(t, t->bytes[i], byte_digits(t->d));
    }
}

static void compose(bl_talk *t, const char *pattern)
{
    for (const char *p = pattern; *p != '\0';) {
        unsigned digits;
        size_t n;
        if ((n = field_at(p, "address", &digits)) > 0)
            add_number(t, t->address, digits);
        else if ((n = field_at(p, "count", &digits)) > 0)
            add_number(t, (uint32_t)t->count, digits);
        else if ((n = field_at(p, "last", &digits)) > 0)
            add_number(t, t->address + (uint32_t)t->count - 1, digits);
        else if ((n = field_at(p, "bytes", &digits)) > 0)
            add_bytes(t);
        else
            n = 1, add(t, *p);
        p += n;
    }
    for (const char *e = t->d->ending; *e != '\0'; e++)
        add(t, *e);
}

void bl_talk_begin(bl_talk *t, const bl_dialogue *d, bl_talk_kind kind, uint32_t address,
                   const uint8_t *bytes, size_t count, uint64_t now)
{
    memset(t, 0, sizeof *t);
    t->d = d;
    t->kind = kind;
    t->status = BL_E_BUSY;
    t->address = address;
    t->count = count;
    if (kind == BL_TALK_WRITE) memcpy(t->bytes, bytes, count);
    if (kind == BL_TALK_WAKE)
        for (const char *p = d->wake; *p != '\0'; p++)
            add(t, *p);
    else
        compose(t, kind == BL_TALK_WRITE ? d->write : d->read);
    t->next_at = now;
    t->deadline = now + d->patience_us;
    if (t->out_count == 0) t->status = BL_OK; /* it needs no waking */
}

size_t bl_talk_output(bl_talk *t, uint8_t *bytes, size_t room, uint64_t now)
{
    size_t n = 0;
    while (n < room && t->out_sent < t->out_count && now >= t->next_at) {
        bytes[n++] = (uint8_t)t->out[t->out_sent++];
        /* Patience begins when all is said. */
        t->deadline = now + t->d->patience_us;
        t->next_at = now + t->d->pace_us;
        if (t->out_sent == t->out_count) t->next_at += t->d->rest_us;
        if (t->d->pace_us > 0) break;
    }
    return n;
}

/* ---- what comes back ---- */

static bool number_at(const bl_dialogue *d, bl_text *text, unsigned most, uint32_t *value)
{
    unsigned n = 0;
    *value = 0;
    while (n < most && n < text->length) {
        int digit = bl_hex_digit(text->at[n]);
        if (digit < 0 || digit >= d->radix) break;
        *value = *value * d->radix + (uint32_t)digit;
        n++;
    }
    text->at += n, text->length -= n;
    return n > 0;
}

static bool skip(bl_text *text, const char *what)
{
    size_t n = bl_length(what);
    if (text->length < n || memcmp(text->at, what, n) != 0) return false;
    text->at += n, text->length -= n;
    return true;
}

/* Bytes as far as there are any. One with a digit too few has lost it on the way. */
static void take_bytes(bl_talk *t, bl_text *text)
{
    uint32_t value;
    for (;;) {
        size_t before = text->length;
        if (t->got == t->count || !number_at(t->d, text, t->d->radix == 16 ? 2 : 3, &value)) return;
        if (value > 255 || before - text->length < byte_digits(t->d)) return;
        t->bytes[t->got++] = (uint8_t)value;
        bl_text rest = *text;
        if (!skip(&rest, t->d->separator)) return;
        *text = rest;
    }
}

/* Does the line look like the pattern, with the address that is due? */
static bool take_answer(bl_talk *t, bl_text line)
{
    size_t before = t->got;
    uint32_t due = t->address + (uint32_t)t->got, value;
    for (const char *p = t->d->answer; *p != '\0';) {
        unsigned digits;
        size_t n;
        if ((n = field_at(p, "address", &digits)) > 0) {
            if (!number_at(t->d, &line, 8, &value) || value != due) return false;
        } else if ((n = field_at(p, "bytes", &digits)) > 0) {
            take_bytes(t, &line);
        } else {
            char one[2] = {*p, '\0'};
            n = 1;
            if (!skip(&line, one)) break;
        }
        p += n;
    }
    return t->got > before;
}

static void keep_said(bl_talk *t, bl_text line)
{
    size_t n = line.length < sizeof t->said - 1 ? line.length : sizeof t->said - 1;
    for (size_t i = 0; i < n; i++)
        t->said[i] = line.at[i] >= ' ' && line.at[i] <= '~' ? line.at[i] : '?';
    t->said[n] = '\0';
}

static void take_line(bl_talk *t)
{
    bl_text line = bl_text_trim((bl_text){t->line, t->line_count}), echo = {t->out, t->out_count};
    t->line_count = 0;
    if (t->kind == BL_TALK_WAKE || line.length == 0) return; /* greetings are anything */
    if (bl_text_same(line, bl_text_trim((bl_text){echo.at, echo.length - bl_length(t->d->ending)})))
        return;
    bl_text rest = line;
    if (t->d->refuse[0] != '\0' && skip(&rest, t->d->refuse)) {
        keep_said(t, line);
        t->status = BL_E_REFUSED;
        return;
    }
    if (t->kind == BL_TALK_READ && t->got < t->count && !take_answer(t, line)) keep_said(t, line);
}

static bool at_prompt(const bl_talk *t)
{
    size_t n = bl_length(t->d->prompt);
    return t->line_count >= n && memcmp(t->line + t->line_count - n, t->d->prompt, n) == 0;
}

void bl_talk_input(bl_talk *t, const uint8_t *bytes, size_t count, uint64_t now)
{
    for (size_t i = 0; i < count && t->status == BL_E_BUSY; i++) {
        if (bytes[i] == '\r' || bytes[i] == '\n') {
            take_line(t);
            continue;
        }
        if (t->line_count < sizeof t->line) t->line[t->line_count++] = (char)bytes[i];
        /* The prompt that was there before, and the echo behind it, are not the answer. */
        if (t->out_sent < t->out_count || !at_prompt(t)) continue;
        t->line_count = 0;
        t->status = t->kind == BL_TALK_READ && t->got < t->count ? BL_E_SYNTAX : BL_OK;
    }
    bl_talk_tick(t, now);
}

void bl_talk_tick(bl_talk *t, uint64_t now)
{
    if (t->status == BL_E_BUSY && t->out_sent == t->out_count && now >= t->deadline)
        t->status = BL_E_TIMEOUT;
}

uint64_t bl_talk_deadline(const bl_talk *t)
{
    return t->out_sent < t->out_count ? t->next_at : t->deadline;
}

bl_status bl_talk_status(const bl_talk *t)
{
    return t->status;
}

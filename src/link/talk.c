/* talk.c - one exchange of a dialogue: a line is sent as slowly as the device wants it, and what
 * comes back is read until the prompt.
 *
 *   begin --half a word, too long--> BL_E_RANGE
 *     |   --nothing to say---------> BL_OK
 *     v
 *   SAYING --a {wait} in what is said--> WAITING --its text came--> SAYING
 *     |                                    +--silence------------> BL_E_TIMEOUT
 *     | all is said
 *     v
 *   LISTENING --a line that begins with `refuse`--> BL_E_REFUSED
 *     |       --the text of `until`--> BL_OK, or BL_E_SYNTAX when bytes are missing
 *     |       --silence--------------> BL_OK when nothing had to come, else BL_E_TIMEOUT
 *
 * The three are told from out_sent, out_count and the 0 that stands before and behind the text of a
 * wait: waits_for_text() is WAITING, out_sent == out_count LISTENING.
 */
#include "base/core.h"
#include "bootlace/dialogue.h"
#include "tail.h"

/* ---- what is sent ---- */

static void add_character(bl_talk *t, char c)
{
    BL_ASSERT(t->out_count <= sizeof t->out);
    if (t->out_count < sizeof t->out)
        t->out[t->out_count++] = c;
    else
        t->status = BL_E_RANGE; /* nothing is sent of a command that is cut off */
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
        add_character(t, text[--n]);
}

/* Digits that a byte, or a word, has: all of them, but decimal ones as they come. */
static unsigned unit_digits(const bl_dialogue *d)
{
    if (d->radix == 10) return 1;
    if (d->radix == 16) return d->word > 8 ? 3 : 2;
    return d->word > 8 ? 4 : 3;
}

static unsigned unit_bytes(const bl_dialogue *d)
{
    return d->word > 8 ? 2 : 1;
}

static uint32_t talk_unit(const bl_talk *t, size_t index)
{
    const uint8_t *b = t->bytes + index * unit_bytes(t->d);
    if (t->d->word == 8) return b[0];
    return t->d->high_first ? (uint32_t)b[0] << 8 | b[1] : (uint32_t)b[1] << 8 | b[0];
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

/* "{wait}", "{wait:TEXT}", "{each:TEXT}" at p? Returns how long it is; *text is what stands in it.
 */
static size_t text_field_at(const char *p, const char *name, bl_text *text)
{
    size_t n = 1, length = bl_length(name);
    if (p[0] != '{') return 0;
    for (; n <= length; n++)
        if (p[n] != name[n - 1]) return 0;
    *text = (bl_text){p + n, 0};
    if (p[n] == '}') return n + 1;
    if (p[n++] != ':') return 0;
    text->at = p + n;
    while (p[n] != '}' && p[n] != '\0')
        n++, text->length++;
    return p[n] == '}' ? n + 1 : 0;
}

static void add_wait(bl_talk *t, bl_text text)
{
    if (text.length == 0) text = bl_text_of(t->d->prompt);
    add_character(t, '\0');
    for (size_t i = 0; i < text.length; i++)
        add_character(t, text.at[i]);
    add_character(t, '\0');
}

static void add_separator(bl_talk *t)
{
    bl_text text;
    for (const char *s = t->d->separator; *s != '\0';) {
        size_t n = text_field_at(s, "wait", &text);
        if (n > 0)
            add_wait(t, text), s += n;
        else
            add_character(t, *s++);
    }
}

static void add_bytes(bl_talk *t)
{
    size_t units = t->count / unit_bytes(t->d);
    /* Of a load or a dump no bytes are at hand: sent in their stead would be whatever. */
    if (t->kind != BL_TALK_WRITE || t->count > sizeof t->bytes) t->status = BL_E_RANGE;
    for (size_t i = 0; i < units && t->status == BL_E_BUSY; i++) {
        if (i > 0) add_separator(t);
        add_number(t, talk_unit(t, i), unit_digits(t->d));
    }
}

/* The same for each byte, with the prompt between. */
static void add_each(bl_talk *t, bl_text text)
{
    for (size_t i = 0; i < t->count / unit_bytes(t->d) && t->status == BL_E_BUSY; i++) {
        if (i > 0) add_wait(t, (bl_text){NULL, 0});
        for (size_t k = 0; k < text.length; k++)
            add_character(t, text.at[k]);
    }
}

/* A field with a number or bytes at p. Returns how long it is; 0: there is none. */
static size_t add_number_field(bl_talk *t, const char *p)
{
    uint32_t units = (uint32_t)t->count / unit_bytes(t->d), first = t->address / unit_bytes(t->d);
    unsigned digits;
    size_t n;
    if ((n = field_at(p, "address", &digits)) > 0)
        add_number(t, first, digits);
    else if ((n = field_at(p, "count", &digits)) > 0)
        add_number(t, units, digits);
    else if ((n = field_at(p, "last", &digits)) > 0)
        add_number(t, first + units - 1, digits);
    else if ((n = field_at(p, "byte", &digits)) > 0)
        add_number(t, talk_unit(t, 0), unit_digits(t->d));
    else if ((n = field_at(p, "bytes", &digits)) > 0)
        add_bytes(t);
    return n;
}

static void compose(bl_talk *t, const char *pattern)
{
    bl_text text;
    for (const char *p = pattern; *p != '\0';) {
        size_t n = add_number_field(t, p);
        if (n == 0 && (n = text_field_at(p, "wait", &text)) > 0)
            add_wait(t, text);
        else if (n == 0 && (n = text_field_at(p, "each", &text)) > 0)
            add_each(t, text);
        else if (n == 0)
            n = 1, add_character(t, *p);
        p += n;
    }
    for (const char *e = t->d->ending; *e != '\0'; e++)
        add_character(t, *e);
}

/* What is sent, and what ends the exchange. */
static void compose_kind(bl_talk *t)
{
    const bl_dialogue *d = t->d;
    t->until = d->prompt;
    switch (t->kind) {
    case BL_TALK_WAKE:
    case BL_TALK_LEAVE:
        for (const char *p = t->kind == BL_TALK_WAKE ? d->wake : d->leave; *p != '\0'; p++)
            add_character(t, *p);
        break;
    case BL_TALK_WRITE: compose(t, d->write); break;
    case BL_TALK_READ: compose(t, d->read); break;
    case BL_TALK_FILL: compose(t, d->fill); break;
    case BL_TALK_START:
        compose(t, d->start);
        t->until = NULL;
        break;
    case BL_TALK_LOAD:
        compose(t, d->load);
        t->until = d->loading[0] != '\0' ? d->loading : NULL;
        break;
    default:
        compose(t, d->dump);
        t->until = d->dumping[0] != '\0' ? d->dumping : NULL;
        break;
    }
}

/* Everything is composed before the first byte is sent: a command that would be cut off is not
 * begun. */
void bl_talk_begin(bl_talk *t, const bl_dialogue *d, bl_talk_kind kind, uint32_t address,
                   const uint8_t *bytes, size_t count, uint64_t now)
{
    memset(t, 0, sizeof *t);
    t->d = d;
    t->kind = kind;
    t->status = BL_E_BUSY;
    t->address = address;
    t->count = count;
    bool bounded = kind == BL_TALK_WRITE || kind == BL_TALK_READ;
    bool placed = kind != BL_TALK_WAKE && kind != BL_TALK_LEAVE;
    /* Half a word has no address: another place would be written, and read back, in its stead. */
    if (placed && (address % unit_bytes(d) != 0 || count % unit_bytes(d) != 0)) {
        t->status = BL_E_RANGE;
        return;
    }
    if (bounded && count > (kind == BL_TALK_WRITE ? (size_t)BL_DIALOGUE_BLOCK : sizeof t->bytes)) {
        t->status = BL_E_RANGE;
        return;
    }
    if (kind == BL_TALK_WRITE) memcpy(t->bytes, bytes, count);
    if (kind == BL_TALK_FILL) memcpy(t->bytes, bytes, unit_bytes(d));
    compose_kind(t);
    t->next_at = now;
    t->deadline = now + d->timeout_us;
    if (t->status == BL_E_RANGE) return;
    if (t->out_count == 0) t->status = BL_OK; /* it needs no waking, or leaves by itself */
}

/* Is something to be waited for before more is sent? */
static bool waits_for_text(const bl_talk *t)
{
    return t->out_sent < t->out_count && t->out[t->out_sent] == '\0';
}

/* Behind the last that is sent, the silence is short when nothing has to come. */
static uint64_t timeout(const bl_talk *t)
{
    bool last = t->out_sent == t->out_count && t->until == NULL;
    if (!last) return t->d->timeout_us;
    return t->kind == BL_TALK_START ? 100000u : (uint64_t)t->d->pace_us + t->d->rest_us;
}

size_t bl_talk_output(bl_talk *t, uint8_t *bytes, size_t capacity, uint64_t now)
{
    size_t n = 0;
    while (t->status == BL_E_BUSY && n < capacity && t->out_sent < t->out_count &&
           !waits_for_text(t) && now >= t->next_at) {
        bytes[n++] = (uint8_t)t->out[t->out_sent++];
        /* Patience begins when all is said. */
        t->deadline = now + timeout(t);
        t->next_at = now;
        if (t->d->pace_us > 0) t->next_at += t->d->pace_us + 10u * 1000000u / t->d->baud;
        if (t->out_sent == t->out_count || waits_for_text(t)) t->next_at += t->d->rest_us;
        if (t->d->pace_us > 0) break;
    }
    return n;
}

/* ---- what comes back ---- */

static bool number_at(const bl_dialogue *d, bl_text *text, unsigned max, uint32_t *value)
{
    unsigned n = 0;
    *value = 0;
    while (n < max && n < text->length) {
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

static void keep_unit(bl_talk *t, uint32_t value)
{
    BL_ASSERT(t->got + (t->d->word == 8 ? 1u : 2u) <= sizeof t->bytes);
    if (t->d->word == 8) {
        t->bytes[t->got++] = (uint8_t)value;
        return;
    }
    t->bytes[t->got + !t->d->high_first] = (uint8_t)(value >> 8);
    t->bytes[t->got + t->d->high_first] = (uint8_t)value;
    t->got += 2;
}

/* Bytes as far as there are any. One with a digit too few has lost it on the way. */
static void take_bytes(bl_talk *t, bl_text *text)
{
    unsigned digits = unit_digits(t->d), max = t->d->radix == 10 ? 4 : digits;
    uint32_t value;
    for (;;) {
        size_t before = text->length;
        if (t->got + unit_bytes(t->d) > t->count || !number_at(t->d, text, max, &value)) return;
        if (value >> t->d->word != 0 || before - text->length < digits) return;
        keep_unit(t, value);
        bl_text rest = *text;
        if (!skip(&rest, t->d->separator)) return;
        *text = rest;
    }
}

/* Does the line look like the pattern, with the address that is due? */
static bool take_answer(bl_talk *t, bl_text line)
{
    size_t before = t->got;
    uint32_t due = (t->address + (uint32_t)t->got) / unit_bytes(t->d), value;
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

/* What was said since the last wait, without its ending: the echo looks like that. */
static bl_text said_last(const bl_talk *t)
{
    return bl_text_trim((bl_text){t->out + t->said_from, t->out_sent - t->said_from});
}

static void take_answer_line(bl_talk *t)
{
    BL_ASSERT(t->line_count <= sizeof t->line);
    bl_text line = bl_text_trim((bl_text){t->line, t->line_count});
    t->line_count = 0;
    if (t->kind == BL_TALK_WAKE || line.length == 0) return; /* greetings are anything */
    if (bl_text_same(line, said_last(t))) return;
    bl_text rest = line;
    if (t->kind != BL_TALK_READ) keep_said(t, line); /* in case that it is the last */
    if (t->d->refuse[0] != '\0' && skip(&rest, t->d->refuse)) {
        keep_said(t, line);
        t->status = BL_E_REFUSED;
        return;
    }
    if (t->kind == BL_TALK_READ && t->got < t->count && !take_answer(t, line)) keep_said(t, line);
}

static bool answer_ends_with(const bl_talk *t, const char *text)
{
    return bl_tail_ends(t->tail, t->tail_count, text);
}

/* The text that is waited for has come: on with what is behind it. */
static void pass_wait(bl_talk *t, uint64_t now)
{
    BL_ASSERT(waits_for_text(t));
    const char *text = t->out + t->out_sent + 1;
    if (!answer_ends_with(t, text)) return;
    t->out_sent += bl_length(text) + 2;
    t->said_from = t->out_sent;
    t->line_count = t->tail_count = 0;
    t->next_at = now > t->next_at ? now : t->next_at;
    t->deadline = now + t->d->timeout_us;
}

static void take_byte(bl_talk *t, uint8_t byte, uint64_t now)
{
    bl_tail_keep(t->tail, sizeof t->tail, &t->tail_count, byte);
    if (byte == '\r' || byte == '\n')
        take_answer_line(t);
    else if (t->line_count < sizeof t->line)
        t->line[t->line_count++] = (char)byte;
    if (t->status != BL_E_BUSY) return;
    /* The prompt that was there before, and the echo behind it, are not the answer. */
    if (waits_for_text(t)) {
        pass_wait(t, now);
    } else if (t->out_sent == t->out_count && t->until != NULL && answer_ends_with(t, t->until)) {
        t->line_count = 0;
        t->status = t->kind == BL_TALK_READ && t->got < t->count ? BL_E_SYNTAX : BL_OK;
    }
}

void bl_talk_input(bl_talk *t, const uint8_t *bytes, size_t count, uint64_t now)
{
    for (size_t i = 0; i < count && t->status == BL_E_BUSY; i++)
        take_byte(t, bytes[i], now);
    bl_talk_tick(t, now);
}

void bl_talk_tick(bl_talk *t, uint64_t now)
{
    bool said = t->out_sent == t->out_count;
    if (t->status != BL_E_BUSY || (!said && !waits_for_text(t)) || now < t->deadline) return;
    t->status = said && t->until == NULL ? BL_OK : BL_E_TIMEOUT;
    if (t->status == BL_E_TIMEOUT && t->line_count > 0)
        keep_said(t, bl_text_trim((bl_text){t->line, t->line_count}));
}

const char *bl_talk_expected(const bl_talk *t)
{
    if (t->status == BL_E_RANGE) return ""; /* the command was never whole */
    if (t->status == BL_E_SYNTAX) return t->d->answer;
    if (waits_for_text(t)) return t->out + t->out_sent + 1;
    return t->until != NULL ? t->until : "";
}

uint64_t bl_talk_deadline(const bl_talk *t)
{
    return t->out_sent < t->out_count && !waits_for_text(t) ? t->next_at : t->deadline;
}

bl_status bl_talk_status(const bl_talk *t)
{
    return t->status;
}

/* dialogue.c - reading a dialogue file: a key and a value a line. */
#include "bootlace/dialogue.h"

#include "base/core.h"
#include "bootlace/number.h"
#include "fields.h"

typedef struct reader {
    bl_dialogue *d;
    const char *name;
    const bl_sink *sink;
    uint32_t line;
    bl_text row; /* the line, for marks */
    unsigned faults;
} reader;

static void fault(reader *r, const char *hint, const char *message, bl_text what)
{
    r->faults++;
    bl_report(r->sink, BL_ERROR, r->name, r->line, hint, message, (int)(what.length & 127),
              what.at);
}

/* The same with a piece of the line marked. */
static void fault_at(reader *r, bl_text mark, const char *hint, const char *message)
{
    bl_diag d = {
        BL_ERROR, r->name, r->line, (uint32_t)(mark.at - r->row.at) + 1, (uint32_t)mark.length,
        r->row,   message, hint};
    r->faults++;
    if (r->sink != NULL && r->sink->report != NULL) r->sink->report(r->sink->context, &d);
}

/* ---- values ---- */

static void take_text(reader *r, bl_text value, char *to, size_t room)
{
    bl_text inside = value;
    size_t n = 0;
    if (value.length < 2 || value.at[0] != '"' || value.at[value.length - 1] != '"') {
        fault(r, "like this: \"text\"", "text in double quotes is expected, not %.*s", value);
        return;
    }
    inside.at++, inside.length -= 2;
    while (inside.length > 0) {
        size_t used;
        uint8_t byte;
        if (n + 1 >= room || bl_character_scan(inside, &used, &byte) != BL_OK || byte == 0) {
            fault(r, NULL, "this text is too long, or an escape in it is unknown: %.*s", value);
            return;
        }
        to[n++] = (char)byte;
        inside.at += used, inside.length -= used;
    }
    to[n] = '\0';
}

static uint32_t take_number(reader *r, bl_text value, uint32_t least, uint32_t most)
{
    uint32_t number = 0;
    if (bl_number_parse(value, most, &number) != BL_OK || number < least)
        fault(r, NULL, "this number is not one, too small or too large: %.*s", value);
    return number;
}

/* "20 ms", "3 s", "500 us" */
static uint32_t take_time(reader *r, bl_text value)
{
    static const struct {
        const char *name;
        uint32_t us;
    } units[] = {{"us", 1}, {"ms", 1000}, {"s", 1000000}};
    size_t digits = 0;
    while (digits < value.length && bl_is_digit(value.at[digits]))
        digits++;
    bl_text unit = bl_text_trim((bl_text){value.at + digits, value.length - digits});
    for (size_t i = 0; i < 3; i++)
        if (bl_text_same(unit, bl_text_of(units[i].name)))
            return take_number(r, (bl_text){value.at, digits}, 0, 60000) * units[i].us;
    fault(r, "like 500 us, 20 ms, 3 s", "a time is expected, not %.*s", value);
    return 0;
}

typedef struct choice {
    const char *name;
    uint8_t value;
} choice;

static uint8_t take_choice(reader *r, bl_text value, const choice *all, size_t count,
                           const char *expected)
{
    for (size_t i = 0; i < count; i++)
        if (bl_text_same(value, bl_text_of(all[i].name))) return all[i].value;
    fault(r, expected, "this is not one of what can stand here: %.*s", value);
    return all[0].value;
}

/* A loader, or a dumper, of the remote's own. */
static bl_method take_loader(reader *r, bl_text value, bool dumps)
{
    bool (*fits)(const bl_method_row *row) = dumps ? bl_method_receives : bl_method_sends;
    char known[BL_METHOD_LIST];
    bl_method m = bl_method_named(value);
    if (m == BL_METHOD_NONE || !fits(bl_method_of(m)))
        fault(r, bl_method_list(fits, known, sizeof known),
              "no such way of carrying bytes can stand here: %.*s", value);
    return m;
}

/* ---- lines ---- */

/* What stands in braces must be known: it would be sent as it is. */
static void check_fields(reader *r, bl_text key, bl_text value)
{
    char hint[200], message[120];
    bl_text field, inside = {value.at + 1, value.length < 2 ? 0 : value.length - 2};
    if (!dialogue_wrong_field(key, inside, &field, hint, sizeof hint)) return;
    bl_format(message, sizeof message, "'%.*s' is no field of '%.*s'", (int)(field.length & 63),
              field.at, (int)(key.length & 63), key.at);
    fault_at(r, field, hint, message);
}

static bool take_words(reader *r, bl_text key, bl_text value)
{
    bl_dialogue *d = r->d;
    const struct {
        const char *key;
        char *to;
        size_t room;
    } all[] = {
        {"name", d->name, sizeof d->name},
        {"prompt", d->prompt, sizeof d->prompt},
        {"wake", d->wake, sizeof d->wake},
        {"ending", d->ending, sizeof d->ending},
        {"write", d->write, sizeof d->write},
        {"read", d->read, sizeof d->read},
        {"answer", d->answer, sizeof d->answer},
        {"refuse", d->refuse, sizeof d->refuse},
        {"separator", d->separator, sizeof d->separator},
        {"fill", d->fill, sizeof d->fill},
        {"start", d->start, sizeof d->start},
        {"load", d->load, sizeof d->load},
        {"loading", d->loading, sizeof d->loading},
        {"leave", d->leave, sizeof d->leave},
        {"dump", d->dump, sizeof d->dump},
        {"dumping", d->dumping, sizeof d->dumping},
        {"accept", d->accept, sizeof d->accept},
        {"reject", d->reject, sizeof d->reject},
        {"cancel", d->cancel, sizeof d->cancel},
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        if (!bl_text_same(key, bl_text_of(all[i].key))) continue;
        take_text(r, value, all[i].to, all[i].room);
        check_fields(r, key, value);
        return true;
    }
    return false;
}

static bool take_choices(reader *r, bl_text key, bl_text value)
{
    static const choice radixes[] = {{"hex", 16}, {"decimal", 10}, {"octal", 8}};
    static const choice words[] = {{"8", 8}, {"12", 12}};
    static const choice orders[] = {{"low", 0}, {"high", 1}};
    static const choice echoes[] = {{"no", 0}, {"yes", 1}};
    bl_dialogue *d = r->d;
    if (bl_text_same(key, bl_text_of("number")))
        d->radix = take_choice(r, value, radixes, 3, "hex, decimal or octal");
    else if (bl_text_same(key, bl_text_of("word")))
        d->word = take_choice(r, value, words, 2, "8 or 12 bits");
    else if (bl_text_same(key, bl_text_of("first")))
        d->high_first = take_choice(r, value, orders, 2, "low or high: which byte of a word");
    else if (bl_text_same(key, bl_text_of("echo")))
        d->echo = take_choice(r, value, echoes, 2, "yes or no") != 0;
    else if (bl_text_same(key, bl_text_of("loader")))
        d->loader = take_loader(r, value, false);
    else if (bl_text_same(key, bl_text_of("dumper")))
        d->dumper = take_loader(r, value, true);
    else
        return false;
    return true;
}

static void take_line(reader *r, bl_text line)
{
    bl_dialogue *d = r->d;
    size_t n = 0;
    r->row = bl_text_trim(line);
    r->row = (bl_text){line.at, r->row.length + (size_t)(r->row.at - line.at)};
    line = bl_text_trim(line);
    if (line.length == 0 || line.at[0] == '#') return;
    while (n < line.length && !bl_is_blank(line.at[n]))
        n++;
    bl_text key = {line.at, n}, value = bl_text_trim((bl_text){line.at + n, line.length - n});
    if (take_words(r, key, value) || take_choices(r, key, value)) return;
    if (bl_text_same(key, bl_text_of("block")))
        d->write_block = d->read_block = (uint8_t)take_number(r, value, 1, BL_DIALOGUE_BLOCK);
    else if (bl_text_same(key, bl_text_of("write-block")))
        d->write_block = (uint8_t)take_number(r, value, 1, BL_DIALOGUE_BLOCK);
    else if (bl_text_same(key, bl_text_of("read-block")))
        d->read_block = (uint8_t)take_number(r, value, 1, BL_DIALOGUE_READ);
    else if (bl_text_same(key, bl_text_of("baud")))
        d->baud = take_number(r, value, 50, 1000000);
    else if (bl_text_same(key, bl_text_of("pace")))
        d->pace_us = take_time(r, value);
    else if (bl_text_same(key, bl_text_of("rest")))
        d->rest_us = take_time(r, value);
    else if (bl_text_same(key, bl_text_of("patience")))
        d->timeout_us = take_time(r, value);
    else
        fault(r,
              "known: name baud prompt wake ending write read answer refuse separator fill start "
              "load loading loader leave dump dumping dumper accept reject cancel echo number word "
              "first block write-block read-block pace rest patience",
              "unknown key '%.*s'", key);
}

static bool contains(const char *text, const char *part)
{
    size_t n = bl_length(part);
    for (; *text != '\0'; text++)
        if (bl_text_same((bl_text){text, n < bl_length(text) ? n : bl_length(text)},
                         (bl_text){part, n}))
            return true;
    return false;
}

static void need(reader *r, const char *key, const char *text, const char *part)
{
    if (contains(text, part)) return;
    r->faults++;
    bl_report(r->sink, BL_ERROR, r->name, 0, NULL, "'%s' must contain %s", key, part);
}

/* Do the texts hold what they are for? */
static void check_patterns(reader *r)
{
    const bl_dialogue *d = r->d;
    char known[BL_METHOD_LIST];
    if (d->write[0] == '\0' && d->load[0] == '\0' && d->loader == BL_METHOD_TYPING)
        need(r, "write", d->write, "{bytes}");
    if (d->write[0] != '\0') {
        need(r, "write", d->write, "{address");
        need(r, "write", d->write, "{bytes}");
    }
    if (d->read[0] != '\0') {
        need(r, "read", d->read, "{address");
        need(r, "answer", d->answer, "{bytes}");
    }
    if (d->fill[0] != '\0') need(r, "fill", d->fill, "{byte");
    if (d->dump[0] != '\0') need(r, "dump", d->dump, "{address");
    if (d->dump[0] != '\0' && d->dumper == BL_METHOD_NONE)
        fault(r, bl_method_list(bl_method_receives, known, sizeof known),
              "'dump' needs a 'dumper'%.*s", (bl_text){"", 0});
    if (d->word == 12 && (d->write_block % 2 != 0 || d->read_block % 2 != 0))
        fault(r, "two bytes a word", "'block' must be even%.*s", (bl_text){"", 0});
}

bl_status bl_dialogue_read(bl_text text, const char *name, const bl_sink *sink, bl_dialogue *d)
{
    reader r = {.d = d, .name = name, .sink = sink};
    memset(d, 0, sizeof *d);
    *d = (bl_dialogue){.loader = BL_METHOD_TYPING,
                       .ending = "\r",
                       .separator = " ",
                       .radix = 16,
                       .word = 8,
                       .dumper = BL_METHOD_NONE,
                       .write_block = 16,
                       .read_block = 16,
                       .baud = 9600,
                       .timeout_us = 3000000};
    while (text.length > 0) {
        size_t n = 0;
        while (n < text.length && text.at[n] != '\n')
            n++;
        r.line++;
        take_line(&r, (bl_text){text.at, n});
        n += n < text.length;
        text.at += n, text.length -= n;
    }
    r.line = 0;
    if (d->prompt[0] == '\0')
        fault(&r, NULL, "without a 'prompt' nobody knows when the device is ready%.*s",
              (bl_text){"", 0});
    check_patterns(&r);
    return r.faults > 0 ? BL_E_SYNTAX : BL_OK;
}

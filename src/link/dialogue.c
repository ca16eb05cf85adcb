/* dialogue.c - reading a dialogue file: a key and a value a line. */
#include "bootlace/dialogue.h"

#include "base/core.h"
#include "bootlace/number.h"

typedef struct reader {
    bl_dialogue *d;
    const char *name;
    const bl_sink *sink;
    uint32_t line;
    unsigned faults;
} reader;

static void fault(reader *r, const char *hint, const char *message, bl_text what)
{
    r->faults++;
    bl_report(r->sink, BL_ERROR, r->name, r->line, hint, message, (int)(what.length & 127),
              what.at);
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

static uint8_t take_radix(reader *r, bl_text value)
{
    static const struct {
        const char *name;
        uint8_t radix;
    } all[] = {{"hex", 16}, {"decimal", 10}, {"octal", 8}};
    for (size_t i = 0; i < 3; i++)
        if (bl_text_same(value, bl_text_of(all[i].name))) return all[i].radix;
    fault(r, NULL, "hex, decimal or octal is expected, not %.*s", value);
    return 16;
}

/* ---- lines ---- */

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
    };
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        if (!bl_text_same(key, bl_text_of(all[i].key))) continue;
        take_text(r, value, all[i].to, all[i].room);
        return true;
    }
    return false;
}

static void take_line(reader *r, bl_text line)
{
    bl_dialogue *d = r->d;
    size_t n = 0;
    line = bl_text_trim(line);
    if (line.length == 0 || line.at[0] == '#') return;
    while (n < line.length && !bl_is_blank(line.at[n]))
        n++;
    bl_text key = {line.at, n}, value = bl_text_trim((bl_text){line.at + n, line.length - n});
    if (take_words(r, key, value)) return;
    if (bl_text_same(key, bl_text_of("number")))
        d->radix = take_radix(r, value);
    else if (bl_text_same(key, bl_text_of("block")))
        d->block = (uint8_t)take_number(r, value, 1, BL_DIALOGUE_BLOCK);
    else if (bl_text_same(key, bl_text_of("baud")))
        d->baud = take_number(r, value, 50, 1000000);
    else if (bl_text_same(key, bl_text_of("pace")))
        d->pace_us = take_time(r, value);
    else if (bl_text_same(key, bl_text_of("rest")))
        d->rest_us = take_time(r, value);
    else if (bl_text_same(key, bl_text_of("patience")))
        d->patience_us = take_time(r, value);
    else
        fault(r,
              "known: name baud prompt wake ending write read answer refuse separator number block "
              "pace rest patience",
              "nothing is called '%.*s' here", key);
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

bl_status bl_dialogue_read(bl_text text, const char *name, const bl_sink *sink, bl_dialogue *d)
{
    reader r = {.d = d, .name = name, .sink = sink};
    memset(d, 0, sizeof *d);
    *d = (bl_dialogue){.ending = "\r",
                       .separator = " ",
                       .radix = 16,
                       .block = 16,
                       .baud = 9600,
                       .patience_us = 3000000};
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
    need(&r, "write", d->write, "{address");
    need(&r, "write", d->write, "{bytes}");
    need(&r, "read", d->read, "{address");
    need(&r, "answer", d->answer, "{bytes}");
    return r.faults > 0 ? BL_E_SYNTAX : BL_OK;
}

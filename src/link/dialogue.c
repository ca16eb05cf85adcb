/* dialogue.c - reading a dialogue file: a key and a value a line. */
#include "bootlace/dialogue.h"

#include <stddef.h>

#include "base/line_reader.h"
#include "bootlace/number.h"
#include "bootlace/quantity.h"
#include "fields.h"

typedef struct reader {
    bl_dialogue *d;
    bl_line_reader lines;
} reader;

/* ---- keys ---- */

typedef struct choice {
    const char *name;
    uint8_t value;
} choice;

static const choice radixes[] = {{"hex", 16}, {"decimal", 10}, {"octal", 8}, {NULL, 0}};
static const choice words[] = {{"8", 8}, {"12", 12}, {NULL, 0}};
static const choice orders[] = {{"low", 0}, {"high", 1}, {NULL, 0}};
static const choice echoes[] = {{"no", 0}, {"yes", 1}, {NULL, 0}};

typedef struct key key;

static void take_text(reader *r, const key *k, bl_text value);
static void take_block_size(reader *r, const key *k, bl_text value);
static void take_baud_rate(reader *r, const key *k, bl_text value);
static void take_time(reader *r, const key *k, bl_text value);
static void take_choice(reader *r, const key *k, bl_text value);
static void take_loader(reader *r, const key *k, bl_text value);

/* Where the value goes, and what it may be. */
struct key {
    const char *name;
    void (*take)(reader *r, const key *k, bl_text value);
    size_t offset, size;   /* of the member; texts: with their terminator */
    uint32_t max;          /* of a number */
    const choice *choices; /* one byte each */
    bool dumps;            /* methods: the way back */
};

#define TEXT(member)                                                                               \
    {                                                                                              \
#member, take_text, offsetof(bl_dialogue, member), sizeof(((bl_dialogue *)0)->member), 0,  \
            NULL, false                                                                            \
    }
#define CHOICE(name, member, choices)                                                              \
    {                                                                                              \
        name, take_choice, offsetof(bl_dialogue, member), sizeof(((bl_dialogue *)0)->member), 0,   \
            choices, false                                                                         \
    }
#define TIME(name, member)                                                                         \
    {                                                                                              \
        name, take_time, offsetof(bl_dialogue, member), sizeof(uint32_t), 0, NULL, false           \
    }

static const key keys[] = {
    TEXT(name),
    {"baud", take_baud_rate, offsetof(bl_dialogue, baud), sizeof(uint32_t), 1000000, NULL, false},
    TEXT(prompt),
    TEXT(wake),
    TEXT(ending),
    TEXT(write),
    TEXT(read),
    TEXT(answer),
    TEXT(refuse),
    TEXT(separator),
    TEXT(fill),
    TEXT(start),
    TEXT(load),
    TEXT(loading),
    {"loader", take_loader, offsetof(bl_dialogue, loader), sizeof(bl_method), 0, NULL, false},
    TEXT(leave),
    TEXT(dump),
    TEXT(dumping),
    {"dumper", take_loader, offsetof(bl_dialogue, dumper), sizeof(bl_method), 0, NULL, true},
    TEXT(accept),
    TEXT(reject),
    TEXT(cancel),
    CHOICE("echo", echo, echoes),
    CHOICE("number", radix, radixes),
    CHOICE("word", word, words),
    CHOICE("first", high_first, orders),
    {"block", take_block_size, offsetof(bl_dialogue, write_block), 1, BL_DIALOGUE_BLOCK, NULL,
     false},
    {"write-block", take_block_size, offsetof(bl_dialogue, write_block), 1, BL_DIALOGUE_BLOCK, NULL,
     false},
    {"read-block", take_block_size, offsetof(bl_dialogue, read_block), 1, BL_DIALOGUE_READ, NULL,
     false},
    TIME("pace", pace_us),
    TIME("rest", rest_us),
    TIME("patience", timeout_us),
};
enum { KEYS = sizeof keys / sizeof keys[0] };

_Static_assert(sizeof(bool) == 1, "choices are stored as bytes");

static const char *key_name(const void *list, size_t index)
{
    return index < KEYS ? ((const key *)list)[index].name : NULL;
}

static void *member_of(reader *r, const key *k)
{
    return (char *)r->d + k->offset;
}

/* ---- values ---- */

/* What stands in braces must be known: it would be sent as it is. */
static void check_fields(reader *r, const key *k, bl_text value)
{
    char hint[200];
    bl_text field, inside = {value.at + 1, value.length < 2 ? 0 : value.length - 2};
    if (dialogue_wrong_field(bl_text_of(k->name), inside, &field, hint, sizeof hint))
        bl_line_fault(&r->lines, field, hint, "'%.*s' is no field of '%s'",
                      (int)(field.length & 63), field.at, k->name);
}

/* A NUL inside would end the text for whoever uses it: it is refused like a text that is too long.
 */
static void take_text(reader *r, const key *k, bl_text value)
{
    char *to = member_of(r, k);
    bl_text inside = value;
    size_t n = 0;
    if (value.length < 2 || value.at[0] != '"' || value.at[value.length - 1] != '"') {
        bl_line_fault(&r->lines, value, "like this: \"text\"", "text in double quotes is expected");
        return;
    }
    inside.at++, inside.length -= 2;
    while (inside.length > 0) {
        size_t used;
        uint8_t byte;
        if (n + 1 >= k->size || bl_character_scan(inside, &used, &byte) != BL_OK || byte == 0) {
            bl_line_fault(&r->lines, inside, NULL,
                          "from here on the text is too long, or an escape in it is unknown");
            return;
        }
        to[n++] = (char)byte;
        inside.at += used, inside.length -= used;
    }
    to[n] = '\0';
    check_fields(r, k, value);
}

static bool take_dialogue_number(reader *r, bl_text value, uint32_t min, uint32_t max,
                                 uint32_t *number)
{
    if (bl_number_parse(value, max, number) == BL_OK && *number >= min) return true;
    bl_line_fault(&r->lines, value, NULL,
                  "a number from %lu to %lu is expected; this is none, too small or too large",
                  (unsigned long)min, (unsigned long)max);
    return false;
}

/* "block" stands for both. */
static void take_block_size(reader *r, const key *k, bl_text value)
{
    uint32_t number;
    if (!take_dialogue_number(r, value, 1, k->max, &number)) return;
    *(uint8_t *)member_of(r, k) = (uint8_t)number;
    if (bl_text_same(bl_text_of(k->name), bl_text_of("block"))) r->d->read_block = (uint8_t)number;
}

static void take_baud_rate(reader *r, const key *k, bl_text value)
{
    take_dialogue_number(r, value, 50, k->max, member_of(r, k));
}

static void take_time(reader *r, const key *k, bl_text value)
{
    const uint64_t hour = 3600000000000u;
    uint64_t ns = 0;
    bl_status status = bl_quantity_parse(value, BL_NANOSECONDS, NULL, &ns);
    if (status == BL_E_RANGE || ns > hour)
        bl_line_fault(&r->lines, value, NULL, "a time is expected; this is longer than an hour");
    else if (status != BL_OK)
        bl_line_fault(&r->lines, value, "like 500 us, 20 ms, 3 s", "a time is expected");
    else
        *(uint32_t *)member_of(r, k) = (uint32_t)(ns / 1000);
}

static void take_choice(reader *r, const key *k, bl_text value)
{
    char known[80];
    size_t n = (size_t)bl_format(known, sizeof known, "known:");
    for (const choice *c = k->choices; c->name != NULL; c++) {
        if (bl_text_same(value, bl_text_of(c->name))) {
            memcpy(member_of(r, k), &c->value, 1);
            return;
        }
        n += (size_t)bl_format(known + n, sizeof known - n, " %s", c->name);
    }
    bl_line_fault(&r->lines, value, known, "this is not one of what can stand here");
}

/* A loader, or a dumper, of the remote's own. */
static void take_loader(reader *r, const key *k, bl_text value)
{
    bool (*fits)(const bl_method_row *row) = k->dumps ? bl_method_receives : bl_method_sends;
    char known[BL_METHOD_LIST];
    bl_method m = bl_method_named(value);
    if (m == BL_METHOD_NONE || !fits(bl_method_of(m)))
        bl_line_fault(&r->lines, value, bl_method_list(fits, known, sizeof known),
                      "no such way of carrying bytes can stand here");
    else
        *(bl_method *)member_of(r, k) = m;
}

/* ---- lines ---- */

static void take_dialogue_line(reader *r)
{
    char hint[400];
    bl_text name = bl_line_word(&r->lines), value = bl_text_trim(r->lines.rest);
    if (name.length == 0 || name.at[0] == '#') return;
    for (size_t i = 0; i < KEYS; i++) {
        if (!bl_text_same(name, bl_text_of(keys[i].name))) continue;
        keys[i].take(r, &keys[i], value);
        return;
    }
    bl_line_fault(&r->lines, name, bl_line_known(name, key_name, keys, hint, sizeof hint),
                  "unknown key '%.*s'", (int)(name.length & 127), name.at);
}

/* ---- the whole ---- */

/* A fault of no line. */
static void file_fault(reader *r, const char *hint, const char *message)
{
    r->lines.line = (bl_text){NULL, 0};
    r->lines.number = 0;
    bl_line_fault(&r->lines, r->lines.line, hint, "%s", message);
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

static void need(reader *r, const char *name, const char *text, const char *part)
{
    char message[80];
    if (contains(text, part)) return;
    bl_format(message, sizeof message, "'%s' must contain %s", name, part);
    file_fault(r, NULL, message);
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
        file_fault(r, bl_method_list(bl_method_receives, known, sizeof known),
                   "'dump' needs a 'dumper'");
    if (d->word == 12 && (d->write_block % 2 != 0 || d->read_block % 2 != 0))
        file_fault(r, "two bytes a word", "'block' must be even");
}

/* Defaults first; every fault of the file is told before it is refused. */
bl_status bl_dialogue_read(bl_text text, const char *name, const bl_sink *sink, bl_dialogue *d)
{
    reader r = {.d = d, .lines = {.name = name, .sink = sink, .text = text}};
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
    while (bl_line_next(&r.lines))
        take_dialogue_line(&r);
    if (d->prompt[0] == '\0')
        file_fault(&r, NULL, "without a 'prompt' nobody knows when the device is ready");
    check_patterns(&r);
    return r.lines.faults > 0 ? BL_E_SYNTAX : BL_OK;
}

/* tape_said.c - takes that are read, and what is said of time and of programs. */
#include <string.h>

#include "tape_commands.h"

void tape_print(const char *message, ...)
{
    va_list list;
    va_start(list, message);
    char *line = g_strdup_vprintf(message, list);
    va_end(list);
    if (given.out != NULL && strcmp(given.out, "-") == 0)
        say("%s", line);
    else
        cli_print("%s", line);
    g_free(line);
}

const char *tape_time(uint64_t microseconds)
{
    static char texts[8][24];
    static unsigned next;
    char *text = texts[next++ % 8];
    uint64_t tenths = (microseconds + 50000) / 100000;
    g_snprintf(text, sizeof texts[0], "%u:%02u.%u", (unsigned)(tenths / 600),
               (unsigned)(tenths / 10 % 60), (unsigned)(tenths % 10));
    return text;
}

int tape_keyings(const bench *b, int baud, bl_keying room[TAKE_KEYINGS], take_keyings *keyings)
{
    size_t count = 0;
    if (baud != 0) {
        const bl_keying *standard = baud > 0 ? bl_keying_standard((uint32_t)baud) : NULL;
        if (standard == NULL)
            return cli_usage(
                "--baud %d: 300, 600, 1200 and 2400 are known; others are described in the "
                "bench file, under tape",
                baud);
        room[count++] = *standard;
    } else {
        if (b != NULL && b->tape.given) room[count++] = b->tape.keying;
        for (size_t i = 0; bl_keying_at(i) != NULL; i++)
            if (count == 0 || memcmp(&room[0], bl_keying_at(i), sizeof room[0]) != 0)
                room[count++] = *bl_keying_at(i);
    }
    *keyings = (take_keyings){room, count};
    return EXIT_GOOD;
}

static void free_take(void *t)
{
    take_close(t);
}

GPtrArray *tape_takes_new(void)
{
    return g_ptr_array_new_with_free_func(free_take);
}

static void show_listening(uint64_t done, uint64_t all)
{
    progress("listening to", (size_t)(done / 1000), (size_t)(all / 1000), "thousand samples", 0);
}

int tape_takes(char **paths, int count, take_keyings keyings, GPtrArray *takes)
{
    int pipes = 0;
    for (int i = 0; i < count; i++)
        if (strcmp(paths[i], "-") == 0 && ++pipes > 1)
            return cli_usage("standard input can be one take, and not several");
    for (int i = 0; i < count; i++) {
        take *t = NULL;
        bl_status status = take_read(paths[i], keyings, show_listening, &cli_sink, &t);
        progress_end();
        if (status != BL_OK) return EXIT_FAILED;
        g_ptr_array_add(takes, t);
    }
    return EXIT_GOOD;
}

/* Baud rates that were heard, "300, 1200". */
static void bauds_of(const take *t, char *text, size_t capacity)
{
    bool heard[TAKE_KEYINGS] = {false};
    text[0] = '\0';
    for (guint i = 0; i < t->bytes->len; i++)
        heard[g_array_index(t->bytes, bl_tape_byte, i).keying] = true;
    for (size_t i = 0; i < t->keying_count; i++) {
        size_t used = strlen(text);
        if (heard[i])
            g_snprintf(text + used, capacity - used, "%s%u", used != 0 ? ", " : "",
                       (unsigned)bl_keying_baud(&t->keyings[i]));
    }
}

void tape_say_take(const take *t)
{
    unsigned slow, fast;
    char bauds[64];
    bauds_of(t, bauds, sizeof bauds);
    GString *line = g_string_new(NULL);
    g_string_append_printf(line, "%s: %s at %u Hz", t->path, tape_time(t->length),
                           (unsigned)t->rate);
    if (t->channels > 1)
        g_string_append_printf(line, ", channel %u of %u", t->channel + 1, t->channels);
    if (t->bytes->len == 0)
        g_string_append(line, ", no bytes are heard");
    else
        g_string_append_printf(line, ", %u bytes at %s baud", t->bytes->len, bauds);
    bool known = take_speeds(t, &slow, &fast);
    if (known && slow == fast)
        g_string_append_printf(line, ", speed %u.%u %%", slow / 10, slow % 10);
    else if (known)
        g_string_append_printf(line, ", speed %u.%u %% to %u.%u %%", slow / 10, slow % 10,
                               fast / 10, fast % 10);
    say("%s", line->str);
    g_string_free(line, TRUE);
}

const char *tape_what(const bench *b, const tape_program *p)
{
    static char text[64];
    size_t pieces = bl_image_pieces(p->image);
    if (p->head_known && p->head.content == BL_TAPE_TEXT) return "text";
    if (p->head_known && p->head.content == BL_TAPE_DATA) return "data";
    if (pieces == 0) return "program";
    bl_piece first = bl_image_piece(p->image, 0), last = bl_image_piece(p->image, pieces - 1);
    g_snprintf(text, sizeof text, "%s..%s", cli_address(b, first.first),
               cli_address(b, (uint32_t)(last.first + last.count - 1)));
    return text;
}

char *tape_state(const tape_program *p)
{
    GString *s = g_string_new(NULL);
    g_string_append_printf(s, "%u of %u block%s good", p->good, p->data, p->data == 1 ? "" : "s");
    if (p->mended != 0) g_string_append_printf(s, ", %u mended", p->mended);
    if (p->bad != 0) g_string_append_printf(s, ", %u bad", p->bad);
    if (p->missing != 0) g_string_append_printf(s, ", %u missing", p->missing);
    if (p->lost != 0)
        g_string_append_printf(s, ", %u cannot be unpacked without those before them", p->lost);
    const char *outcome = p->outcome == TAPE_PROVEN
                              ? (p->head.no_crc ? ", as many as there should be" : ", CRC-32 right")
                          : p->outcome == TAPE_WRONG ? ", CRC-32 of the whole is wrong"
                          : p->outcome == TAPE_UNPROVEN
                              ? ", no head: CRC-32 and last block not known"
                          : !p->head_known ? ", no head"
                                           : "";
    g_string_append(s, outcome);
    return g_string_free(s, FALSE);
}

void tape_say_blocks(const tape_program *p)
{
    for (guint i = 1; i <= p->data; i++) {
        const tape_part *part = i < p->parts->len ? g_ptr_array_index(p->parts, i) : NULL;
        if (part == NULL) {
            tape_print("    block %u: not heard", i);
            continue;
        }
        const bl_tape_block *b = &part->block;
        if (b->state == BL_BLOCK_MENDED)
            tape_print("    block %u at %s: mended, %u bits turned", i, tape_time(b->at),
                       b->mended);
        if (b->state == BL_BLOCK_GOOD && part->merged)
            tape_print("    block %u: good only when %u copies are added up", i, part->heard);
        if (b->state == BL_BLOCK_BAD && b->worst < BL_BLOCK_BEFORE)
            tape_print("    block %u at %s: bad, doubtful before its data", i, tape_time(b->at));
        else if (b->state == BL_BLOCK_BAD)
            tape_print("    block %u at %s: bad, most doubtful is byte %u of %u at %s", i,
                       tape_time(b->at), b->worst - BL_BLOCK_BEFORE + 1u, b->label.count,
                       tape_time(tape_block_doubt(b)));
    }
}

json_t *tape_program_json(const bench *b, const tape_program *p)
{
    static const char *const outcomes[] = {"proven", "unproven", "incomplete", "wrong"};
    json_t *blocks = json_array();
    for (guint i = 1; i <= p->data; i++) {
        const tape_part *part = i < p->parts->len ? g_ptr_array_index(p->parts, i) : NULL;
        static const char *const states[] = {"good", "mended", "bad"};
        if (part == NULL) {
            json_array_append_new(blocks, json_pack("{si ss}", "block", i, "state", "missing"));
            continue;
        }
        json_array_append_new(
            blocks,
            json_pack("{si ss si si sf si}", "block", i, "state", states[part->block.state],
                      "address", part->block.label.address, "bytes", part->block.label.count,
                      "seconds", (double)part->block.at / 1e6, "certainty", part->block.certainty));
    }
    json_t *all =
        json_pack("{si ss ss sf si sb so}", "number", p->number, "name", tape_program_name(p),
                  "what", tape_what(b, p), "seconds", (double)p->at / 1e6, "take", p->take + 1,
                  "good", p->outcome == TAPE_PROVEN, "blocks", blocks);
    json_object_set_new(all, "state", json_string(outcomes[p->outcome]));
    uint32_t counter;
    if (p->entry_known) json_object_set_new(all, "entry", json_integer(p->entry));
    if (bench_counter(b, p->at, &counter))
        json_object_set_new(all, "counter", json_integer(counter));
    return all;
}

json_t *tape_take_json(const take *t)
{
    char bauds[64];
    bauds_of(t, bauds, sizeof bauds);
    return json_pack("{ss sf si si si ss si}", "file", t->path, "seconds", (double)t->length / 1e6,
                     "rate", t->rate, "channel", t->channel + 1, "bytes", t->bytes->len, "baud",
                     bauds, "doubtful", take_doubtful(t));
}

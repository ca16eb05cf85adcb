/* tape_read.c - bootlace tape read. */
#include <string.h>

#include "figure/figure_tape.h"
#include "files/replace.h"
#include "tape/tape_records.h"
#include "tape_commands.h"
#include "where.h"

static struct {
    char *framing, *at, *against, *name, *picture;
    int baud, number;
} options = {.number = -1};

static const GOptionEntry entries[] = {
    {"as", 0, 0, G_OPTION_ARG_STRING, &options.framing,
     "what it is on the tape: bare, records or blocks (default: found out)", "bare|records|blocks"},
    {"baud", 0, 0, G_OPTION_ARG_INT, &options.baud, "its rate (default: found out)", "N"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where bare bytes belong", "ADDRESS"},
    {"against", 0, 0, G_OPTION_ARG_FILENAME, &options.against,
     "compare with this image, or file; -o may be left out then", "IMAGE"},
    {"picture", 0, 0, G_OPTION_ARG_FILENAME, &options.picture,
     "draw how good the takes are, and the signal at the first problem: PNG, SVG or PDF", "FILE"},
    {"name", 0, 0, G_OPTION_ARG_STRING, &options.name, "of several programs the one of this name",
     "NAME"},
    {"number", 0, 0, G_OPTION_ARG_INT, &options.number,
     "of several programs the one of this number", "N"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* What was read, however it was framed. */
typedef struct reading {
    bench *b;
    GPtrArray *takes;
    GPtrArray *programs;
    bl_image *image;   /* of a program (which owns it), records, or bare bytes with --at; or NULL */
    bl_image *owned;   /* the same, if it is nobody else's */
    GByteArray *bytes; /* of data, texts and bare bytes; or NULL */
    bool whole;        /* nothing is doubtful or missing */
    json_t *json;
} reading;

static void reading_end(reading *r)
{
    g_ptr_array_unref(r->takes);
    if (r->programs != NULL) g_ptr_array_unref(r->programs);
    if (r->bytes != NULL) g_byte_array_unref(r->bytes);
    bl_image_close(r->owned);
    bench_close(r->b);
}

static int check_reading(void)
{
    static const char *const names[] = {"bare", "records", "blocks"};
    bool known = options.framing == NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++)
        known = known || strcmp(options.framing, names[i]) == 0;
    if (!known) return cli_usage("--as %s: bare, records or blocks", options.framing);
    if (given.out == NULL && options.against == NULL && options.picture == NULL)
        return cli_usage(
            "nowhere to write to: -o OUT, --against IMAGE to compare only, or --picture");
    if (options.picture != NULL && figure_type_of(options.picture) == FIGURE_NONE)
        return cli_usage("--picture %s: a picture ends in .png, .svg or .pdf", options.picture);
    if (given.format != NULL && cli_output_type() == BL_FILE_UNKNOWN)
        return cli_usage("-f %s: bin, hex or srec", given.format);
    if (options.number < -1 || options.number > 255)
        return cli_usage("--number %d: programs have numbers of 0 to 255", options.number);
    return EXIT_GOOD;
}

/* ---- blocks ---- */

static bool is_chosen(const tape_program *p)
{
    if (options.number >= 0 && p->number != options.number) return false;
    return options.name == NULL || strcmp(options.name, tape_program_name(p)) == 0;
}

static const tape_program *choose_program(const reading *r, int *code)
{
    const tape_program *found = NULL;
    guint count = 0;
    for (guint i = 0; i < r->programs->len; i++) {
        const tape_program *p = g_ptr_array_index(r->programs, i);
        if (!is_chosen(p)) continue;
        found = p;
        count++;
    }
    *code = EXIT_GOOD;
    if (count == 1) return found;
    *code = count == 0 ? fail("there is no such program on the tape: bootlace tape list shows them")
                       : fail("%u programs are on the tape: --number or --name says which", count);
    return NULL;
}

static int read_blocks(reading *r)
{
    int code;
    const tape_program *p = choose_program(r, &code);
    if (p == NULL) return code;
    char *state = tape_state(p);
    r->whole = p->outcome == TAPE_PROVEN;
    if (given.json) {
        r->json = tape_program_json(r->b, p);
    } else {
        tape_print("%s%u %s: %s, %s", p->outcome == TAPE_PROVEN ? "" : "not whole: ", p->number,
                   tape_program_name(p), tape_what(r->b, p), state);
        tape_say_blocks(p);
    }
    g_free(state);
    bool file = p->head_known && p->head.content != BL_TAPE_PROGRAM;
    if (file ? p->bytes->len == 0 : bl_image_size(p->image) == 0)
        return fail("nothing of it is good");
    if (file)
        r->bytes = g_byte_array_ref(p->bytes);
    else
        r->image = p->image;
    return EXIT_GOOD;
}

/* ---- records and bare bytes ---- */

static int read_records(reading *r, const tape_records *found)
{
    uint32_t where = 0;
    guint open = 0;
    bl_status status = tape_records_image(found, &r->owned, &where, &open);
    r->image = r->owned;
    if (status == BL_E_OVERLAP)
        return fail("records are at odds about the byte at %s", cli_address(r->b, where));
    if (status != BL_OK) return fail("records: %s", bl_status_text(status));
    r->whole = open == 0 && found->ended;
    if (given.json) {
        r->json = json_pack("{ss si si sb}", "what", "records", "records", found->count, "doubtful",
                            open, "ended", found->ended);
        return EXIT_GOOD;
    }
    tape_print("%u good records of %s, %lu bytes%s", found->count, bl_filetype_text(found->type),
               (unsigned long)bl_image_size(r->image),
               found->ended ? "" : "; the end record is missing");
    for (guint i = 0; i < found->faults->len && open > 0; i++) {
        const tape_record_fault *f = &g_array_index(found->faults, tape_record_fault, i);
        tape_print("    at %s: no good record: %s", tape_time(f->at), f->line);
    }
    return EXIT_GOOD;
}

/* Bytes in doubt, a line for each run of them, up to ten. */
static guint say_doubtful(const GArray *row)
{
    guint doubtful = 0, told = 0;
    for (guint i = 0, next; i < row->len; i = next) {
        for (next = i; next < row->len && tape_sum_doubtful(&g_array_index(row, tape_sum, next));)
            next++;
        if (next == i) {
            next++;
            continue;
        }
        doubtful += next - i;
        if (given.json || ++told > 10) continue;
        tape_print("    at %s: byte %u%s doubtful", tape_time(g_array_index(row, tape_sum, i).at),
                   i, next - i > 1 ? " and those behind it are" : " is");
    }
    if (told > 10 && !given.json) tape_print("    and %u places more", told - 10);
    return doubtful;
}

/* A pause between bytes. Where the signal was gone, too, bytes were lost, or may have been: *lost
 * counts these. */
static guint say_pauses(const reading *r, const GArray *row, guint *lost)
{
    guint count = 0;
    *lost = 0;
    for (guint i = 2; i < row->len; i++) {
        const tape_sum *a = &g_array_index(row, tape_sum, i - 2);
        const tape_sum *b = &g_array_index(row, tape_sum, i - 1);
        const tape_sum *c = &g_array_index(row, tape_sum, i);
        if (a->take != b->take || b->take != c->take || c->at < b->at) continue;
        if (c->at - b->at < (b->at - a->at) * 3 / 2 || b->at <= a->at) continue;
        uint64_t each = b->at - a->at, fit = (c->at - b->at + each / 2) / each - 1;
        bool gap = !take_steady(g_ptr_array_index(r->takes, b->take), b->at + each, c->at);
        *lost += gap;
        if (++count > 10 || given.json) continue;
        if (gap)
            tape_print("    at %s: a gap of %.3f seconds before byte %u: %lu byte%s would fit",
                       tape_time(b->at + each), (double)(c->at - b->at - each) / 1e6, i,
                       (unsigned long)fit, fit == 1 ? "" : "s");
        else
            tape_print("    at %s: a pause of %.3f seconds before byte %u", tape_time(b->at),
                       (double)(c->at - b->at) / 1e6, i);
    }
    return count;
}

static int read_bare(reading *r, const GArray *row)
{
    uint32_t first = 0;
    if (row->len == 0) return fail("no bytes are heard");
    if (!given.json) tape_print("%u bare bytes", row->len);
    guint doubtful = say_doubtful(row), gaps, pauses = say_pauses(r, row, &gaps);
    r->whole = doubtful == 0 && gaps == 0;
    r->bytes = g_byte_array_new();
    for (guint i = 0; i < row->len; i++) {
        uint8_t value = tape_sum_value(&g_array_index(row, tape_sum, i));
        g_byte_array_append(r->bytes, &value, 1);
    }
    r->json = json_pack("{ss si si si si}", "what", "bare", "bytes", row->len, "doubtful", doubtful,
                        "pauses", pauses, "gaps", gaps);
    if (options.at == NULL) return EXIT_GOOD;
    places p = {.b = r->b, .count = r->b != NULL ? PLACES_UNITS : PLACES_FILE};
    int code = where_address(&p, "--at", options.at, &first);
    if (code != EXIT_GOOD) return code;
    if (r->b != NULL) first = bench_bytes(r->b, (bl_range){first, 1}).first;
    if (bl_image_open(&host_memory, &r->owned) != BL_OK ||
        bl_image_put(r->owned, first, r->bytes->data, r->bytes->len, (bl_origin){0, 0}) != BL_OK)
        return fail("--at %s: %u bytes do not fit there", options.at, r->bytes->len);
    r->image = r->owned;
    return EXIT_GOOD;
}

/* What it is, unless --as says so: blocks of ours, or else records, or else bytes. */
static int read_framed(reading *r)
{
    const char *as = options.framing;
    guint used;
    r->programs = tape_programs_find((take *const *)r->takes->pdata, r->takes->len);
    if (as != NULL ? strcmp(as, "blocks") == 0 : r->programs->len > 0) {
        if (r->programs->len == 0)
            return fail("no Bootlace blocks found; --baud says which rate it has");
        return read_blocks(r);
    }
    GArray *row = tape_bytes_merge((take *const *)r->takes->pdata, r->takes->len, &used);
    tape_records found;
    tape_records_find(row, &found);
    for (guint i = 0; r->takes->len > 1 && i < r->takes->len; i++) {
        guint one;
        GArray *single = tape_bytes_merge((take *const *)&r->takes->pdata[i], 1, &one);
        tape_records_more(single, &found);
        g_array_unref(single);
    }
    if (used < r->takes->len)
        say("%u of %u takes have nothing in common with the first, and are left out",
            r->takes->len - used, r->takes->len);
    int code;
    if (as != NULL ? strcmp(as, "records") == 0 : found.count > 0)
        code = found.count > 0 ? read_records(r, &found) : fail("no good record is on it");
    else
        code = read_bare(r, row);
    tape_records_clear(&found);
    g_array_unref(row);
    return code;
}

/* ---- what comes of it ---- */

static int save_bytes(const reading *r)
{
    if (replace_one(given.out, r->bytes->data, r->bytes->len, &cli_sink) != BL_OK)
        return EXIT_FAILED;
    say("%s: %u bytes%s", given.out, r->bytes->len, r->whole ? "" : ", not whole");
    return EXIT_GOOD;
}

/* Data, texts and bare bytes go as they are; what has addresses by the ending, or -f. */
static int save(const reading *r)
{
    const char *const none[] = {NULL};
    if (given.out == NULL) return EXIT_GOOD;
    bl_filetype type =
        strcmp(given.out, "-") == 0 && given.format == NULL ? BL_FILE_BIN : cli_output_type();
    int code = cli_check_outputs(&(cli_output){"-o", given.out}, 1, none);
    if (code != EXIT_GOOD) return code;
    if (r->bytes != NULL && (r->image == NULL || type == BL_FILE_BIN)) {
        if (bl_filetype_is_records(type) && !r->whole)
            return fail(
                "%s: not written: nothing on the take says where its bytes belong, and some are "
                "doubtful or missing\n  play it again, or save what there is with -f bin; "
                "--baud where you know its rate",
                given.out);
        if (bl_filetype_is_records(type))
            return cli_usage("%s: these bytes have no addresses: --at says where they begin",
                             given.out);
        return save_bytes(r);
    }
    if (type == BL_FILE_UNKNOWN)
        return cli_usage("-o %s: unknown format: .bin, .hex or .srec, or -f", given.out);
    code = cli_save_image(given.out, type, r->image, "tape");
    if (code == EXIT_GOOD)
        say("%s: %lu bytes as %s%s", given.out, (unsigned long)bl_image_size(r->image),
            bl_filetype_text(type), r->whole ? "" : ", not whole");
    return code;
}

/* How many bytes of two images differ, or are in one of them only, and where the first of them is.
 */
typedef struct difference_count {
    uint64_t bytes;
    uint32_t first;
} difference_count;

static void count_difference(void *context, bl_image_difference kind, bl_range range)
{
    difference_count *d = context;
    (void)kind;
    if (d->bytes == 0) d->first = range.first;
    d->bytes += range.count;
}

static int compare_bytes(const reading *r)
{
    char *text;
    size_t length, i = 0;
    if (host_read_file(options.against, &text, &length, &cli_sink) != BL_OK) return EXIT_FAILED;
    while (i < length && i < r->bytes->len && (uint8_t)text[i] == r->bytes->data[i])
        i++;
    g_free(text);
    if (i == length && i == r->bytes->len) {
        if (!given.json) tape_print("%s the same as %s", cli_verified(), options.against);
        return EXIT_GOOD;
    }
    return fail("byte %lu differs from %s (%lu bytes; %u were read)", (unsigned long)i,
                options.against, (unsigned long)length, r->bytes->len);
}

static uint32_t last_address(const bl_image *image)
{
    bl_piece p = bl_image_piece(image, bl_image_pieces(image) - 1);
    return (uint32_t)(p.first + p.count - 1);
}

/* The commonest mistake at a machine's own routine: the last address where the one behind it was
 * meant, or the other way round. */
static void say_end(const bl_image *read, const bl_image *meant, uint64_t count)
{
    uint32_t is = last_address(read), should = last_address(meant);
    if (count == 1 && is + 1 == should)
        say("only the last byte is missing: was the end address one too small when it was saved? "
            "Routines want the last address, or the one behind it");
    if (count == 1 && is == should + 1)
        say("one byte too many is at the end: was the end address one too large when it was saved? "
            "Routines want the last address, or the one behind it");
}

static int compare(const reading *r)
{
    bl_image *meant = NULL;
    difference_count d = {0};
    if (options.against == NULL) return EXIT_GOOD;
    if (r->image == NULL) return compare_bytes(r);
    int code = cli_read_image(r->b, options.against, options.at, &meant);
    if (code == EXIT_GOOD) {
        if (!bl_image_compare(r->image, meant, &d, count_difference)) {
            code = fail("%lu byte%s of %s differ or are missing; the first is at %s",
                        (unsigned long)d.bytes, d.bytes == 1 ? "" : "s", options.against,
                        cli_address(r->b, d.first));
            if (bl_image_size(meant) > 0) say_end(r->image, meant, d.bytes);
        } else if (!given.json) {
            tape_print("%s the same as %s", cli_verified(), options.against);
        }
    }
    bl_image_close(meant);
    return code;
}

/* A picture is drawn of what could not be read, too: then it is wanted most. */
static int draw_takes(const reading *r, int code)
{
    if (options.picture == NULL) return code;
    const char *const none[] = {NULL};
    int checked = cli_check_outputs(&(cli_output){"--picture", options.picture}, 1, none);
    if (checked != EXIT_GOOD) return checked;
    figure_takes f = {(take *const *)r->takes->pdata, r->takes->len, r->programs};
    bl_status status = figure_tape(&f, options.picture, &cli_sink);
    if (status == BL_OK) say("%s: drawn", options.picture);
    return status == BL_OK ? code : EXIT_FAILED;
}

static int run_read(int argc, char **argv)
{
    bl_keying room[TAKE_KEYINGS];
    take_keyings keyings;
    reading r = {.takes = tape_takes_new()};
    int code =
        argc < 2 ? cli_usage("no take given: bootlace tape read TAKE... -o OUT") : check_reading();
    if (code == EXIT_GOOD) code = cli_bench(false, &r.b);
    if (code == EXIT_GOOD) code = tape_keyings(r.b, options.baud, room, &keyings);
    if (code == EXIT_GOOD) code = tape_takes(argv + 1, argc - 1, keyings, r.takes);
    for (guint i = 0; code == EXIT_GOOD && i < r.takes->len; i++)
        tape_say_take(g_ptr_array_index(r.takes, i));
    if (code == EXIT_GOOD) code = read_framed(&r);
    if (r.programs != NULL) code = draw_takes(&r, code);
    if (code == EXIT_GOOD) code = save(&r);
    if (code == EXIT_GOOD) code = compare(&r);
    if (code == EXIT_GOOD && !r.whole) code = EXIT_FAILED;
    if (given.json && r.json != NULL) {
        json_object_set_new(r.json, "whole", json_boolean(r.whole));
        answer(r.json);
    } else {
        json_decref(r.json);
    }
    reading_end(&r);
    return code;
}

const subcommand tape_read = {
    .name = "read",
    .words =
        {"tape read TAKE... -o OUT",
         "Reads recordings of a tape: finds the signal by itself, puts several takes together, "
         "says what is doubtful or missing and saves what is good.",
         "  bootlace tape read take.wav -o lamp.hex\n"
         "  bootlace tape read take1.wav take2.flac -o lamp.hex --against out/lamp.hex\n"
         "  bootlace tape read old.wav --as bare -o old.bin"},
    .tables =
        (const GOptionEntry *const[]){output_options, entries, bench_options, json_options, NULL},
    .run = run_read,
    .brief = "what is on a recording, and how surely",
};

/* tape_write.c - bootlace tape write. */
#include <string.h>

#include "tape/tape_plan.h"
#include "tape/tape_stage.h"
#include "tape_commands.h"
#include "upload/payload.h"
#include "where.h"

static struct {
    char *framing, *wave, *leader, *name, *at;
    int baud, rate, bits, number, times;
    gboolean compress;
} options = {.number = -1};

static const GOptionEntry entries[] = {
    {"output", 'o', 0, G_OPTION_ARG_FILENAME, &given.out,
     "the recording: WAV or FLAC by the ending; - is a WAV on standard output", "TAPE"},
    {"as", 0, 0, G_OPTION_ARG_STRING, &options.framing,
     "what it is on the tape: blocks (default), bare bytes, records (hexadecimal text), or a "
     "loader for the machine and then blocks",
     "bare|records|blocks|staged"},
    {"format", 'f', 0, G_OPTION_ARG_STRING, &given.format, "of records: hex (default) or srec",
     "FORMAT"},
    {"baud", 0, 0, G_OPTION_ARG_INT, &options.baud,
     "300, 600, 1200 or 2400 (default the bench file's, or 300)", "N"},
    {"rate", 0, 0, G_OPTION_ARG_INT, &options.rate,
     "samples a second, 8000 to 96000 (default 44100)", "HZ"},
    {"bits", 0, 0, G_OPTION_ARG_INT, &options.bits, "of a sample (default 16)", "8|16|24"},
    {"wave", 0, 0, G_OPTION_ARG_STRING, &options.wave, "shape of it (default sine)", "sine|square"},
    {"leader", 0, 0, G_OPTION_ARG_STRING, &options.leader,
     "tone before each program (default 5 seconds)", "SECONDS"},
    {"name", 0, 0, G_OPTION_ARG_STRING, &options.name,
     "of the program, up to 16 characters (default that of the file)", "NAME"},
    {"number", 0, 0, G_OPTION_ARG_INT, &options.number,
     "of the first program, 0 to 255 (default 1)", "N"},
    {"compress", 0, 0, G_OPTION_ARG_NONE, &options.compress,
     "packed blocks: they are played faster, and unpacked as they are loaded", NULL},
    {"times", 0, 0, G_OPTION_ARG_INT, &options.times, "how often all is recorded (default 1)", "N"},
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

/* One operand. */
typedef struct source {
    payload load;
    char *text; /* of a file that is no program */
    size_t length;
    char *name;
    tape_item item;
    uint64_t at; /* microseconds in the recording */
    guint blocks;
} source;

typedef struct job {
    bench *b;
    tape_framing framing;
    bl_keying keying;
    bl_wave wave;
    uint32_t leader; /* milliseconds */
    source *sources;
    int count;
    tape_plan plan;
    tape_stage stage;
    size_t stage_bytes; /* of the loader, as they are on the tape */
} job;

static void job_end(job *j)
{
    for (int i = 0; i < j->count; i++) {
        payload_end(&j->sources[i].load);
        g_free(j->sources[i].text);
        g_free(j->sources[i].name);
    }
    g_free(j->sources);
    tape_plan_end(&j->plan);
    tape_stage_end(&j->stage);
    bench_close(j->b);
}

/* Has the tape blocks of ours? */
static bool in_blocks(const job *j)
{
    return j->framing == TAPE_BLOCKS || j->framing == TAPE_STAGED;
}

static int option_framing(job *j)
{
    static const char *const names[] = {"bare", "records", "blocks", "staged"};
    j->framing = TAPE_BLOCKS;
    if (options.framing == NULL) return EXIT_GOOD;
    for (unsigned i = 0; i < G_N_ELEMENTS(names); i++)
        if (strcmp(options.framing, names[i]) == 0) {
            j->framing = (tape_framing)i;
            return EXIT_GOOD;
        }
    return cli_usage("--as %s: bare, records, blocks or staged", options.framing);
}

static int option_wave(job *j)
{
    j->wave = BL_WAVE_SINE;
    if (options.wave == NULL || strcmp(options.wave, "sine") == 0) return EXIT_GOOD;
    j->wave = BL_WAVE_SQUARE;
    return strcmp(options.wave, "square") == 0
               ? EXIT_GOOD
               : cli_usage("--wave %s: sine or square", options.wave);
}

static int option_leader(job *j)
{
    char *end;
    j->leader = j->b != NULL ? j->b->tape.leader_ms : BENCH_TAPE_LEADER;
    if (options.leader == NULL) return EXIT_GOOD;
    double seconds = g_ascii_strtod(options.leader, &end);
    if (*end != '\0' || end == options.leader || !(seconds >= 0.1 && seconds <= 600))
        return cli_usage("--leader %s: 0.1 to 600 seconds", options.leader);
    j->leader = (uint32_t)(seconds * 1000 + 0.5);
    return EXIT_GOOD;
}

/* As --baud says, or the bench file; or else 300 baud. */
static int option_keying(job *j)
{
    bl_keying room[TAKE_KEYINGS];
    take_keyings keyings;
    int code = tape_keyings(j->b, options.baud, room, &keyings);
    if (code == EXIT_GOOD) j->keying = keyings.at[0];
    return code;
}

static int check_writing(job *j, int operands)
{
    if (operands < 1) return cli_usage("nothing to write: bootlace tape write FILE... -o TAPE");
    if (given.out == NULL) return cli_usage("no recording named: -o TAPE");
    if (sound_type_of(given.out) == SOUND_NONE)
        return cli_usage("-o %s: a recording ends in .wav or .flac", given.out);
    if (options.rate == 0) options.rate = 44100;
    if (options.bits == 0) options.bits = 16;
    if (options.times == 0) options.times = 1;
    if (options.rate < 8000 || options.rate > 96000)
        return cli_usage("--rate %d: 8000 to 96000 samples a second", options.rate);
    if (options.bits != 8 && options.bits != 16 && options.bits != 24)
        return cli_usage("--bits %d: 8, 16 or 24", options.bits);
    if (options.times < 1 || options.times > 20)
        return cli_usage("--times %d: 1 to 20", options.times);
    if (options.number == -1) options.number = 1;
    if (options.number < 0 || options.number + operands > 256)
        return cli_usage("--number %d: programs have numbers of 0 to 255", options.number);
    if (options.name != NULL && operands > 1)
        return cli_usage("--name goes with one program, and here are %d", operands);
    if (options.name != NULL && (options.name[0] == '\0' || strlen(options.name) > BL_TAPE_NAME))
        return cli_usage("--name %s: 1 to %d characters", options.name, BL_TAPE_NAME);
    int code = option_framing(j);
    if (code == EXIT_GOOD && options.compress && !in_blocks(j))
        code = cli_usage("--compress goes with blocks, or staged");
    if (code == EXIT_GOOD) code = option_wave(j);
    return code;
}

/* ---- what is to be written ---- */

static bool reads_as_text(const char *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if ((unsigned char)bytes[i] < 32 && strchr("\t\n\r\f", bytes[i]) == NULL) return false;
    return g_utf8_validate(bytes, (gssize)count, NULL);
}

static bool is_program(const char *path)
{
    return payload_is_image(path, options.at) || g_str_has_suffix(path, ".asm");
}

/* Addresses of a block have 16 bits. */
static int check_width(const job *j, const source *s)
{
    for (size_t i = 0; i < bl_image_pieces(s->load.image); i++) {
        bl_piece p = bl_image_piece(s->load.image, i);
        if (p.first + (uint64_t)p.count > 0x10000)
            return fail("%s: it reaches up to %s; blocks on tape have addresses of 16 bits",
                        s->load.name, cli_address(j->b, (uint32_t)(p.first + p.count - 1)));
    }
    return EXIT_GOOD;
}

static int load_source(job *j, const char *path, source *s)
{
    char *stem = host_stem(path);
    s->name = g_strndup(options.name != NULL ? options.name : stem, BL_TAPE_NAME);
    if (options.name == NULL && strlen(stem) > BL_TAPE_NAME && in_blocks(j))
        say("%s: its name on the tape is '%s', without the rest; --name gives another", path,
            s->name);
    g_free(stem);
    s->item.name = s->name;
    if (is_program(path)) {
        int code = payload_begin(j->b, path, options.at, NULL, &s->load);
        s->item.image = s->load.image;
        if (code == EXIT_GOOD && bl_image_size(s->load.image) == 0)
            code = fail("%s: there are no bytes in it", path);
        return code == EXIT_GOOD ? check_width(j, s) : code;
    }
    if (host_read_file(path, &s->text, &s->length, &cli_sink) != BL_OK) return EXIT_FAILED;
    if (s->length == 0) return fail("%s: there are no bytes in it", path);
    if (s->length > 0xFFFF) return fail("%s: files of up to 65,535 bytes go on a tape", path);
    s->item.bytes = (const uint8_t *)s->text, s->item.count = s->length;
    s->item.content = reads_as_text(s->text, s->length) ? BL_TAPE_TEXT : BL_TAPE_DATA;
    return EXIT_GOOD;
}

/* A source needs the bench file. */
static int load_sources(job *j, guint count, char **paths)
{
    bool source_given = false;
    for (guint i = 0; i < count; i++)
        source_given =
            source_given || (is_program(paths[i]) && !payload_is_image(paths[i], options.at));
    int code = cli_bench(source_given || j->framing == TAPE_STAGED, &j->b);
    if (code == EXIT_GOOD) code = option_leader(j);
    if (code == EXIT_GOOD) code = option_keying(j);
    j->sources = g_new0(source, count);
    for (guint i = 0; i < count && code == EXIT_GOOD; i++) {
        j->count++;
        code = load_source(j, paths[i], &j->sources[i]);
        j->sources[i].item.number = (uint8_t)((guint)options.number + i);
    }
    return code;
}

/* ---- on the tape ---- */

/* Appends an image as records. */
static int plan_records(job *j, const bl_image *image, const char *name)
{
    host_output out;
    bl_writer writer;
    bl_filetype type = BL_FILE_HEX;
    if (given.format != NULL)
        type = bl_filetype_named((bl_text){given.format, strlen(given.format)});
    if (type != BL_FILE_HEX && type != BL_FILE_SREC)
        return cli_usage("-f %s: records are hex or srec", given.format);
    host_output_begin(&out, &writer);
    bl_status status = bl_imagefile_write(type, image, 0xFF, name, &writer);
    bl_text text = host_output_text(&out);
    if (status == BL_OK) tape_plan_bytes(&j->plan, text.at, text.length);
    host_output_drop(&out);
    return status == BL_OK ? EXIT_GOOD : fail("%s: %s", name, bl_status_text(status));
}

/* The loader, as the machine's ROM can load it, and the time to start it. */
static int plan_stage(job *j)
{
    const bench_tape *t = &j->b->tape;
    size_t before = j->plan.bytes->len;
    int code = EXIT_GOOD;
    if (t->records)
        code = plan_records(j, j->stage.image, "loader");
    else if (tape_plan_bare(&j->plan, &(tape_item){.image = j->stage.image}) != BL_OK)
        code = fail("the loader has gaps: it must lie in one piece (area loader)");
    j->stage_bytes = j->plan.bytes->len - before;
    tape_plan_rest(&j->plan, t->start_ms);
    return code;
}

/* Our loader takes bytes with one stop bit; up to 1200 baud it has time enough for each. */
static int plan_staged(job *j, source *s)
{
    uint32_t where;
    uint8_t stops = j->plan.keying.stop_bits;
    if (s->item.image == NULL) return fail("%s: it is no program, and cannot be started", s->name);
    if (!tape_stage_allows(&j->stage, s->item.image, &where))
        return fail("%s: the byte at %s lies where the loader works", s->load.name,
                    cli_address(j->b, where));
    int code = plan_stage(j);
    s->at = j->plan.length / 1000;
    if (bl_keying_baud(&j->keying) <= 1200) j->plan.keying.stop_bits = 1;
    if (code == EXIT_GOOD) s->blocks = tape_plan_blocks(&j->plan, &s->item, options.compress);
    j->plan.keying.stop_bits = stops;
    return code;
}

static int plan_source(job *j, source *s)
{
    tape_plan_rest(&j->plan, j->leader);
    s->at = j->plan.length / 1000;
    if (j->framing == TAPE_STAGED) return plan_staged(j, s);
    if (j->framing == TAPE_RECORDS) {
        if (s->item.image == NULL)
            return fail("%s: records need addresses; it is no program", s->name);
        return plan_records(j, s->item.image, s->name);
    }
    if (j->framing == TAPE_BLOCKS) {
        s->blocks = tape_plan_blocks(&j->plan, &s->item, options.compress);
    } else if (tape_plan_bare(&j->plan, &s->item) != BL_OK)
        return fail("%s: there are gaps in it, and bare bytes have no addresses; cut it (image "
                    "cut), or write blocks or records",
                    s->load.name);
    return EXIT_GOOD;
}

static int plan_all(job *j)
{
    int code = EXIT_GOOD;
    tape_plan_begin(&j->plan, &j->keying);
    if (j->b != NULL) j->plan.gap = j->b->tape.gap_ms;
    if (j->b != NULL && j->b->clock != 0) j->plan.clock = j->b->clock;
    if (j->framing == TAPE_STAGED &&
        tape_stage_begin(j->b, options.compress, &cli_sink, &j->stage) != BL_OK)
        return EXIT_FAILED;
    for (int turn = 0; turn < options.times; turn++)
        for (int i = 0; i < j->count && code == EXIT_GOOD; i++)
            code = plan_source(j, &j->sources[i]);
    tape_plan_rest(&j->plan, TAPE_TAIL);
    return code;
}

static void say_source(const job *j, const source *s)
{
    size_t bytes = s->item.image != NULL ? bl_image_size(s->item.image) : s->item.count;
    GString *line = g_string_new(NULL);
    uint32_t entry;
    uint32_t counter;
    g_string_append_printf(line, "%8s  ", tape_time(s->at));
    if (bench_counter(j->b, s->at, &counter)) g_string_append_printf(line, "counter %u  ", counter);
    if (in_blocks(j))
        g_string_append_printf(line, "%u %s: ", s->item.number, s->name);
    else
        g_string_append_printf(line, "%s: ", s->name);
    if (s->item.image != NULL) {
        bl_piece first = bl_image_piece(s->item.image, 0);
        bl_piece last = bl_image_piece(s->item.image, bl_image_pieces(s->item.image) - 1);
        g_string_append_printf(line, "%s..%s, ", cli_address(j->b, first.first),
                               cli_address(j->b, (uint32_t)(last.first + last.count - 1)));
    }
    g_string_append_printf(line, "%lu bytes", (unsigned long)bytes);
    if (in_blocks(j))
        g_string_append_printf(line, ", %u block%s", s->blocks, s->blocks == 1 ? "" : "s");
    if (s->item.image != NULL && j->framing != TAPE_BARE && bl_image_entry(s->item.image, &entry))
        g_string_append_printf(line, ", begins at %s", cli_address(j->b, entry));
    tape_print("%s", line->str);
    g_string_free(line, TRUE);
}

static const char *stage_entry(const job *j)
{
    uint32_t entry = 0;
    bool has = bl_image_entry(j->stage.image, &entry);
    return has ? cli_address(j->b, entry) : "its begin";
}

static void say_plan(const job *j)
{
    static const char *const names[] = {"bare bytes", "records", "blocks", "a loader and blocks"};
    tape_print("%s: %s at %u baud, %s%s", given.out, tape_time(j->plan.length / 1000),
               (unsigned)bl_keying_baud(&j->keying), names[j->framing],
               options.times > 1 ? ", several times; the last is at" : "");
    tape_print("%8s  leader, %u.%u seconds", tape_time(0), j->leader / 1000, j->leader / 100 % 10);
    if (j->framing == TAPE_STAGED)
        tape_print("%8s  the loader: %lu bytes as %s; then %u.%u seconds to start it at %s",
                   tape_time((uint64_t)j->leader * 1000), (unsigned long)j->stage_bytes,
                   j->b->tape.records ? "records" : "they are", j->b->tape.start_ms / 1000,
                   j->b->tape.start_ms / 100 % 10, stage_entry(j));
    for (int i = 0; i < j->count; i++)
        say_source(j, &j->sources[i]);
    tape_print("%8s  end", tape_time(j->plan.length / 1000));
}

static json_t *written_json(const job *j)
{
    json_t *list = json_array();
    for (int i = 0; i < j->count; i++) {
        const source *s = &j->sources[i];
        size_t bytes = s->item.image != NULL ? bl_image_size(s->item.image) : s->item.count;
        json_array_append_new(list, json_pack("{si ss sI si sf}", "number", s->item.number, "name",
                                              s->name, "bytes", (json_int_t)bytes, "blocks",
                                              s->blocks, "seconds", (double)s->at / 1e6));
    }
    return json_pack("{ss sf si so sb}", "file", given.out, "seconds", (double)j->plan.length / 1e9,
                     "baud", bl_keying_baud(&j->keying), "programs", list, "verified", true);
}

/* ---- the recording ---- */

/* Is what was written what was meant? Every byte is heard, in order. */
static int review(const job *j, sound_writer *w)
{
    sound_file f;
    take *t = NULL;
    take_keyings keyings = {&j->keying, 1};
    if (sound_writer_review(w, &f) != BL_OK) return EXIT_FAILED;
    bl_status status = take_hear(&f, given.out, keyings, NULL, &cli_sink, &t);
    sound_close(&f);
    if (status != BL_OK) return EXIT_FAILED;
    guint i = 0;
    while (i < t->bytes->len && i < j->plan.bytes->len &&
           g_array_index(t->bytes, bl_tape_byte, i).value == j->plan.bytes->data[i])
        i++;
    int code = EXIT_GOOD;
    if (i != t->bytes->len || i != j->plan.bytes->len)
        code = fail("what was written cannot be read back: byte %u of %u is not what it was; "
                    "nothing was kept (try a higher --rate, or more --bits)",
                    i + 1, j->plan.bytes->len);
    take_close(t);
    return code;
}

static int make_recording(job *j)
{
    sound_writer w;
    bl_modulator m;
    if (sound_writer_begin(&w, sound_type_of(given.out), (uint32_t)options.rate,
                           (unsigned)options.bits, &cli_sink) != BL_OK)
        return EXIT_FAILED;
    bl_status status = bl_modulator_begin(&m, &j->keying, (uint32_t)options.rate, j->wave, 700,
                                          (bl_sample_sink){&w, sound_writer_samples});
    if (status == BL_OK) status = tape_plan_play(&j->plan, &m);
    int code = status == BL_OK ? review(j, &w) : EXIT_FAILED;
    if (code == EXIT_GOOD)
        return sound_writer_end(&w, given.out) == BL_OK ? EXIT_GOOD : EXIT_FAILED;
    sound_writer_drop(&w);
    return code;
}

static int run_write(int argc, char **argv)
{
    job j = {0};
    int code = check_writing(&j, argc - 1);
    if (code == EXIT_GOOD) code = load_sources(&j, (guint)argc - 1, argv + 1);
    const char *const none[] = {NULL};
    if (code == EXIT_GOOD && strcmp(given.out, "-") != 0)
        code = cli_check_outputs(&(cli_output){"-o", given.out}, 1, none);
    if (code == EXIT_GOOD) code = plan_all(&j);
    bool talk = code == EXIT_GOOD && !given.json;
    if (talk) say_plan(&j);
    if (code == EXIT_GOOD) code = make_recording(&j);
    if (code == EXIT_GOOD && talk)
        tape_print("%s every byte of the recording was read back", cli_verified());
    if (code == EXIT_GOOD && given.json && strcmp(given.out, "-") != 0) answer(written_json(&j));
    job_end(&j);
    return code;
}

const subcommand tape_write = {
    .name = "write",
    .words = {"tape write IMAGE-or-FILE... -o TAPE",
              "Writes programs, data and texts as a recording for a tape, and reads it back before "
              "it is called good. A source is assembled; other files go as they are.",
              "  bootlace tape write lamp.asm -o lamp.wav\n"
              "  bootlace tape write lamp.asm notes.txt -o evening.flac --baud 1200\n"
              "  bootlace tape write rom.bin --at 0xC000 --as bare -o rom.wav"},
    .tables = (const GOptionEntry *const[]){entries, bench_options, json_options, NULL},
    .run = run_write,
    .brief = "programs, data and texts as a recording",
};

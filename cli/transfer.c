/* transfer.c - bootlace send, check, fetch. */
#include "connect.h"
#include "payload.h"

#include <jansson.h>
#include <string.h>

enum { BLOCK = 128 };

/* How long Eyelet takes to add a byte to a check-sum, at most (docs/eyelet.md). */
static uint32_t sum_time(const bench *b)
{
    bl_text cpu = bl_sheet_name(b->sheet);
    uint64_t cycles = cpu.length >= 2 && memcmp(cpu.at, "65", 2) == 0 ? 300 : 1000;
    return (uint32_t)(cycles * 1000000000u / b->clock);
}

static struct {
    char *at;
    gboolean run, all;
} options;

static const GOptionEntry source_entries[] = {
    {"at", 0, 0, G_OPTION_ARG_STRING, &options.at, "where a raw binary belongs", "ADDRESS"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};
static const GOptionEntry send_entries[] = {
    {"run", 0, 0, G_OPTION_ARG_NONE, &options.run, "start it after the proof", NULL},
    {"all", 0, 0, G_OPTION_ARG_NONE, &options.all, "write every block, not only what differs",
     NULL},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage send_words = {
    "send [SOURCE-or-IMAGE]",
    "Uploads to RAM through Eyelet: only what differs travels, then all of it is verified by "
    "CRC-32.",
    "  bootlace send lamp.asm -p sim --run\n  bootlace send lamp.hex -p /dev/ttyUSB0"};
static const usage check_words = {"check [SOURCE-or-IMAGE]",
                                  "Compares the machine's memory with what was built; a difference "
                                  "is told as symbol and source line.",
                                  "  bootlace check lamp.asm -p sim"};
static const usage fetch_words = {"fetch RANGE -o FILE",
                                  "Saves memory to a file, the exact bytes, read twice.",
                                  "  bootlace fetch $0300..$03FF -o page.hex -p sim"};

static int run_job(const bench *b, payload *l, bl_transfer_options *o, connection *c,
                   bl_transfer *job)
{
    size_t count = bl_image_pieces(l->image);
    bl_piece *pieces = g_new0(bl_piece, count + 1);
    for (size_t i = 0; i < count; i++)
        pieces[i] = bl_image_piece(l->image, i);
    o->pieces = pieces;
    o->piece_count = count;
    o->block = BLOCK;
    o->who = BL_WHO_EYELET;
    o->sum_ns = sum_time(b);
    bl_status status = bl_transfer_begin(job, &host_memory, o);
    if (status == BL_OK) status = connect_run(c, job);
    if (status != BL_OK) explain(c, job, status, NULL, &l->names);
    g_free(pieces);
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

static void show_json(const connection *c, const bl_transfer *job, const payload *l, bool good)
{
    json_t *differences = json_array();
    for (size_t i = 0; i < job->differences && i < BL_DIFFERENCES; i++) {
        char name[300];
        whereis_describe(&l->names, job->difference[i].address, name, sizeof name);
        json_array_append_new(differences,
                              json_pack("{s:I,s:i,s:i,s:s}", "address",
                                        (json_int_t)job->difference[i].address, "expected",
                                        job->difference[i].expected, "found",
                                        job->difference[i].found, "place", name));
    }
    json_t *all = json_pack("{s:b,s:I,s:I,s:I,s:I,s:f,s:i,s:o}", "verified", good, "bytes",
                            (json_int_t)job->bytes_total, "written", (json_int_t)job->bytes_written,
                            "proved", (json_int_t)job->bytes_proved, "different",
                            (json_int_t)job->differences, "seconds", connect_seconds(c), "resends",
                            (int)c->exchange.resends, "differences", differences);
    json_dumpf(all, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(6));
    printf("\n");
    json_decref(all);
}

static void tell_sent(const connection *c, const bl_transfer *job, const payload *l)
{
    if (job->blocks_written == 0)
        printf("%s: all %lu bytes were there already; nothing written\n", l->name,
               (unsigned long)job->bytes_total);
    else
        printf("%s: %lu of %lu bytes written in %zu block%s\n", l->name,
               (unsigned long)job->bytes_written, (unsigned long)job->bytes_total,
               job->blocks_written, job->blocks_written == 1 ? "" : "s");
    printf("%s %s computed the CRC-32 of all %lu bytes in memory, and each block is right "
           "(%.2f s",
           cli_verified(), job->name, (unsigned long)job->bytes_proved, connect_seconds(c));
    if (c->exchange.resends > 0) printf(", %u sent again", c->exchange.resends);
    printf(")\n");
    if (job->options.run) printf("running from %s\n", cli_address(c->b, job->options.entry));
}

static int send_payload(const bench *b, payload *l, bool compare)
{
    bl_transfer_options o = {.goal = compare ? BL_GOAL_COMPARE : BL_GOAL_WRITE,
                             .every_block = options.all,
                             .resume = compare,
                             .run = options.run};
    connection c;
    bl_transfer job = {.block_count = 0};
    if (bl_image_size(l->image) == 0) return fail("%s: there are no bytes in it", l->name);
    if (o.run && !bl_image_entry(l->image, &o.entry))
        return fail("%s: --run needs an entry point; give it with .entry", l->name);
    if (!compare && project_check_ram(b, l->image, &cli_sink) != BL_OK) return EXIT_FAILED;
    int code = connect_board(b, &c);
    if (code != EXIT_GOOD) return code;
    code = run_job(b, l, &o, &c, &job);
    if (given.json)
        show_json(&c, &job, l, code == EXIT_GOOD);
    else if (code == EXIT_GOOD && compare)
        printf("%s: same: %s computed the CRC-32 of all %lu bytes in memory (%.2f s)\n", l->name,
               job.name, (unsigned long)job.bytes_proved, connect_seconds(&c));
    else if (code == EXIT_GOOD)
        tell_sent(&c, &job, l);
    if (job.resumed) say("the program that was running goes on");
    bl_transfer_end(&job);
    int end = connect_end(&c);
    return code != EXIT_GOOD ? code : end;
}

static int send_or_check(int argc, char **argv, bool compare)
{
    bench *b;
    payload l;
    if (argc > 2) return cli_usage("one source or image at a time");
    int code = cli_bench(true, &b);
    if (code != EXIT_GOOD) return code;
    char *name = argc == 2 ? g_strdup(argv[1]) : only_ram_piece(b);
    if (name == NULL) {
        bench_close(b);
        return cli_usage("what? The bench file does not build exactly one piece for RAM; name a "
                         "source or an image");
    }
    code = payload_begin(b, name, options.at, &l);
    if (code == EXIT_GOOD) code = send_payload(b, &l, compare);
    payload_end(&l);
    g_free(name);
    bench_close(b);
    return code;
}

int command_send(int argc, char **argv)
{
    const GOptionEntry *tables[] = {send_entries, source_entries, bench_options,
                                    port_options, json_options,   NULL};
    if (!cli_parse(&argc, &argv, &send_words, tables)) return EXIT_USAGE;
    return send_or_check(argc, argv, false);
}

int command_check(int argc, char **argv)
{
    const GOptionEntry *tables[] = {source_entries, bench_options, port_options, json_options,
                                    NULL};
    if (!cli_parse(&argc, &argv, &check_words, tables)) return EXIT_USAGE;
    return send_or_check(argc, argv, true);
}

/* Reads the range, then has its check-sums compared with what is there: a line that lies twice
 * alike does not pass. */
static int fetch_bytes(const bench *b, bl_range range, uint8_t *bytes, connection *c)
{
    bl_piece piece = {range.first, (size_t)range.count, bytes};
    bl_transfer_options o = {.goal = BL_GOAL_READ,
                             .buffer = bytes,
                             .range = range,
                             .block = BLOCK,
                             .who = BL_WHO_EYELET,
                             .sum_ns = sum_time(b)};
    whereis none = {.count = 0};
    for (int pass = 0; pass < 2; pass++) {
        bl_transfer job;
        bl_status status = bl_transfer_begin(&job, &host_memory, &o);
        if (status == BL_OK) status = connect_run(c, &job);
        if (status == BL_E_DIFFERS)
            fail("memory changed while it was fetched; is a program running?");
        else if (status != BL_OK)
            explain(c, &job, status, NULL, &none);
        bl_transfer_end(&job);
        if (status != BL_OK) return EXIT_FAILED;
        o.goal = BL_GOAL_COMPARE;
        o.resume = true;
        o.pieces = &piece;
        o.piece_count = 1;
    }
    return EXIT_GOOD;
}

static int fetch(const bench *b, bl_range range, bl_filetype type)
{
    connection c;
    int code = connect_board(b, &c);
    if (code != EXIT_GOOD) return code;
    uint8_t *bytes = g_malloc((size_t)range.count);
    code = fetch_bytes(b, range, bytes, &c);
    double seconds = connect_seconds(&c);
    int end = connect_end(&c);
    if (code == EXIT_GOOD) code = end;
    if (code == EXIT_GOOD)
        code = cli_save_bytes(type, range.first, bytes, (size_t)range.count, b->name);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes from %s as %s, CRC-32 compared with the machine's (%.2f s)", given.out,
            (unsigned long)range.count, cli_address(b, range.first), bl_filetype_text(type),
            seconds);
    g_free(bytes);
    return code;
}

int command_fetch(int argc, char **argv)
{
    const GOptionEntry *tables[] = {output_options, bench_options, port_options, NULL};
    bench *b;
    bl_range range;
    if (!cli_parse(&argc, &argv, &fetch_words, tables)) return EXIT_USAGE;
    if (argc != 2) return cli_usage("which range? bootlace fetch FIRST..LAST -o FILE");
    if (bl_range_parse((bl_text){argv[1], strlen(argv[1])}, &range) != BL_OK)
        return cli_usage("%s is not a range; like $0300..$03FF (both included) or $0300+256",
                         argv[1]);
    if (given.out == NULL) return cli_usage("where to? Give -o FILE");
    bl_filetype type = cli_output_type();
    if (type == BL_FILE_UNKNOWN)
        return cli_usage("-o %s: give a format with -f bin, hex or srec", given.out);
    int code = cli_bench(true, &b);
    if (code != EXIT_GOOD) return code;
    if ((uint64_t)range.first + range.count > (uint64_t)1 << bl_sheet_address_bits(b->sheet))
        code = cli_usage("%s goes beyond the machine's addresses", argv[1]);
    else
        code = fetch(b, range, type);
    bench_close(b);
    return code;
}

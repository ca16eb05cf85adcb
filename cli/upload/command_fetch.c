/* command_fetch.c - bootlace fetch. */
#include <string.h>

#include "eyelet.h"
#include "json_answer.h"
#include "upload.h"
#include "where.h"

static char *method;

static const GOptionEntry entries[] = {
    {"method", 0, 0, G_OPTION_ARG_STRING, &method,
     "how bytes come back (default: as the bench file says)", "METHOD"},
    {NULL, 0, 0, G_OPTION_ARG_NONE, NULL, NULL, NULL},
};

static const usage words = {"fetch RANGE -o FILE",
                            "Saves memory to a file, the exact bytes, read twice.",
                            "  bootlace fetch 0x0300..0x03FF -o page.hex -p sim\n"
                            "  bootlace fetch light..character_end -o light.hex -p sim"};

/* Reads the range, then has its checksums compared with what is there: a line that lies twice
 * alike does not pass. Others are read twice. */
static int fetch_bytes(const bench *b, bl_range range, uint8_t *bytes, connection *c, bool *twice,
                       bl_proof *by)
{
    bl_piece piece = {range.first, (size_t)range.count, bytes};
    bl_transfer_options o = {.goal = BL_GOAL_READ,
                             .buffer = bytes,
                             .range = range,
                             .block = TRANSFER_BLOCK,
                             .who = BL_WHO_EYELET,
                             .sum_ns = eyelet_sum_ns(b)};
    whereis none = {.count = 0};
    *twice = connect_is_eyelet(b) || b->link_dialogue != NULL;
    for (int pass = 0; pass < (*twice ? 2 : 1); pass++) {
        bl_transfer job;
        bl_status status = bl_transfer_begin(&job, &host_memory, &o);
        if (status == BL_OK) status = connect_run(c, &job);
        if (status == BL_E_DIFFERS && pass == 1)
            fail("memory changed while it was fetched; is a program running?");
        else if (status != BL_OK)
            explain(c, &job, status, NULL, &none);
        bl_transfer_end(&job);
        *by = job.result.proved_by;
        if (status != BL_OK) return EXIT_FAILED;
        o.goal = BL_GOAL_COMPARE;
        o.resume = true;
        o.pieces = &piece;
        o.piece_count = 1;
    }
    return EXIT_GOOD;
}

/* The file is written when all of the range is here, and its length is the range's. */
int transfer_fetch(connection *c, bl_range range, const char *path, bl_filetype type)
{
    const bench *b = c->b;
    uint8_t *bytes = range.count > SIZE_MAX / 2 ? NULL : g_try_malloc((size_t)range.count);
    if (bytes == NULL)
        return fail("%llu bytes are more than there is memory for",
                    (unsigned long long)range.count);
    bool twice;
    bl_proof by;
    int code = fetch_bytes(b, range, bytes, c, &twice, &by);
    if (code == EXIT_GOOD)
        code = cli_save_bytes(path, type, range.first, bytes, (size_t)range.count, b->name);
    if (code == EXIT_GOOD && given.json)
        answer(json_pack("{s:s,s:I,s:I,s:b,s:s,s:f}", "file", path, "first",
                         (json_int_t)range.first, "bytes", (json_int_t)range.count, "verified",
                         twice, "by", twice ? proof_name(by) : "nothing", "seconds",
                         connect_seconds(c)));
    if (code == EXIT_GOOD)
        say("%s: %lu bytes from %s as %s, %s (%.2f s)", path, (unsigned long)range.count,
            cli_address(b, range.first), bl_filetype_text(type),
            !twice                  ? "not verified: they came once, and nothing more can be asked"
            : by == BL_PROOF_DOUBLE ? "double sums compared with the machine's"
            : by == BL_PROOF_SUMS   ? "CRC-32 compared with the machine's"
                                    : "read twice, and the same both times",
            connect_seconds(c));
    g_free(bytes);
    return code;
}

int transfer_range(const bench *b, const char *text, bool in_console, bl_range *range)
{
    places p = {.b = b, .machine_radix = in_console};
    int code = where_range(&p, NULL, text, range);
    if (code != EXIT_GOOD) return code;
    uint64_t units = (uint64_t)1 << bl_sheet_address_bits(b->sheet);
    if ((uint64_t)range->first + range->count > units * bl_sheet_unit_bytes(b->sheet))
        return cli_usage("%s goes beyond the machine's addresses", text);
    return EXIT_GOOD;
}

/* A range by name is the machine's memory, not the image's. */
int command_fetch(int argc, char **argv)
{
    const GOptionEntry *tables[] = {entries,       output_options, bench_options, port_options,
                                    trace_options, json_options,   NULL};
    bench *b;
    bl_range range;
    connection c;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc != 2) return cli_usage("no range given: bootlace fetch FIRST..LAST -o FILE");
    if (given.out == NULL) return cli_usage("no output file: give -o FILE");
    bl_filetype type = cli_output_type();
    if (type == BL_FILE_UNKNOWN)
        return cli_usage("-o %s: give a format with -f bin, hex or srec", given.out);
    int code = cli_bench(true, &b);
    if (code == EXIT_GOOD) code = transfer_method(b, method);
    if (code == EXIT_GOOD) code = transfer_range(b, argv[1], false, &range);
    if (code == EXIT_GOOD && (code = connect_board(b, &c)) == EXIT_GOOD) {
        code = transfer_fetch(&c, range, given.out, type);
        int end = connect_end(&c);
        if (code == EXIT_GOOD) code = end;
    }
    bench_close(b);
    return code;
}

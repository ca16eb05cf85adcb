/* chip_job.c - bootlace chip blank, write, verify, read: jobs on the programmer. */
#include <string.h>

#include "chip_work.h"
#include "json_answer.h"

enum { REGION = 4096 /* bytes summed at once; a page is looked at when its region differs */ };

int work_job(work *k, bl_transfer_options *o, connection *c, bl_transfer *job, bool tell)
{
    bl_piece piece = {0, k->chip->part->size, k->bytes};
    o->pieces = &piece;
    o->piece_count = o->goal == BL_GOAL_READ ? 0 : 1;
    o->block = k->chip->part->page;
    o->region = MIN(REGION, k->chip->part->size);
    o->part = k->chip->part;
    o->who = BL_WHO_PROGRAMMER;
    o->sum_ns = 5000;
    bl_status status = bl_transfer_begin(job, &host_memory, o);
    if (status == BL_OK) status = connect_run(c, job);
    if (status != BL_OK && (tell || status != BL_E_DIFFERS))
        explain(c, job, status, k->chip, &k->names);
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* What the pattern of the wrong bytes says. After a write that stopped at its first page, that page
 * is looked at: what follows is not written yet. */
static json_t *find_causes(work *k, connection *c, const bl_transfer *failed)
{
    json_t *list = json_array();
    bool one_page = failed->result.stage == BL_STAGE_WRITE;
    uint32_t page = k->chip->part->page, size = one_page ? page : k->chip->part->size;
    uint32_t first = one_page ? failed->result.difference[0].address / page * page : 0;
    uint8_t *found = g_malloc0(k->chip->part->size);
    bl_transfer job;
    bl_transfer_options o = {.goal = BL_GOAL_READ, .buffer = found, .range = {first, size}};
    bl_causes causes = {.count = 0};
    if (work_job(k, &o, c, &job, false) == EXIT_GOOD)
        bl_causes_find(k->bytes + first, found, size, &causes);
    bl_transfer_end(&job);
    g_free(found);
    for (size_t i = 0; i < causes.count; i++) {
        char text[300];
        bl_cause_text(&causes, i, text, sizeof text);
        json_array_append_new(list, json_string(text));
    }
    return list;
}

/* first: nothing else was named before */
static void tell_causes(const json_t *causes, bool first)
{
    for (size_t i = 0; i < json_array_size(causes); i++)
        say("  %s %s",
            i == 0 && first ? "probably:" : "or:", json_string_value(json_array_get(causes, i)));
}

/* What was not proved is no "verified", also when the job came to its end. */
static void answer_job(const connection *c, const bl_transfer *job, const work *k, bool good,
                       json_t *causes, uint32_t unseen)
{
    json_t *all = json_pack(
        "{s:s,s:s,s:b,s:I,s:I,s:I,s:I,s:f}", "chip", k->chip->name, "part", k->chip->part->name,
        "verified", good, "pages", (json_int_t)job->result.blocks, "written",
        (json_int_t)job->result.blocks_written, "proved", (json_int_t)job->result.bytes_proved,
        "different", (json_int_t)job->result.differences, "seconds", connect_seconds(c));
    put_checksums(all, k->bytes, k->chip->part->size);
    if (job->result.differences > 0)
        json_object_set_new(all, "first",
                            json_pack("{s:I,s:i,s:i}", "offset",
                                      (json_int_t)job->result.difference[0].address, "expected",
                                      job->result.difference[0].expected, "found",
                                      job->result.difference[0].found));
    if (causes != NULL) json_object_set(all, "causes", causes);
    json_t *lines = json_array();
    for (unsigned n = 0; n < 32; n++)
        if ((unseen >> n & 1) != 0) json_array_append_new(lines, json_integer(n));
    json_object_set_new(all, "unseen_lines", lines);
    answer(all);
}

static const char *how_proved(const bl_transfer *job)
{
    bool twice = job->options.twice;
    if (job->options.corners && !job->result.no_corners)
        return twice ? " twice at 4.5 V and twice at 5.5 V" : " at 4.5 V and again at 5.5 V";
    if (job->result.no_corners)
        return twice ? " twice, at 5 V only: it cannot make other supplies"
                     : " at 5 V only: it cannot make other supplies";
    return twice ? " twice" : "";
}

static const char *why_right(const work *k)
{
    return k->b->dialogue != NULL ? "every byte is right" : "every CRC-32 is right";
}

/* Says what was written, what was not, and by what it was proved; never one without the other. */
static void tell_written(const work *k, const connection *c, const bl_transfer *job)
{
    const bl_chip *chip = k->chip;
    if (job->result.blocks_written == 0 && job->result.sectors_erased == 0)
        printf("%s (%s): holds exactly this already; nothing written\n", chip->name,
               chip->part->name);
    else
        printf("%s (%s): %zu of %zu %s written\n", chip->name, chip->part->name,
               job->result.blocks_written, job->result.blocks, connect_unit(job));
    if (job->result.sectors_erased > 0)
        printf("  %zu sector%s of %u bytes erased first\n", job->result.sectors_erased,
               job->result.sectors_erased == 1 ? "" : "s", chip->part->sector);
    printf("%s %s read all %lu bytes back%s; %s (%.2f s", cli_verified(), job->result.name,
           (unsigned long)job->result.bytes_proved, how_proved(job), why_right(k),
           connect_seconds(c));
    if (c->exchange.resends > 0) printf(", %u sent again", c->exchange.resends);
    printf(")\n");
    tell_checksums("  of the chip: ", k->bytes, chip->part->size,
                   chip_given.protect ? "; software protection on" : "");
}

static void note_burn(const work *k, const bl_transfer *job, bool good)
{
    uint32_t size = k->chip->part->size;
    logbook_burn burn = {.chip = k->chip->name,
                         .copy = k->copy,
                         .part = k->chip->part->name,
                         .size = size,
                         .crc32 = bl_crc32(0, k->bytes, size),
                         .pages = job->result.blocks_written + job->result.sectors_erased,
                         .verified = good};
    logbook_burned(k->book, k->b, &burn);
}

/* The causes of a failure are looked for while the line is still open; then the result is told
 * once, as text or as JSON. */
static void tell_burn(work *k, connection *c, const bl_transfer *job, bool good, bool compare,
                      uint32_t unseen)
{
    enum { FEW = 8 }; /* single bytes have no pattern, and reading all of a large part takes long */
    bool stopped = job->result.stage == BL_STAGE_WRITE && job->result.differences > 0;
    bool differs = job->result.refusal != BL_ANSWER_NOT_BLANK &&
                   job->result.stage != BL_STAGE_FIT && (stopped || job->result.differences > FEW);
    json_t *causes = differs ? find_causes(k, c, job) : NULL;
    if (!given.json) tell_causes(causes, job->result.refusal != BL_ANSWER_UNCHANGED);
    if (given.json)
        answer_job(c, job, k, good, causes, unseen);
    else if (good && compare)
        printf("%s (%s): same: %s read all %lu bytes%s; %s (%.2f s)\n", k->chip->name,
               k->chip->part->name, job->result.name, (unsigned long)job->result.bytes_proved,
               how_proved(job), why_right(k), connect_seconds(c));
    else if (good)
        tell_written(k, c, job);
    else if (!compare && job->result.stage >= BL_STAGE_ERASE)
        say("%s is not good: do not use it as it is", k->chip->name);
    if (good && !given.json) work_tell_unseen(k, unseen);
    json_decref(causes);
}

/* The logbook is written last, when it is known what is in the chip. */
int work_burn(work *k, bool compare)
{
    connection c;
    bl_transfer job = {.result = {.blocks = 0}};
    if ((chip_given.protect || chip_given.unprotect) && !k->chip->part->locks)
        return cli_usage("a %s has no software protection", k->chip->part->name);
    if ((chip_given.protect || chip_given.unprotect) && k->b->dialogue != NULL)
        return cli_usage("%s cannot be told to switch protection", k->b->dialogue->name);
    int code = connect_programmer(k->b, k->index, k->copy, &c);
    if (code != EXIT_GOOD) return code;
    bl_transfer_options o = {.goal = compare ? BL_GOAL_COMPARE : BL_GOAL_WRITE,
                             .every_block = chip_given.all,
                             .twice = chip_given.twice,
                             .corners = chip_given.corners ||
                                        k->chip->part->algorithm == BL_ALGORITHM_PULSE,
                             .protect = chip_given.protect     ? BL_PROTECT_ON
                                        : chip_given.unprotect ? BL_PROTECT_OFF
                                                               : BL_PROTECT_LEAVE};
    uint32_t unseen = work_unseen(k);
    code = work_job(k, &o, &c, &job, true);
    if (code == EXIT_GOOD && !compare) code = work_probe(k, &c, &unseen);
    if (code == EXIT_GOOD) code = connect_keep(&c);
    if (!compare) note_burn(k, &job, code == EXIT_GOOD);
    tell_burn(k, &c, &job, code == EXIT_GOOD, compare, unseen);
    bl_transfer_end(&job);
    int end = connect_end(&c);
    return code != EXIT_GOOD ? code : end;
}

static int write_or_verify(int argc, char **argv, bool compare)
{
    work k;
    int code = work_begin(&k, argc, argv, true);
    if (code == EXIT_GOOD) code = chip_given.set ? chip_set(&k) : work_burn(&k, compare);
    work_end(&k);
    return code;
}

int chip_write(int argc, char **argv)
{
    if (chip_given.protect && chip_given.unprotect)
        return cli_usage("--protect and --unprotect exclude each other");
    return write_or_verify(argc, argv, false);
}

int chip_verify(int argc, char **argv)
{
    return write_or_verify(argc, argv, true);
}

/* Compared with a chip full of FF: then what is not is told by its offset. */
int chip_blank(int argc, char **argv)
{
    work k;
    connection c;
    bl_transfer job = {.result = {.blocks = 0}};
    int code = work_begin(&k, argc, argv, false);
    if (code == EXIT_GOOD) {
        k.bytes = g_malloc(k.chip->part->size);
        memset(k.bytes, 0xFF, k.chip->part->size);
        code = connect_programmer(k.b, k.index, 1, &c);
    }
    if (code != EXIT_GOOD) {
        work_end(&k);
        return code;
    }
    bl_transfer_options o = {.goal = BL_GOAL_COMPARE};
    code = work_job(&k, &o, &c, &job, false);
    if (given.json)
        answer_job(&c, &job, &k, code == EXIT_GOOD, NULL, work_unseen(&k));
    else if (code == EXIT_GOOD)
        printf("%s (%s): blank, all %lu bytes are FF\n", k.chip->name, k.chip->part->name,
               (unsigned long)job.result.bytes_proved);
    else if (job.result.blocks_wrong > 0)
        printf("%s (%s): not blank: %lu bytes are not FF, the first at offset %s holds %02X\n",
               k.chip->name, k.chip->part->name, (unsigned long)job.result.differences,
               cli_offset(k.b, job.result.difference[0].address), job.result.difference[0].found);
    bl_transfer_end(&job);
    int end = connect_end(&c);
    work_end(&k);
    return code != EXIT_GOOD ? code : end;
}

/* Once to read, once to have the checksums of what was read compared. */
int work_read(work *k, connection *c, uint8_t *bytes)
{
    uint8_t *meant = k->bytes;
    bl_transfer_options o = {
        .goal = BL_GOAL_READ, .buffer = bytes, .range = {0, k->chip->part->size}};
    int code = EXIT_GOOD;
    k->bytes = bytes;
    for (int pass = 0; pass < 2 && code == EXIT_GOOD; pass++) {
        bl_transfer job;
        code = work_job(k, &o, c, &job, true);
        bl_transfer_end(&job);
        o.goal = BL_GOAL_COMPARE;
    }
    k->bytes = meant;
    return code;
}

static int save_read(const work *k, bl_filetype type, const uint8_t *bytes, double seconds)
{
    int code = cli_save_bytes(given.out, type, 0, bytes, k->chip->part->size, k->chip->name);
    if (code == EXIT_GOOD)
        say("%s: %lu bytes of %s (%s), CRC-32 %08X compared with the programmer's (%.2f s)",
            given.out, (unsigned long)k->chip->part->size, k->chip->name, k->chip->part->name,
            bl_crc32(0, bytes, k->chip->part->size), seconds);
    return code;
}

/* The file is written when all was read, so a broken line leaves the old one. */
int chip_read(int argc, char **argv)
{
    work k;
    connection c;
    if (given.out == NULL && !chip_given.identify)
        return cli_usage("no output file: give -o FILE, or --identify");
    bl_filetype type = given.out != NULL ? cli_output_type() : BL_FILE_BIN;
    if (type == BL_FILE_UNKNOWN)
        return cli_usage("-o %s: give a format with -f bin, hex or srec", given.out);
    int code = work_begin(&k, argc, argv, chip_given.identify);
    if (code == EXIT_GOOD) code = connect_programmer(k.b, k.index, 1, &c);
    if (code != EXIT_GOOD) {
        work_end(&k);
        return code;
    }
    uint8_t *bytes = g_malloc0(k.chip->part->size);
    code = work_read(&k, &c, bytes);
    double seconds = connect_seconds(&c);
    int end = connect_end(&c);
    if (code == EXIT_GOOD) code = end;
    if (code == EXIT_GOOD && given.out != NULL) code = save_read(&k, type, bytes, seconds);
    if (code == EXIT_GOOD && chip_given.identify) code = work_identify(&k, bytes);
    g_free(bytes);
    work_end(&k);
    return code;
}

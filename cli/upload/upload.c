/* upload.c - getting a payload into RAM over an open connection, or comparing it, and telling how
 * it went. */
#include "upload.h"
#include "json_answer.h"

#include "connect/connect.h"
#include "eyelet.h"
#include "logbook.h"
#include "project/difference.h"
#include <jansson.h>
#include <string.h>

int transfer_method(bench *b, const char *name)
{
    char known[BL_METHOD_LIST];
    if (name == NULL) return EXIT_GOOD;
    b->method = bl_method_named((bl_text){name, strlen(name)});
    if (b->method == BL_METHOD_NONE)
        return cli_usage("--method %s: the methods are %s", name,
                         bl_method_list(bl_method_any, known, sizeof known));
    if (bl_method_of(b->method)->needs_dialogue && b->link_dialogue == NULL)
        return cli_usage("--method %s needs a dialogue in the bench file: what is typed?", name);
    return EXIT_GOOD;
}

static bl_piece *pieces_of(const bl_image *image, size_t *count)
{
    *count = image != NULL ? bl_image_pieces(image) : 0;
    bl_piece *pieces = g_new0(bl_piece, *count + 1);
    for (size_t i = 0; i < *count; i++)
        pieces[i] = bl_image_piece(image, i);
    return pieces;
}

static int run_job(const bench *b, payload *l, bl_transfer_options *o, connection *c,
                   bl_transfer *job)
{
    bl_piece *pieces = pieces_of(l->image, &o->piece_count);
    o->pieces = pieces;
    o->block = TRANSFER_BLOCK;
    o->region = connect_is_eyelet(b) ? TRANSFER_REGION : 0;
    o->who = BL_WHO_EYELET;
    o->sum_ns = eyelet_sum_ns(b);
    bl_status status = bl_transfer_begin(job, &host_memory, o);
    if (status == BL_OK) status = connect_run(c, job);
    if (status != BL_OK) explain(c, job, status, NULL, &l->names);
    g_free(pieces);
    return status == BL_OK ? EXIT_GOOD : EXIT_FAILED;
}

/* What was proved to be there: its bytes, and as a piece with its symbols. */
static void note_sent(logbook *book, const bench *b, const char *line, const payload *l)
{
    char *stem = host_stem(l->name);
    logbook_together(book, true);
    if (l->program != NULL) logbook_piece(book, b, stem, l->program);
    logbook_sent(book, b, line, l->image);
    logbook_together(book, false);
    g_free(stem);
}

/* Sends with what is believed to be there, and keeps what was proved for the next time. */
static int send_with_book(const bench *b, payload *l, bl_transfer_options *o, connection *c,
                          bl_transfer *job)
{
    logbook *book = logbook_open(b, &cli_sink);
    char *line = connect_line(c);
    bl_image *last;
    logbook_last_sent(book, b, line, &last);
    bl_piece *known = pieces_of(last, &o->known_count);
    o->known = known;
    int code = run_job(b, l, o, c, job);
    if (code == EXIT_GOOD)
        note_sent(book, b, line, l);
    else if (job->result.touched)
        logbook_forget_sent(book, b, line); /* so that the next looks, and keeps what is right */
    g_free(known);
    bl_image_close(last);
    g_free(line);
    logbook_close(book);
    return code;
}

/* What the program said as soon as it ran. */
static void tell_words(const char *said)
{
    char **lines = said != NULL ? g_strsplit(said, "\n", 0) : NULL;
    for (char **line = lines; line != NULL && *line != NULL; line++)
        if (**line != '\0') printf("  says  %s\n", *line);
    g_strfreev(lines);
}

const char *proof_name(bl_proof by)
{
    static const char *const proofs[] = {
        [BL_PROOF_NONE] = "nothing",       [BL_PROOF_SUMS] = "sums",
        [BL_PROOF_DOUBLE] = "double sums", [BL_PROOF_READ] = "reading",
        [BL_PROOF_ANSWERS] = "answers",    [BL_PROOF_ROWS] = "rows",
        [BL_PROOF_PACKETS] = "packets",
    };
    _Static_assert(G_N_ELEMENTS(proofs) == BL_PROOFS, "one for each");
    return proofs[by];
}

/* "verified" is true only with a proof; how it was proved stands beside it. */
static void answer_upload(const connection *c, const bl_transfer *job, const payload *l,
                          const GPtrArray *explained, const char *said, bool good)
{
    json_t *differences = json_array();
    for (size_t i = 0; i < job->result.differences && i < BL_DIFFERENCES; i++) {
        char name[300];
        whereis_describe(&l->names, job->result.difference[i].address, name, sizeof name);
        json_array_append_new(differences,
                              json_pack("{s:I,s:i,s:i,s:s}", "address",
                                        (json_int_t)job->result.difference[i].address, "expected",
                                        job->result.difference[i].expected, "found",
                                        job->result.difference[i].found, "place", name));
    }
    json_t *all = json_pack(
        "{s:b,s:s,s:I,s:I,s:I,s:I,s:f,s:i,s:o}", "verified",
        good && job->result.proved_by != BL_PROOF_NONE, "by", proof_name(job->result.proved_by),
        "bytes", (json_int_t)job->result.bytes_total, "written",
        (json_int_t)job->result.bytes_written, "proved", (json_int_t)job->result.bytes_proved,
        "different", (json_int_t)job->result.differences, "seconds", connect_seconds(c), "resends",
        (int)(c->exchange.resends + job->result.resends), "differences", differences);
    json_t *lines = json_array();
    for (guint i = 0; explained != NULL && i < explained->len; i++)
        json_array_append_new(lines, json_string(g_ptr_array_index(explained, i)));
    json_object_set_new(all, "explained", lines);
    if (said != NULL) json_object_set_new(all, "said", json_string(said));
    answer(all);
}

/* The line is named, where it and not memory was at fault. */
static void tell_misread(const connection *c, const bl_transfer *job)
{
    if (job->result.misread > 0)
        say("  the line on %s is bad: %u reading%s damaged, and repeated", c->name,
            job->result.misread, job->result.misread == 1 ? " was" : "s were");
}

/* What makes sure of it, or that nothing does. */
static void tell_proof(const connection *c, const bl_transfer *job)
{
    static const char *const how[] = {
        [BL_PROOF_SUMS] = "computed the CRC-32 of all %lu bytes in memory, and each block is right",
        [BL_PROOF_DOUBLE] = "computed double sums over all %lu bytes in memory, and each is right",
        [BL_PROOF_READ] = "gave all %lu bytes back, and each is right",
        [BL_PROOF_ANSWERS] = "answered each of the %lu bytes with the right 8-bit sum of memory",
        [BL_PROOF_ROWS] =
            "added up each row of the %lu bytes in memory, and each 8-bit sum is right",
        [BL_PROOF_PACKETS] = "compared the CRC-32 of all %lu bytes, and says that it is right",
    };
    uint32_t resends = c->exchange.resends + job->result.resends;
    if (job->result.proved_by == BL_PROOF_NONE) {
        printf("%s nothing there can be asked whether it arrived", cli_not_verified());
    } else {
        printf("%s %s ", cli_verified(), job->result.name);
        printf(how[job->result.proved_by], (unsigned long)job->result.bytes_proved);
    }
    printf(" (%.2f s", connect_seconds(c));
    if (resends > 0) printf(", %u sent again", resends);
    printf(")\n");
    if (job->result.bytes_twice > 0)
        printf("  after trouble on the line by CRC-32, too: %lu bytes in and around what was "
               "written\n",
               (unsigned long)job->result.bytes_twice);
    tell_misread(c, job);
}

/* What travelled and what did not, and what makes sure of all of it. */
static void tell_sent(const connection *c, const bl_transfer *job, const payload *l, bool stored)
{
    if (job->result.blocks_written == 0)
        printf("%s: all %lu bytes were there already; nothing written\n", l->name,
               (unsigned long)job->result.bytes_total);
    else if (job->result.bytes_written > job->result.bytes_total)
        printf("%s: %lu bytes written, %lu more because they did not arrive as they should\n",
               l->name, (unsigned long)job->result.bytes_total,
               (unsigned long)(job->result.bytes_written - job->result.bytes_total));
    else
        printf("%s: %lu of %lu bytes written in %zu block%s\n", l->name,
               (unsigned long)job->result.bytes_written, (unsigned long)job->result.bytes_total,
               job->result.blocks_written, job->result.blocks_written == 1 ? "" : "s");
    tell_proof(c, job);
    if (job->result.padding > 0)
        say("%lu byte%s behind it, from %s on, %s", (unsigned long)job->result.padding,
            job->result.padding == 1 ? "" : "s", cli_address(c->b, job->result.padded_at),
            job->result.padding_kept ? "had to be sent too: they were read before, and are the same"
                                     : "are now $1A: XMODEM fills its last block up");
    if (stored)
        printf("kept: it starts at power-on, unless a key is pressed in the first quarter of a "
               "second\n");
    if (!job->options.run) return;
    printf("%s from %s%s\n", job->result.run_doubted ? "started" : "running",
           cli_address(c->b, job->options.entry),
           job->result.run_doubted ? "; nothing there says whether it runs" : "");
}

int transfer_look(const bench *b, const payload *l, transfer_wish *w)
{
    if (bl_image_size(l->image) == 0) return fail("%s: there are no bytes in it", l->name);
    if (w->run && !bl_image_entry(l->image, &w->entry))
        return fail("%s: --run needs an entry point; give it with .entry, or --entry ADDRESS",
                    l->name);
    for (size_t i = 0; i < bl_image_pieces(l->image); i++) {
        bl_piece p = bl_image_piece(l->image, i);
        unsigned wide = bl_sheet_unit_bytes(b->sheet);
        if (p.first % wide != 0 || p.count % wide != 0)
            return fail("%s: the bytes at %s begin or end within a word; a word has %u bytes",
                        l->name, cli_address(b, p.first), wide);
    }
    if (!w->compare && project_check_ram(b, l->image, &cli_sink) != BL_OK) return EXIT_FAILED;
    return EXIT_GOOD;
}

/* ---- what differs ---- */

/* What memory has of an image's addresses; NULL: it could not be read. */
static bl_image *read_back(connection *c, const bl_image *image, bool resume)
{
    bl_image *found = NULL;
    bl_status status = bl_image_open(&host_memory, &found);
    for (size_t i = 0; i < bl_image_pieces(image) && status == BL_OK; i++) {
        bl_piece p = bl_image_piece(image, i);
        uint8_t *bytes = g_malloc0(p.count);
        bl_transfer job;
        bl_transfer_options o = {.goal = BL_GOAL_READ,
                                 .buffer = bytes,
                                 .range = {p.first, p.count},
                                 .block = TRANSFER_BLOCK,
                                 .who = BL_WHO_EYELET,
                                 .resume = resume,
                                 .sum_ns = eyelet_sum_ns(c->b)};
        status = bl_transfer_begin(&job, &host_memory, &o);
        if (status == BL_OK) status = connect_run(c, &job);
        bl_transfer_end(&job);
        if (status == BL_OK)
            status = bl_image_put(found, p.first, bytes, p.count, (bl_origin){0, 0});
        g_free(bytes);
    }
    if (status == BL_OK) return found;
    bl_image_close(found);
    return NULL;
}

/* As instructions, and what the pattern suggests. Where memory cannot be read again, it stays with
 * the bytes that were told. */
static GPtrArray *explain_difference(connection *c, const payload *l, bool resume)
{
    bl_image *found = read_back(c, l->image, resume);
    GPtrArray *lines = found != NULL ? difference_explain(c->b, &l->names, l->image, found) : NULL;
    for (size_t i = 0; lines != NULL && i < lines->len; i++)
        say("  %s", (const char *)g_ptr_array_index(lines, i));
    bl_image_close(found);
    return lines;
}

/* How a comparison was made: by sums over there, or byte by byte here. */
static void tell_same(const connection *c, const bl_transfer *job, const payload *l)
{
    bl_proof by = job->result.proved_by;
    bool summed = by == BL_PROOF_SUMS || by == BL_PROOF_DOUBLE;
    printf("%s: same: %s %s all %lu bytes%s (%.2f s)\n", l->name, job->result.name,
           by == BL_PROOF_SUMS     ? "computed the CRC-32 of"
           : by == BL_PROOF_DOUBLE ? "computed double sums over"
                                   : "gave back",
           (unsigned long)job->result.bytes_proved, summed ? " in memory" : "", connect_seconds(c));
    tell_misread(c, job);
    unsigned long own = l->program != NULL ? (unsigned long)bl_program_reserved(l->program) : 0;
    if (own > 0)
        printf("  not compared: %lu byte%s that the program keeps for itself\n", own,
               own == 1 ? "" : "s");
}

/* The logbook is asked what is believed to be there, and told afterwards what was proved. */
int transfer_payload(connection *c, payload *l, const transfer_wish *w)
{
    bl_transfer_options o = {.goal = w->compare ? BL_GOAL_COMPARE : BL_GOAL_WRITE,
                             .every_block = w->all,
                             .resume = w->compare && !w->hold,
                             .run = w->run,
                             .entry = w->entry};
    bl_transfer job = {.result = {.blocks = 0}};
    int code = !w->compare && connect_is_eyelet(c->b) ? send_with_book(c->b, l, &o, c, &job)
                                                      : run_job(c->b, l, &o, c, &job);
    GPtrArray *lines = NULL;
    if (w->compare && job.result.differences > 0) lines = explain_difference(c, l, !w->hold);
    if (code == EXIT_GOOD) code = connect_keep(c);
    char *said = code == EXIT_GOOD && w->run && !w->stay && given.json ? connect_hear(c) : NULL;
    if (given.json)
        answer_upload(c, &job, l, lines, said, code == EXIT_GOOD);
    else if (code == EXIT_GOOD && w->compare)
        tell_same(c, &job, l);
    else if (code == EXIT_GOOD)
        tell_sent(c, &job, l, w->store);
    if (code == EXIT_GOOD && w->run && !w->stay && !given.json) {
        fflush(stdout);
        said = connect_hear(c);
        tell_words(said);
    }
    g_free(said);
    if (lines != NULL) g_ptr_array_free(lines, TRUE);
    if (job.result.resumed) say("the program that was running goes on");
    bl_transfer_end(&job);
    return code;
}

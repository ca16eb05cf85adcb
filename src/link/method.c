/* method.c - the table of methods, and how each begins its transport. */
#include "bootlace/method.h"

#include "base/stream.h"

enum { BLIND_ROUNDS = 3 };
#define BARE_TIMEOUT_US 3000000u
#define XMODEM_FILL     0x1A
_Static_assert(BLIND_ROUNDS >= 1, "blind packets are sent at least once");

/* ---- beginning ---- */

static void send_acked(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    bl_acked_send(&c->acked, g->baud, g->pieces, g->piece_count, g->run, g->entry, now);
}

static void acked_result(const bl_carrier *c, const bl_cargo *g, bl_transfer_result *r)
{
    r->where = bl_acked_where(&c->acked);
    r->run_asked = g->run && c->transport.status == BL_OK;
    r->run_doubted = c->acked.run_doubted;
}

static void send_xmodem_blocks(bl_carrier *c, const bl_cargo *g, bool large, uint64_t now)
{
    bl_xmodem_send(&c->xmodem, g->baud, g->pieces->bytes, g->pieces->count, large, XMODEM_FILL,
                   now);
}

static void send_xmodem(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    send_xmodem_blocks(c, g, false, now);
}

static void send_xmodem_1k(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    send_xmodem_blocks(c, g, true, now);
}

static void receive_xmodem(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    bl_xmodem_receive(&c->xmodem, g->baud, g->buffer, g->count, g->count, true, now);
}

static void send_bare(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    bl_bare_send(&c->bare, g->baud, g->pieces->bytes, g->pieces->count, g->pace_us, now);
}

static void receive_bare(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    bl_bare_receive(&c->bare, g->baud, g->buffer, g->count, BARE_TIMEOUT_US, now);
}

static void send_records(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    bl_lines_send(&c->lines, g->baud, g->records, g->manner, now);
}

static void records_result(const bl_carrier *c, const bl_cargo *g, bl_transfer_result *r)
{
    (void)g;
    r->line = c->lines.line;
}

static void send_packets_in_rounds(bl_carrier *c, const bl_cargo *g, uint8_t rounds, uint64_t now)
{
    const bl_piece *p = g->pieces;
    bl_packets_send(&c->packets, g->baud, p->first, p->bytes, p->count,
                    g->packet > 0 ? g->packet : BL_PACKET_USUAL, rounds, now);
}

static void send_packets(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    send_packets_in_rounds(c, g, 0, now);
}

static void send_blind_packets(bl_carrier *c, const bl_cargo *g, uint64_t now)
{
    send_packets_in_rounds(c, g, g->rounds > 0 ? g->rounds : BLIND_ROUNDS, now);
}

/* ---- the table ---- */

static const bl_method_row rows[] = {
    [BL_METHOD_EYELET] = {.name = "eyelet",
                          .remote = "Eyelet",
                          .takes_all = true,
                          .starts = true,
                          .address_bits = 24,
                          .fills = 1,
                          .proof = BL_PROOF_SUMS},
    [BL_METHOD_ACKED] = {.name = "acked",
                         .remote = "Aglet",
                         .takes_all = true,
                         .starts = true,
                         .address_bits = 16,
                         .fills = 1,
                         .proof = BL_PROOF_ANSWERS,
                         .send = send_acked,
                         .result = acked_result},
    [BL_METHOD_XMODEM] = {.name = "xmodem",
                          .address_bits = 32,
                          .fills = BL_XMODEM_SMALL,
                          .send = send_xmodem,
                          .receive = receive_xmodem},
    [BL_METHOD_XMODEM_1K] = {.name = "xmodem-1k",
                             .address_bits = 32,
                             .fills = BL_XMODEM_SMALL,
                             .send = send_xmodem_1k,
                             .receive = receive_xmodem},
    [BL_METHOD_BARE] = {.name = "bare",
                        .address_bits = 32,
                        .fills = 1,
                        .send = send_bare,
                        .receive = receive_bare},
    [BL_METHOD_HEX] = {.name = "hex-records",
                       .takes_all = true,
                       .address_bits = 32,
                       .fills = 1,
                       .records = BL_FILE_HEX,
                       .send = send_records,
                       .result = records_result},
    [BL_METHOD_SREC] = {.name = "s-records",
                        .takes_all = true,
                        .address_bits = 32,
                        .fills = 1,
                        .records = BL_FILE_SREC,
                        .send = send_records,
                        .result = records_result},
    [BL_METHOD_PACKETS] = {.name = "packets",
                           .address_bits = 24,
                           .fills = 1,
                           .proof = BL_PROOF_PACKETS,
                           .send = send_packets},
    [BL_METHOD_BLIND] = {.name = "blind-packets",
                         .address_bits = 24,
                         .fills = 1,
                         .send = send_blind_packets},
    [BL_METHOD_PARALLEL] = {.name = "parallel",
                            .remote = "Grommet",
                            .takes_all = true,
                            .starts = true,
                            .address_bits = 16,
                            .fills = 1,
                            .proof = BL_PROOF_ROWS},
    [BL_METHOD_TYPING] =
        {
            .name = "typing",
            .needs_dialogue = true,
            .address_bits = 32,
            .fills = 1,
        },
};
_Static_assert(sizeof rows / sizeof rows[0] == BL_METHOD_NONE, "each method has its row");

const bl_method_row *bl_method_of(bl_method method)
{
    return method < BL_METHOD_NONE ? &rows[method] : NULL;
}

bl_method bl_method_named(bl_text name)
{
    for (unsigned i = 0; i < BL_METHOD_NONE; i++)
        if (bl_text_same(name, bl_text_of(rows[i].name))) return (bl_method)i;
    return BL_METHOD_NONE;
}

const char *bl_method_name(bl_method method)
{
    return method < BL_METHOD_NONE ? rows[method].name : NULL;
}

/* ---- lists ---- */

bool bl_method_any(const bl_method_row *row)
{
    (void)row;
    return true;
}

bool bl_method_sends(const bl_method_row *row)
{
    return row->send != NULL;
}

bool bl_method_receives(const bl_method_row *row)
{
    return row->receive != NULL;
}

const char *bl_method_list(bool (*fits)(const bl_method_row *row), char *text, size_t capacity)
{
    bl_room out = {text, capacity, 0};
    for (unsigned i = 0; i < BL_METHOD_NONE; i++) {
        if (!fits(&rows[i])) continue;
        if (out.length > 0) bl_room_text(&out, bl_text_of(", "));
        bl_room_text(&out, bl_text_of(rows[i].name));
    }
    bl_room_end(&out);
    return text;
}

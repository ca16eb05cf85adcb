/* eyelet_target.c - Eyelet's requests as a target's work. docs/link.md. */
#include "eyelet_target.h"
#include "base/core.h"
#include "bootlace/drive_target.h"
#include "bootlace/drive_transport.h"
#include "silence.h"

enum { ADDRESS = 3, DATA_MIN = 8, SUM = 4, GREETING_MAX = 40 };
_Static_assert(ADDRESS + DATA_MIN < BL_FRAME_PAYLOAD, "a frame holds an address and data");
#define WRITE_TIMEOUT_US 30000u

void bl_eyelet_target_begin(bl_eyelet_target *t, const bl_serial *port, uint32_t baud,
                            uint32_t sum_ns, const bl_drive_watch *watch)
{
    memset(t, 0, sizeof *t);
    t->port = port;
    t->watch = watch;
    t->sum_ns = sum_ns;
    bl_exchange_begin(&t->exchange, baud);
}

const bl_frame *eyelet_answer(const bl_eyelet_target *t)
{
    return &t->exchange.answer;
}

/* One request. answer_size: bytes behind the code of a good answer. */
bl_status eyelet_ask(bl_eyelet_target *t, const bl_frame *request, uint32_t timeout_us,
                     size_t answer_size)
{
    bl_status status = eyelet_keep_quiet(t);
    if (status == BL_OK)
        status =
            bl_drive_ask(t->port, &t->exchange, request, timeout_us, (uint32_t)answer_size + 1);
    const bl_frame *f = eyelet_answer(t);
    if (status == BL_E_TIMEOUT) eyelet_forget_state(t);
    if (status != BL_OK) return status;
    if (f->length == 0) return BL_E_SYNTAX;
    if (f->payload[0] == BL_ANSWER_GOOD) return f->length == answer_size + 1 ? BL_OK : BL_E_SYNTAX;
    t->refusal = f->payload[0];
    if (t->refusal == BL_ANSWER_DIFFERS) return BL_E_DIFFERS;
    if (t->refusal == BL_ANSWER_RANGE) return BL_E_RANGE;
    return BL_E_REFUSED;
}

/* Whoever answers next may have been reset, or lost its power: only marks that are still in memory
 * count, which is seen when it is read. */
void eyelet_forget_state(bl_eyelet_target *t)
{
    t->data_max = 0;
    t->state_count = t->cache_count = 0;
}

bl_status eyelet_keep_quiet(bl_eyelet_target *t)
{
    uint64_t now = t->port->now(t->port->context);
    if (now >= t->quiet_until) return BL_OK;
    uint32_t left = (uint32_t)(t->quiet_until - now);
    t->quiet_until = 0;
    return bl_silence_keep(t->port, left, t->watch);
}

/* Who is there, and how much goes into a frame of theirs. It also makes a program give way. */
bl_status eyelet_greet(bl_eyelet_target *t)
{
    bl_hello hello;
    const bl_frame request = {.kind = BL_ASK_HELLO};
    bl_status status = eyelet_keep_quiet(t);
    if (status != BL_OK) return status;
    status = bl_drive_ask(t->port, &t->exchange, &request, EYELET_TIMEOUT_US, GREETING_MAX);
    if (status == BL_E_TIMEOUT) eyelet_forget_state(t);
    if (status != BL_OK) return status;
    if (!bl_hello_read(eyelet_answer(t), &hello) || hello.who != BL_WHO_EYELET ||
        hello.payload_max < DATA_MIN + ADDRESS || hello.payload_max > BL_FRAME_PAYLOAD)
        return BL_E_UNSUPPORTED;
    t->data_max = hello.payload_max - (size_t)ADDRESS - 1;
    return BL_OK;
}

static bl_status be_greeted(bl_eyelet_target *t, uint32_t address, uint64_t count)
{
    if ((uint64_t)address + count > (uint64_t)1 << 24) return BL_E_RANGE;
    return t->data_max > 0 ? BL_OK : eyelet_greet(t);
}

bl_status eyelet_read(bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count)
{
    bl_status status = be_greeted(t, address, count);
    for (size_t at = 0, n; at < count && status == BL_OK; at += n) {
        bl_frame request = {.kind = BL_ASK_READ};
        n = count - at < t->data_max ? count - at : t->data_max;
        bl_frame_put(&request, address + (uint32_t)at, ADDRESS);
        bl_frame_put(&request, (uint32_t)n, 1);
        status = eyelet_ask(t, &request, EYELET_TIMEOUT_US, n);
        if (status == BL_OK) memcpy(bytes + at, eyelet_answer(t)->payload + 1, n);
    }
    return status;
}

bl_status eyelet_write(bl_eyelet_target *t, uint32_t address, const uint8_t *bytes, size_t count)
{
    bl_status status = be_greeted(t, address, count);
    for (size_t at = 0, n; at < count && status == BL_OK; at += n) {
        bl_frame request = {.kind = BL_ASK_WRITE};
        n = count - at < t->data_max ? count - at : t->data_max;
        bl_frame_put(&request, address + (uint32_t)at, ADDRESS);
        memcpy(request.payload + ADDRESS, bytes + at, n);
        request.length = (uint8_t)(ADDRESS + n);
        status = eyelet_ask(t, &request, WRITE_TIMEOUT_US, 0);
    }
    return status;
}

static bl_status read_frames(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    bl_eyelet_target *t = context;
    if (eyelet_remembers(t, address, bytes, count)) return BL_OK;
    bl_status status = eyelet_read(t, address, bytes, count);
    if (status == BL_OK) eyelet_hide_marks(t, address, bytes, count);
    return status;
}

static bl_status write_frames(void *context, uint32_t address, const uint8_t *bytes, size_t count)
{
    eyelet_forget_marks(context, address, count);
    return eyelet_write(context, address, bytes, count);
}

/* The remote sums at most 64 KiB at once. CRC-32 of several is not put together here: one row it
 * is. */
static bl_status sum_row(void *context, bl_range range, uint32_t *crc)
{
    bl_eyelet_target *t = context;
    bl_frame request = {.kind = BL_ASK_SUMS};
    if (range.count == 0 || range.count > 0xFFFF) return BL_E_RANGE;
    bl_status status = be_greeted(t, range.first, range.count);
    if (status != BL_OK) return status;
    bl_frame_put(&request, range.first, ADDRESS);
    bl_frame_put(&request, (uint32_t)range.count, 2);
    bl_frame_put(&request, 1, 1);
    status = eyelet_ask(t, &request,
                        EYELET_TIMEOUT_US + (uint32_t)(range.count * t->sum_ns / 1000u), SUM);
    if (status == BL_OK) *crc = bl_frame_number(eyelet_answer(t)->payload + 1, SUM);
    return status;
}

bl_status eyelet_go(bl_eyelet_target *t, const uint32_t *entry)
{
    static const uint8_t heard = BL_LINK_HEARD;
    bl_frame request = {.kind = entry != NULL ? BL_ASK_RUN : BL_ASK_RESUME};
    bl_status status = be_greeted(t, entry != NULL ? *entry : 0, 1);
    if (status == BL_OK) status = eyelet_place_marks(t);
    if (status != BL_OK) return status;
    if (entry != NULL) bl_frame_put(&request, *entry, ADDRESS);
    status = eyelet_ask(t, &request, EYELET_TIMEOUT_US, 0);
    if (status == BL_E_RANGE && entry == NULL) { /* it was reset meanwhile: none waits */
        eyelet_forget_state(t);
        return BL_E_REFUSED;
    }
    if (status == BL_OK) status = bl_drive_send(t->port, &heard, 1);
    if (status != BL_OK) return status;
    t->quiet_until = t->port->now(t->port->context) + BL_LINK_SILENCE_US;
    t->runs = true;
    t->state_count = t->cache_count = 0;
    memset(&t->heard, 0, sizeof t->heard);
    /* With breakpoints it may come back at once, which wait hears; otherwise nobody listens. */
    return t->sheet == NULL ? eyelet_keep_quiet(t) : BL_OK;
}

static bl_status let_eyelet_go(void *context, const uint32_t *entry)
{
    return eyelet_go(context, entry);
}

static bl_status make_it_give_way(void *context)
{
    bl_eyelet_target *t = context;
    bl_status status = eyelet_greet(t);
    if (status == BL_OK) t->runs = false;
    return status;
}

bl_target bl_eyelet_target_functions(bl_eyelet_target *t)
{
    bl_target f = {.context = t,
                   .read = read_frames,
                   .write = write_frames,
                   .sum = sum_row,
                   .go = let_eyelet_go,
                   .stop = make_it_give_way};
    if (t->sheet != NULL) eyelet_add_registers(&f);
    return f;
}

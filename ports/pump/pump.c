/* pump.c - send, wait, receive, tick. */
#include "pump.h"

static bl_status send_pending(const bl_serial *port, bl_exchange *x, uint8_t *bytes, size_t *held,
                              size_t *sent)
{
    enum { ROOM = 256 };
    if (*sent == *held) {
        *held = bl_exchange_output(x, bytes, ROOM);
        *sent = 0;
    }
    while (*sent < *held) {
        size_t taken = 0;
        bl_status status = port->send(port->context, bytes + *sent, *held - *sent, &taken);
        if (status != BL_OK) return status;
        *sent += taken;
        if (taken == 0) return BL_OK; /* the device is full; later */
        if (*sent == *held) {
            *held = bl_exchange_output(x, bytes, ROOM);
            *sent = 0;
        }
    }
    return BL_OK;
}

static bl_status settle(const bl_serial *port, bl_exchange *x)
{
    uint8_t out[256], in[256];
    size_t held = 0, sent = 0, got = 0;
    while (bl_exchange_status(x) == BL_E_BUSY) {
        bl_status status = send_pending(port, x, out, &held, &sent);
        if (status != BL_OK) return status;
        uint64_t now = port->now(port->context), deadline = bl_exchange_deadline(x);
        uint64_t left = deadline > now ? deadline - now : 0;
        if (sent < held && left > 1000) left = 1000;
        status = port->wait(port->context, left > 1000000 ? 1000000u : (uint32_t)left);
        if (status == BL_OK) status = port->receive(port->context, in, sizeof in, &got);
        if (status != BL_OK) return status;
        bl_exchange_input(x, in, got, port->now(port->context));
    }
    return bl_exchange_status(x);
}

bl_status bl_pump_ask(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                      uint32_t patience_us, uint32_t answer_most)
{
    bl_exchange_ask(x, request, patience_us, answer_most, port->now(port->context));
    return settle(port, x);
}

/* What an answer asks for at once: the bytes of a pour, or a sign that it was heard. */
static bl_status follow(const bl_serial *port, bl_exchange *x, bl_transfer *job, uint8_t kind)
{
    static const uint8_t heard = BL_LINK_HEARD;
    const uint8_t *bytes;
    size_t count;
    bool starts = kind == BL_ASK_RUN || kind == BL_ASK_RESUME;
    if (starts && x->answer.payload[0] == BL_ANSWER_GOOD) return bl_pump_send(port, &heard, 1);
    if (!bl_transfer_pours(job, &bytes, &count)) return BL_OK;
    bl_exchange_pour(x, bytes, count, port->now(port->context));
    return bl_transfer_poured(job, settle(port, x), &x->answer);
}

/* Silence alone is a cut cable; silence on a line that has damaged things before may be noise. */
static bool is_noisy(const bl_exchange *x, bl_status status)
{
    bool trouble_before = x->damaged > 0 || x->resends >= x->most_tries;
    return status == BL_E_LINE || (status == BL_E_TIMEOUT && trouble_before);
}

/* Lets time pass without a byte sent; what comes in is dropped. */
static bl_status keep_silent(const bl_serial *port, uint32_t microseconds)
{
    uint8_t dropped[64];
    size_t got;
    uint64_t end = port->now(port->context) + microseconds;
    bl_status status = BL_OK;
    while (status == BL_OK && port->now(port->context) < end) {
        status = port->wait(port->context, (uint32_t)(end - port->now(port->context)));
        if (status == BL_OK) status = port->receive(port->context, dropped, sizeof dropped, &got);
    }
    return status;
}

bl_status bl_pump_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                           const bl_pump_watch *watch)
{
    for (;;) {
        bl_frame request;
        uint32_t patience, most;
        bool done;
        bl_status status = bl_transfer_next(job, &request, &patience, &most, &done);
        if (done && bl_transfer_silence(job) > 0) {
            bl_status end = keep_silent(port, bl_transfer_silence(job));
            if (status == BL_OK) status = end;
        }
        if (status != BL_OK || done) return status;
        if (watch != NULL && !watch->progress(watch->context, job, x)) return BL_E_BUSY;
        status = bl_pump_ask(port, x, &request, patience, most);
        if (is_noisy(x, status) && bl_transfer_ease(job)) continue;
        if (status == BL_OK) status = bl_transfer_answer(job, &x->answer);
        if (status == BL_OK) status = follow(port, x, job, request.kind);
        if (status != BL_OK) return status;
    }
}

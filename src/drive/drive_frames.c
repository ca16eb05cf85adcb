/* drive_frames.c - send, wait, receive, tick. */
#include "bootlace/drive_frames.h"

#include "bootlace/assert.h"
#include "bootlace/drive_transport.h"
#include "drive_watch.h"
#include "silence.h"

enum { ROOM = 256 };

/* What has been fetched from the exchange, and of that sent. */
typedef struct pending {
    uint8_t bytes[ROOM];
    size_t held, sent;
    uint64_t began, before; /* when, and how many bytes had been sent then */
} pending;

/* A pour is handed over not much faster than the line takes it: what a driver's buffer swallows is
 * neither there, nor can it be taken back. */
static bool is_ahead(const bl_serial *port, const bl_exchange *x, const pending *p)
{
    enum { LEAD = 768 };
    uint64_t took = port->now(port->context) - p->began;
    return x->pour != NULL && x->bytes_out - p->before > took * x->baud / 10000000u + LEAD;
}

static void fetch_output(const bl_serial *port, bl_exchange *x, pending *p)
{
    BL_ASSERT(p->sent <= p->held);
    if (p->sent < p->held) return;
    p->sent = 0;
    p->held = is_ahead(port, x, p) ? 0 : bl_exchange_output(x, p->bytes, ROOM);
}

static bl_status send_pending(const bl_serial *port, bl_exchange *x, pending *p)
{
    fetch_output(port, x, p);
    while (p->sent < p->held) {
        size_t taken = 0;
        bl_status status = port->send(port->context, p->bytes + p->sent, p->held - p->sent, &taken);
        if (status != BL_OK) return status;
        p->sent += taken;
        if (taken == 0) return BL_OK; /* the device is full; later */
        fetch_output(port, x, p);
    }
    return BL_OK;
}

/* more: blocks of the pour that is under way. False: it is to end. */
static bool show_transfer(const bl_exchange *x, const bl_transfer *job, const bl_drive_watch *watch,
                          size_t more)
{
    bl_progress p = bl_transfer_progress(job, x->resends);
    p.done += more;
    return bl_watch_progress(watch, &p);
}

/* A pour takes seconds: whoever watches sees it go on, and can end it. */
static bool show_pour(const bl_exchange *x, const bl_transfer *job, const bl_drive_watch *watch)
{
    if (x->pour == NULL || job == NULL) return true;
    return show_transfer(x, job, watch, x->pour_at / job->options.block);
}

static bool starts(uint8_t kind)
{
    return kind == BL_ASK_RUN || kind == BL_ASK_RESUME;
}

/* job: of a pour; else NULL. */
static bl_status finish_exchange(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                                 const bl_drive_watch *watch)
{
    const uint32_t longest_us = 50000; /* between two looks of whoever watches */
    uint8_t in[256];
    pending out = {.began = port->now(port->context), .before = x->bytes_out};
    size_t got = 0;
    while (bl_exchange_status(x) == BL_E_BUSY) {
        bl_status status = send_pending(port, x, &out);
        if (status != BL_OK) return status;
        uint64_t now = port->now(port->context), deadline = bl_exchange_deadline(x);
        uint64_t left = deadline > now ? deadline - now : 0;
        if (out.sent < out.held && left > 1000) left = 1000;
        if (x->pour != NULL && left > longest_us) left = longest_us;
        if (!show_pour(x, job, watch)) return BL_E_BUSY;
        status = port->wait(port->context, left > 1000000 ? 1000000u : (uint32_t)left);
        if (status == BL_OK) status = port->receive(port->context, in, sizeof in, &got);
        if (status != BL_OK) return status;
        bl_exchange_input(x, in, got, port->now(port->context));
        if (starts(x->request.kind)) bl_watch_said(watch, in + got - x->behind, x->behind);
    }
    return bl_exchange_status(x);
}

static bl_status ask_watched(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                             uint32_t timeout_us, uint32_t answer_max, const bl_drive_watch *watch)
{
    bl_exchange_ask(x, request, timeout_us, answer_max, port->now(port->context));
    return finish_exchange(port, x, NULL, watch);
}

bl_status bl_drive_ask(const bl_serial *port, bl_exchange *x, const bl_frame *request,
                       uint32_t timeout_us, uint32_t answer_max)
{
    return ask_watched(port, x, request, timeout_us, answer_max, NULL);
}

/* Asked once: who else may be at the line is not to be bothered by retries. */
bl_status bl_drive_greet(const bl_serial *port, uint32_t baud, uint8_t *who, char *name,
                         size_t capacity)
{
    bl_hello hello;
    bl_exchange x;
    bl_frame request = {.kind = BL_ASK_HELLO};
    bl_exchange_begin(&x, baud);
    x.max_tries = 1;
    bl_status status = bl_drive_ask(port, &x, &request, 0, 40);
    if (status != BL_OK) return status;
    if (!bl_hello_read(&x.answer, &hello)) return BL_E_LINE;
    size_t n = hello.name.length < capacity - 1 ? hello.name.length : capacity - 1;
    *who = hello.who;
    for (size_t i = 0; i < n; i++) {
        char c = hello.name.at[i];
        name[i] = c >= ' ' && c <= '~' ? c : '.';
    }
    name[n] = '\0';
    return BL_OK;
}

/* What an answer asks for at once: the bytes of a pour, or a sign that it was heard. */
static bl_status follow_answer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                               uint8_t kind, const bl_drive_watch *watch)
{
    static const uint8_t heard = BL_LINK_HEARD;
    const uint8_t *bytes;
    size_t count;
    if (starts(kind) && x->answer.payload[0] == BL_ANSWER_GOOD)
        return bl_drive_send(port, &heard, 1);
    if (!bl_transfer_pours(job, &bytes, &count)) return BL_OK;
    bl_exchange_pour(x, bytes, count, port->now(port->context));
    return bl_transfer_poured(job, finish_exchange(port, x, job, watch), &x->answer);
}

/* Silence alone is a cut cable; silence on a line that has damaged things before may be noise. */
static bool is_noisy(const bl_exchange *x, bl_status status)
{
    bool trouble_before = x->damaged > 0 || x->resends >= x->max_tries;
    return status == BL_E_LINE || (status == BL_E_TIMEOUT && trouble_before);
}

/* Next request, exchange, answer; on a line that damages everything the job makes its frames
 * shorter first. */
static bl_status run_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                              const bl_drive_watch *watch)
{
    uint32_t trouble = x->damaged + x->resends;
    for (;;) {
        bl_frame request;
        uint32_t timeout, max;
        bool done;
        bl_status status = bl_transfer_next(job, &request, &timeout, &max, &done);
        if (done && bl_transfer_silence(job) > 0) {
            bl_status end = bl_silence_keep(port, bl_transfer_silence(job), watch);
            if (status == BL_OK) status = end;
        }
        if (status != BL_OK || done) return status;
        if (!show_transfer(x, job, watch, 0)) return BL_E_BUSY;
        status = ask_watched(port, x, &request, timeout, max, watch);
        if (x->damaged + x->resends != trouble) bl_transfer_trouble(job);
        trouble = x->damaged + x->resends;
        if (is_noisy(x, status) && bl_transfer_ease(job)) continue;
        if (status == BL_OK) status = bl_transfer_answer(job, &x->answer);
        if (status == BL_OK) status = follow_answer(port, x, job, request.kind, watch);
        if (status != BL_OK) return status;
    }
}

bl_status bl_drive_transfer(const bl_serial *port, bl_exchange *x, bl_transfer *job,
                            const bl_drive_watch *watch)
{
    bl_status status = run_transfer(port, x, job, watch);
    bl_transfer_count_sure(job);
    return status;
}

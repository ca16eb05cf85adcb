/* exchange.c - ask, wait, ask again. */
#include "bootlace/exchange.h"

#include "base/core.h"
#include "bootlace/crc.h"

enum { MAX_TRIES = 16 };
#define POUR_US 250000u /* until the remote has found the line silent */
static const uint32_t slack_us = 60000;

void bl_exchange_begin(bl_exchange *x, uint32_t baud)
{
    memset(x, 0, sizeof *x);
    x->baud = baud == 0 ? 9600 : baud;
    x->max_tries = MAX_TRIES;
    x->slack_us = slack_us;
}

/* Time for so many bytes on the line, a tenth added for escapes. */
static uint64_t exchange_line_time(const bl_exchange *x, uint64_t bytes)
{
    return bytes * 11 * 1000000u / x->baud;
}

bool bl_hello_read(const bl_frame *f, bl_hello *hello)
{
    enum { CODE, VERSION, WHO, CAPACITY, NAME };
    if (f->length < NAME || f->payload[CODE] != BL_ANSWER_GOOD ||
        f->payload[VERSION] != BL_LINK_VERSION)
        return false;
    hello->who = f->payload[WHO];
    hello->payload_max = f->payload[CAPACITY];
    hello->name = (bl_text){(const char *)f->payload + NAME, (size_t)(f->length - NAME)};
    return true;
}

static void send_request(bl_exchange *x, uint64_t now)
{
    x->wire_count = bl_frame_encode(&x->request, x->wire);
    x->wire_sent = 0;
    x->tries++;
    uint64_t bytes = x->wire_count + x->answer_max + BL_FRAME_OVERHEAD + 2;
    x->deadline = now + exchange_line_time(x, bytes) + x->timeout_us + x->slack_us;
}

void bl_exchange_ask(bl_exchange *x, const bl_frame *request, uint32_t timeout_us,
                     uint32_t answer_max, uint64_t now)
{
    BL_ASSERT(request->length <= BL_FRAME_PAYLOAD);
    uint8_t sequence = (uint8_t)(x->request.sequence + 1);
    x->request = *request;
    x->request.sequence = sequence;
    x->timeout_us = timeout_us;
    x->answer_max = answer_max;
    x->status = BL_E_BUSY;
    x->tries = 0;
    x->heard = false;
    x->pour = NULL;
    send_request(x, now);
}

/* ---- a pour ---- */

void bl_exchange_pour(bl_exchange *x, const uint8_t *bytes, size_t count, uint64_t now)
{
    BL_ASSERT(bytes != NULL && count > 0);
    enum { END = 16 };
    size_t escapes = 0;
    for (size_t i = 0; i < count; i++)
        escapes += bl_frame_escapes(bytes[i]);
    x->request.kind = BL_ASK_POURED;
    x->status = BL_E_BUSY;
    x->tries = x->max_tries; /* what went wrong is found by sums, and written again */
    x->heard = false;
    x->pour = bytes;
    x->pour_count = count;
    x->pour_at = 0;
    x->pour_fcs = BL_FCS16_START;
    x->pour_escaped = false;
    x->wire_count = x->wire_sent = 0;
    x->deadline = now + exchange_line_time(x, count + escapes + END) + x->slack_us + POUR_US;
}

/* The bytes, then the two of the FCS, then a flag. */
static uint8_t pour_byte(const bl_exchange *x)
{
    size_t behind = x->pour_at - x->pour_count;
    if (x->pour_at < x->pour_count) return x->pour[x->pour_at];
    return (uint8_t)(behind == 0 ? ~x->pour_fcs : ~x->pour_fcs >> 8);
}

/* Bytes are escaped as they leave: a pour may be longer than any buffer of ours. */
static size_t pour_output(bl_exchange *x, uint8_t *bytes, size_t capacity)
{
    size_t n = 0, last = x->pour_count + 2;
    while (n < capacity && x->pour_at <= last) {
        if (x->pour_at == last) {
            bytes[n++] = BL_FRAME_FLAG;
            x->pour_at++;
            break;
        }
        uint8_t byte = pour_byte(x);
        if (bl_frame_escapes(byte) && !x->pour_escaped) {
            bytes[n++] = BL_FRAME_ESCAPE;
            x->pour_escaped = true;
            continue;
        }
        bytes[n++] = x->pour_escaped ? byte ^ BL_FRAME_FLIP : byte;
        x->pour_escaped = false;
        if (x->pour_at < x->pour_count) x->pour_fcs = bl_fcs16(x->pour_fcs, byte);
        x->pour_at++;
    }
    x->bytes_out += n;
    return n;
}

size_t bl_exchange_output(bl_exchange *x, uint8_t *bytes, size_t capacity)
{
    if (x->pour != NULL) return pour_output(x, bytes, capacity);
    size_t n = x->wire_count - x->wire_sent;
    if (n > capacity) n = capacity;
    memcpy(bytes, x->wire + x->wire_sent, n);
    x->wire_sent += n;
    x->bytes_out += n;
    return n;
}

static void retry_request(bl_exchange *x, uint64_t now)
{
    if (x->tries == x->max_tries) {
        x->status = x->heard || x->pour != NULL ? BL_E_LINE : BL_E_TIMEOUT;
        x->pour = NULL;
        return;
    }
    x->resends++;
    send_request(x, now);
}

/* An answer to an older request is dropped by its sequence number; what comes behind the answer is
 * not ours. */
void bl_exchange_input(bl_exchange *x, const uint8_t *bytes, size_t count, uint64_t now)
{
    bl_frame frame;
    x->behind = 0;
    x->bytes_in += count;
    if (count > 0) x->heard = true;
    for (size_t i = 0; i < count; i++) {
        bl_frame_event event = bl_frame_take(&x->reader, bytes[i], &frame);
        if (event == BL_FRAME_DAMAGED) x->damaged++;
        if (event != BL_FRAME_GOOD || x->status != BL_E_BUSY) continue;
        /* Late answers to earlier sendings, and our own echo, have another sequence or kind. */
        if (frame.sequence != x->request.sequence || frame.length == 0 ||
            frame.kind != (x->request.kind | BL_ANSWER))
            continue;
        x->answer = frame;
        x->status = BL_OK;
        x->pour = NULL;
        x->behind = count - i - 1;
    }
    bl_exchange_tick(x, now);
}

void bl_exchange_tick(bl_exchange *x, uint64_t now)
{
    if (x->status == BL_E_BUSY && now >= x->deadline) retry_request(x, now);
}

uint64_t bl_exchange_deadline(const bl_exchange *x)
{
    return x->deadline;
}

bl_status bl_exchange_status(const bl_exchange *x)
{
    return x->status;
}

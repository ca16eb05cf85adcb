/* machine_model.c - frames in, frames out, and damage on the way. */
#include "machine_model.h"

#include <string.h>

enum { FLAG = 0x7E, ESCAPE = 0x7D, FLIP = 0x20, OWN = 0x0300 };

uint32_t model_below(machine_model *m, uint32_t limit)
{
    m->chance ^= m->chance << 13;
    m->chance ^= m->chance >> 7;
    m->chance ^= m->chance << 17;
    return (uint32_t)((m->chance * 0x2545F4914F6CDD1Du) >> 33) % limit;
}

void model_begin(machine_model *m, model_quick quick, const model_faults *faults, uint64_t seed)
{
    memset(m, 0, sizeof *m);
    m->quick = quick;
    m->faults = *faults;
    m->chance = seed * 0x9E3779B97F4A7C15u + 0x1234567;
    for (int i = 0; i < 4; i++)
        model_below(m, 2);
    for (size_t i = 0; i < sizeof m->memory; i += 4) {
        uint32_t r = model_below(m, 0x7FFFFFFF);
        memcpy(m->memory + i, &r, 4);
    }
}

/* ---- sums, bit by bit, with tables made of that ---- */

static uint16_t fcs_of(uint16_t fcs, uint8_t byte)
{
    static uint16_t table[256];
    if (table[1] == 0)
        for (unsigned i = 0; i < 256; i++) {
            unsigned r = i;
            for (int k = 0; k < 8; k++)
                r = r & 1 ? r >> 1 ^ 0x8408 : r >> 1;
            table[i] = (uint16_t)r;
        }
    return (uint16_t)(fcs >> 8 ^ table[(fcs ^ byte) & 0xFF]);
}

static uint32_t crc32_of(const uint8_t *bytes, size_t count)
{
    static uint32_t table[256];
    if (table[1] == 0)
        for (uint32_t i = 0; i < 256; i++) {
            uint32_t r = i;
            for (int k = 0; k < 8; k++)
                r = r & 1 ? r >> 1 ^ 0xEDB88320u : r >> 1;
            table[i] = r;
        }
    uint32_t crc = 0xFFFFFFFFu;
    while (count-- > 0)
        crc = crc >> 8 ^ table[(crc ^ *bytes++) & 0xFF];
    return ~crc;
}

/* By the definition of docs/link.md, a byte at a time. */
static uint32_t double_of(const uint8_t *bytes, size_t count)
{
    unsigned low = 255, high = 255, sums = 65535, carry = 0;
    size_t at = 0;
    while (at < count) {
        low += carry;
        if (at > 0 || count % 2 == 0) low += bytes[at++];
        high += bytes[at++] + low / 256;
        low %= 256;
        if (high >= 256) {
            low += 15;
            high += low / 256;
        }
        low %= 256;
        high %= 256;
        sums += high * 256 + low;
        carry = sums / 65536;
        sums %= 65536;
    }
    return (65535u - sums) * 65536u + (65535u - (high * 256 + low));
}

/* ---- the line ---- */

static bool happens(machine_model *m, uint32_t one_in)
{
    return one_in != 0 && model_below(m, one_in) == 0;
}

/* What becomes of a byte on its way: none, one or two. way: 0 to the machine, 1 to the PC. */
static size_t damage(machine_model *m, unsigned way, uint8_t byte, uint8_t *to)
{
    /* Any multiple of the generator x^16 + x^12 + x^5 + 1 by a power of x below 8. */
    const uint32_t generator = (uint32_t)0x10811 << m->shift[way];
    if (m->kernel[way] > 0) {
        m->kernel[way]--;
        byte ^= (uint8_t)(generator >> (8 * (2 - m->kernel[way])));
    } else if (happens(m, m->faults.kernel)) {
        m->shift[way] = (uint8_t)model_below(m, 8);
        m->kernel[way] = 2;
        byte ^= (uint8_t)((uint32_t)0x10811 << m->shift[way]);
    }
    if (m->burst[way] > 0) {
        m->burst[way]--;
        byte = (uint8_t)model_below(m, 256);
    } else if (happens(m, m->faults.burst)) {
        m->burst[way] = 1 + model_below(m, 8);
    }
    if (happens(m, m->faults.flip)) byte ^= (uint8_t)(1u << model_below(m, 8));
    if (happens(m, m->faults.lose)) return 0;
    to[0] = byte;
    if (!happens(m, m->faults.insert)) return 1;
    to[1] = (uint8_t)model_below(m, 256);
    return 2;
}

static void say(machine_model *m, uint8_t byte)
{
    if (m->out_count + 2 < sizeof m->out) m->out_count += damage(m, 1, byte, m->out + m->out_count);
}

static void answer(machine_model *m, uint8_t kind, uint8_t sequence, const uint8_t *payload,
                   size_t count)
{
    uint8_t frame[260] = {(uint8_t)(kind | 0x80), sequence, (uint8_t)count};
    uint16_t fcs = 0xFFFF;
    memcpy(frame + 3, payload, count);
    for (size_t i = 0; i < count + 3; i++)
        fcs = fcs_of(fcs, frame[i]);
    frame[count + 3] = (uint8_t)~fcs;
    frame[count + 4] = (uint8_t)(~fcs >> 8);
    say(m, FLAG);
    for (size_t i = 0; i < count + 5; i++) {
        bool escape = frame[i] == FLAG || frame[i] == ESCAPE;
        if (escape) say(m, ESCAPE);
        say(m, escape ? frame[i] ^ FLIP : frame[i]);
    }
    say(m, FLAG);
}

/* ---- requests ---- */

static uint32_t number(const uint8_t *at, unsigned bytes)
{
    uint32_t n = 0;
    while (bytes-- > 0)
        n = n << 8 | at[bytes];
    return n;
}

static size_t serve_sums(machine_model *m, const uint8_t *p, bool quick, uint8_t *to)
{
    uint32_t first = number(p, 3), size = number(p + 3, 2), count = p[5];
    unsigned width = quick && m->quick == MODEL_SHORT ? 2 : 4;
    if (count == 0 || count > 59 || size == 0 || first + size * count > 65536) return 0;
    for (uint32_t i = 0; i < count; i++, first += size, to += width) {
        uint32_t sum =
            quick ? double_of(m->memory + first, size) : crc32_of(m->memory + first, size);
        if (width == 2) {
            uint16_t fcs = 0xFFFF;
            for (uint32_t k = 0; k < size; k++)
                fcs = fcs_of(fcs, m->memory[first + k]);
            sum = (uint16_t)~fcs;
        }
        for (unsigned k = 0; k < width; k++)
            to[k] = (uint8_t)(sum >> (8 * k));
    }
    return count * width;
}

static void begin_pour(machine_model *m, uint8_t sequence)
{
    m->pouring = true;
    m->draining = m->escaped = false;
    m->fcs = 0xFFFF;
    m->sequence = sequence;
}

static void serve(machine_model *m)
{
    const uint8_t *f = m->frame, *p = f + 3;
    size_t n = f[2];
    uint8_t to[256] = {0};
    size_t count = 1;
    uint32_t first = number(p, 3);
    bool pour = false;
    switch (f[0]) {
    case 1:
        memcpy(to + 1,
               "\x01\x01\xF0"
               "Model",
               8);
        count = 9;
        break;
    case 2:
        if (n < 4 || p[3] == 0 || p[3] > 239 || first + p[3] > 65536) goto range;
        memcpy(to + 1, m->memory + first, p[3]);
        count += p[3];
        break;
    case 3:
        if (n < 4 || first < OWN || first + (n - 3) > 65536) goto range;
        memcpy(m->memory + first, p + 3, n - 3);
        break;
    case 4:
    case 8:
        if (f[0] == 8 && m->quick == MODEL_UNKNOWN) goto unknown;
        if (n < 6) goto range;
        count += serve_sums(m, p, f[0] == 8, to + 1);
        if (count == 1) goto range;
        break;
    case 7:
        if (m->quick == MODEL_UNKNOWN) goto unknown;
        m->at = first;
        m->left = n < 5 ? 0 : number(p + 3, 2);
        if (m->left == 0 || first < OWN || first + m->left > 65536) goto range;
        pour = true;
        break;
    default:
    unknown:
        to[0] = 1;
        break;
    range:
        to[0] = 3;
        break;
    }
    answer(m, f[0], f[1], to, count);
    if (pour) begin_pour(m, f[1]);
}

static void end_pour(machine_model *m, uint8_t code)
{
    m->pouring = m->inside = false;
    answer(m, 9, m->sequence, &code, 1);
}

static void take_pour(machine_model *m, uint8_t byte)
{
    if (m->draining) return;
    if (byte == FLAG) {
        if (m->left == 0 && m->fcs == 0xF0B8)
            end_pour(m, 0);
        else
            m->draining = true;
        return;
    }
    if (byte == ESCAPE) {
        m->escaped = true;
        return;
    }
    if (m->escaped) byte ^= FLIP;
    m->escaped = false;
    m->fcs = fcs_of(m->fcs, byte);
    if (m->left == 0) return; /* the FCS itself */
    m->memory[m->at++] = byte;
    m->left--;
}

static void take(machine_model *m, uint8_t byte)
{
    if (m->pouring) {
        take_pour(m, byte);
    } else if (byte == FLAG) {
        uint16_t fcs = 0xFFFF;
        for (size_t i = 0; i < m->count; i++)
            fcs = fcs_of(fcs, m->frame[i]);
        bool good = m->inside && m->count >= 5 && fcs == 0xF0B8 && m->frame[2] == m->count - 5;
        m->inside = true;
        m->escaped = false;
        if (good) serve(m);
        m->count = 0;
    } else if (byte == ESCAPE) {
        m->escaped = true;
    } else if (m->count == sizeof m->frame) {
        m->inside = false;
    } else {
        m->frame[m->count++] = m->escaped ? byte ^ FLIP : byte;
        m->escaped = false;
    }
}

/* ---- as a port ---- */

static bl_status port_send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    machine_model *m = context;
    for (size_t i = 0; i < count; i++) {
        uint8_t came[2];
        size_t n = damage(m, 0, bytes[i], came);
        for (size_t k = 0; k < n; k++)
            take(m, came[k]);
    }
    *taken = count;
    return BL_OK;
}

static bl_status port_receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    machine_model *m = context;
    size_t n = m->out_count - m->out_at;
    *got = n < capacity ? n : capacity;
    memcpy(bytes, m->out + m->out_at, *got);
    m->out_at += *got;
    if (m->out_at == m->out_count) m->out_at = m->out_count = 0;
    return BL_OK;
}

/* Time passes only when nothing has come: so long a silence ends frames and pours. */
static bl_status port_wait(void *context, uint32_t microseconds)
{
    machine_model *m = context;
    if (m->out_count > m->out_at) return BL_OK;
    m->clock += microseconds;
    if (microseconds < 50000) return BL_OK;
    if (m->pouring) end_pour(m, 2);
    m->inside = false;
    m->count = 0;
    return BL_OK;
}

static uint64_t port_now(void *context)
{
    return ((machine_model *)context)->clock;
}

bl_serial model_port(machine_model *m)
{
    return (bl_serial){m, port_send, port_receive, port_wait, port_now, NULL};
}

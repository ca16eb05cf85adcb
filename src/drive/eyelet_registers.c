/* eyelet_registers.c - registers through Eyelet, and hearing that a program was stopped. */
#include "base/core.h"
#include "eyelet_target.h"

enum { PIECE = 64 };

static size_t bytes_of_register(const bl_sheet_register *r)
{
    return (r->bits + 7u) / 8u;
}

/* A register's value: they travel high byte first, unlike other numbers. */
static uint32_t value_at(const uint8_t *at, size_t width)
{
    uint32_t value = 0;
    for (size_t i = 0; i < width; i++)
        value = value << 8 | at[i];
    return value;
}

static void store_value(uint8_t *at, size_t width, uint32_t value)
{
    for (size_t i = width; i-- > 0; value >>= 8)
        at[i] = (uint8_t)value;
}

/* The program counter is the first of them. */
bool eyelet_program_counter(const bl_eyelet_target *t, uint32_t *pc)
{
    if (t->state_count < 3) return false;
    *pc = value_at(t->state + 1, 2);
    return true;
}

/* All registers that are not two others, in the order of the sheet. */
static size_t bytes_of_all(const bl_sheet *sheet)
{
    size_t count = 0;
    for (size_t i = 0; i < bl_sheet_registers(sheet); i++) {
        const bl_sheet_register *r = bl_sheet_register_at(sheet, i);
        if (r->high.length == 0) count += bytes_of_register(r);
    }
    return count;
}

/* Notes what Eyelet tells: the byte that is a breakpoint, then, when a program waits, all
 * registers, and where there is room the next bytes of its code. False: that is not what this is.
 */
static bool take_state(bl_eyelet_target *t, const bl_frame *f)
{
    size_t count = 1 + bytes_of_all(t->sheet);
    if (count > sizeof t->state || f->length < 2 || f->payload[0] != BL_ANSWER_GOOD) return false;
    if (f->length > 2 && f->length < count + 1) return false;
    t->state_count = f->length == 2 ? 1 : count;
    memcpy(t->state, f->payload + 1, t->state_count);
    size_t code = f->length - t->state_count - 1u;
    uint8_t bytes[BL_EYELET_CACHE];
    uint32_t pc;
    if (code == 0 || !eyelet_program_counter(t, &pc)) return true;
    if (code > sizeof bytes) code = sizeof bytes;
    if (code > (uint32_t)0x10000 - pc) code = (size_t)((uint32_t)0x10000 - pc);
    memcpy(bytes, f->payload + 1 + t->state_count, code);
    eyelet_hide_marks(t, pc, bytes, code);
    return true;
}

/* Asked once after the program has stopped. */
static bl_status know_registers(bl_eyelet_target *t)
{
    const bl_frame request = {.kind = BL_ASK_REGISTERS};
    if (t->state_count > 1) return BL_OK;
    if (t->state_count == 1) return BL_E_REFUSED; /* no program waits */
    if (t->runs) return BL_E_UNSUPPORTED;         /* to ask would stop it */
    bl_status status = t->data_max > 0 ? BL_OK : eyelet_greet(t);
    /* How much comes is not known before: what is good by its code is looked at. */
    if (status == BL_OK)
        status = eyelet_ask(t, &request, EYELET_TIMEOUT_US, BL_EYELET_REGISTERS + BL_EYELET_CACHE);
    if (status == BL_E_REFUSED && t->refusal == BL_ANSWER_UNKNOWN) return BL_E_UNSUPPORTED;
    if (status != BL_OK && status != BL_E_SYNTAX) return status;
    if (!take_state(t, eyelet_answer(t))) return BL_E_SYNTAX;
    return t->state_count > 1 ? BL_OK : BL_E_REFUSED;
}

/* Told also while no program waits. */
bl_status eyelet_breakpoint_byte(bl_eyelet_target *t, uint8_t *byte)
{
    bl_status status = know_registers(t);
    if (status == BL_E_REFUSED && t->state_count == 1) status = BL_OK;
    if (status == BL_OK) *byte = t->state[0];
    return status;
}

/* A name as targets have it: small letters, and a zero behind. */
static const char *kept_name(bl_eyelet_target *t, size_t index, bl_text name)
{
    size_t n = 0;
    for (; n < name.length && n + 1 < sizeof t->names[0]; n++) {
        char c = name.at[n];
        t->names[index][n] = (char)(c >= 'A' && c <= 'Z' ? c + 32 : c);
    }
    t->names[index][n] = '\0';
    return t->names[index];
}

static bl_status list_eyelet_registers(void *context, bl_register *list, size_t capacity,
                                       size_t *count)
{
    bl_eyelet_target *t = context;
    bl_status status = know_registers(t);
    size_t at = 1;
    *count = 0;
    for (size_t i = 0; i < bl_sheet_registers(t->sheet) && status == BL_OK; i++) {
        const bl_sheet_register *r = bl_sheet_register_at(t->sheet, i);
        if (r->high.length > 0) continue;
        size_t n = bytes_of_register(r);
        BL_ASSERT(*count < BL_EYELET_REGISTERS); /* their bytes fit */
        if (*count < capacity)
            list[*count] =
                (bl_register){kept_name(t, *count, r->name), r->bits, value_at(t->state + at, n)};
        at += n;
        ++*count;
    }
    return status;
}

static bl_status set_eyelet_register(void *context, const char *name, uint32_t value)
{
    bl_eyelet_target *t = context;
    bl_frame request = {.kind = BL_ASK_SET_REGISTERS};
    bl_status status = know_registers(t);
    size_t at = 1, width = 0;
    if (status != BL_OK) return status;
    for (size_t i = 0; i < bl_sheet_registers(t->sheet) && width == 0; i++) {
        const bl_sheet_register *r = bl_sheet_register_at(t->sheet, i);
        if (r->high.length > 0) continue;
        if (!bl_text_same_nocase(bl_text_of(name), r->name)) {
            at += bytes_of_register(r);
            continue;
        }
        if ((uint64_t)value >> r->bits != 0) return BL_E_RANGE;
        width = bytes_of_register(r);
    }
    if (width == 0) return BL_E_NOT_FOUND;
    uint8_t before[BL_EYELET_REGISTERS];
    memcpy(before, t->state, sizeof before);
    store_value(t->state + at, width, value);
    memcpy(request.payload, t->state + 1, t->state_count - 1);
    request.length = (uint8_t)(t->state_count - 1);
    status = eyelet_ask(t, &request, EYELET_TIMEOUT_US, 0);
    if (status == BL_OK) return BL_OK;
    memcpy(t->state, before, sizeof before);
    return status == BL_E_RANGE ? BL_E_UNSUPPORTED : status; /* the stack pointer stays */
}

/* Eyelet's word that a program was stopped: all registers are in it. */
static bool take_stop(bl_eyelet_target *t, const bl_frame *f)
{
    if (f->kind != (BL_ASK_STOPPED | BL_ANSWER) || f->length < 3 || !take_state(t, f)) return false;
    t->runs = false;
    t->quiet_until = 0; /* it has heard that we heard */
    return true;
}

/* What comes is the program's own, but for frames. A flag that begins none is passed on late. */
static bool hear_bytes(bl_eyelet_target *t, const uint8_t *bytes, size_t count)
{
    bl_frame f;
    for (size_t i = 0; i < count; i++) {
        bool framed = t->heard.open || bytes[i] == BL_FRAME_FLAG;
        if (bl_frame_take(&t->heard, bytes[i], &f) == BL_FRAME_GOOD && take_stop(t, &f))
            return true;
        if (!framed && t->watch != NULL && t->watch->said != NULL)
            t->watch->said(t->watch->context, &bytes[i], 1);
    }
    return false;
}

static bl_status wait_for_stop_frame(void *context, uint32_t microseconds, bl_stop *why)
{
    bl_eyelet_target *t = context;
    const bl_serial *port = t->port;
    uint64_t end = port->now(port->context) + microseconds;
    uint8_t bytes[PIECE];
    *why = BL_STOP_ASKED;
    while (t->runs) {
        uint64_t now = port->now(port->context);
        size_t got = 0;
        *why = BL_STOP_NOT;
        if (now >= end) return BL_OK;
        bl_status status = port->wait(port->context, (uint32_t)(end - now));
        if (status == BL_OK) status = port->receive(port->context, bytes, sizeof bytes, &got);
        if (status != BL_OK) return status;
        if (!hear_bytes(t, bytes, got)) continue;
        *why = BL_STOP_BREAKPOINT;
        if (!eyelet_met_old_mark(t)) continue;
        status = eyelet_go(t, NULL);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

void eyelet_add_registers(bl_target *f)
{
    f->registers = list_eyelet_registers;
    f->set_register = set_eyelet_register;
    f->wait = wait_for_stop_frame;
    f->set_breakpoint = eyelet_set_mark;
    f->breakpoints_are_code = true;
}

void bl_eyelet_target_with_registers(bl_eyelet_target *t, const bl_sheet *sheet)
{
    t->sheet = sheet;
}

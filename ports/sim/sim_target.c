/* sim_target.c - looking into the simulated board. */
#include "sim_target.h"

#include <string.h>

#include "bootlace/assert.h"
#include "bootlace/crc.h"
#include "sim_past.h"

static bool is_inside(const sim_bench *s, uint32_t address, uint64_t count)
{
    uint32_t space = sim_board_space(&s->board);
    return address <= space && count <= space - address;
}

/* A byte of memory, without a read that a device would notice. */
static uint8_t peek(const sim_bench *s, uint32_t address)
{
    if (address <= 0xFFFF) return sim_board_peek(&s->board, (uint16_t)address);
    return sim_board_peek_far(&s->board, address);
}

/* Is there a CPU that could be told anything? */
static bl_status check_cpu(const sim_bench *s)
{
    if (!s->powered) return BL_E_TIMEOUT;
    return s->stands || s->monitor.kind != NULL ? BL_E_UNSUPPORTED : BL_OK;
}

/* Whatever is changed from outside cannot be worked out again from before. */
static void note_change(sim_bench *s)
{
    if (s->past != NULL) sim_past_changed(s->past);
}

/* ---- memory ---- */

static bl_status read_memory(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    const sim_bench *s = context;
    if (!s->powered) return BL_E_TIMEOUT;
    if (!is_inside(s, address, count)) return BL_E_RANGE;
    /* What a device would say changes it, and is not made up. */
    for (size_t i = 0; i < count; i++)
        if (address + i <= 0xFFFF && sim_board_has_device(&s->board, (uint16_t)(address + i)))
            return BL_E_UNSUPPORTED;
    for (size_t i = 0; i < count; i++)
        bytes[i] = peek(s, address + (uint32_t)i);
    return BL_OK;
}

/* False: it is not there afterwards. */
static bool poke(sim_bench *s, uint32_t address, uint8_t value)
{
    if (address <= 0xFFFF) return sim_board_poke(&s->board, (uint16_t)address, value);
    sim_board_store_far(&s->board, address, value);
    return sim_board_peek_far(&s->board, address) == value;
}

static bl_status write_memory(void *context, uint32_t address, const uint8_t *bytes, size_t count)
{
    sim_bench *s = context;
    if (!s->powered) return BL_E_TIMEOUT;
    if (!is_inside(s, address, count)) return BL_E_RANGE;
    note_change(s);
    for (size_t i = 0; i < count; i++)
        if (!poke(s, address + (uint32_t)i, bytes[i])) return BL_E_DIFFERS;
    return BL_OK;
}

static bl_status sum_memory(void *context, bl_range range, uint32_t *crc)
{
    const sim_bench *s = context;
    if (!s->powered) return BL_E_TIMEOUT;
    if (!is_inside(s, range.first, range.count)) return BL_E_RANGE;
    *crc = 0;
    for (uint64_t i = 0; i < range.count; i++) {
        uint8_t byte = peek(s, range.first + (uint32_t)i);
        *crc = bl_crc32(*crc, &byte, 1);
    }
    return BL_OK;
}

/* ---- registers ---- */

/* A second set of registers, under the names that its maker gives it; what is not of interest to
 * people is not shown. */
const char *sim_target_register_name(const sim_register *r)
{
    static const char *const other[][2] = {
        {"a_other", "a'"}, {"f_other", "f'"}, {"b_other", "b'"}, {"c_other", "c'"},
        {"d_other", "d'"}, {"e_other", "e'"}, {"h_other", "h'"}, {"l_other", "l'"},
    };
    for (size_t i = 0; i < BL_COUNT(other); i++)
        if (strcmp(other[i][0], r->name) == 0) return other[i][1];
    return r->shown ? r->name : NULL;
}

/* Four bytes are kept for 24 bits: no CPU here has more. */
unsigned sim_target_register_bits(const sim_register *r)
{
    return r->flag ? 1 : r->bytes == 4 ? 24 : r->bytes * 8u;
}

/* The eZ80 has a stack pointer for each mode; the one that counts now, NULL for other CPUs. */
static const char *stack_now(const sim_bench *s)
{
    if (s->board.kind != &sim_ez80_kind) return NULL;
    return s->board.ez80.adl ? "spl" : "sps";
}

static bl_status list_registers(void *context, bl_register *list, size_t capacity, size_t *count)
{
    const sim_bench *s = context;
    const sim_cpu_kind *kind = s->board.kind;
    bl_status status = check_cpu(s);
    if (status != BL_OK) return status;
    *count = 0;
    for (size_t i = 0; i < kind->register_count; i++) {
        const sim_register *r = &kind->registers[i];
        const char *name = sim_target_register_name(r);
        if (name == NULL) continue;
        if (*count < capacity)
            list[*count] = (bl_register){name, sim_target_register_bits(r),
                                         (uint32_t)sim_register_get(&s->board.cpu, r)};
        ++*count;
        if (stack_now(s) == NULL || strcmp(name, stack_now(s)) != 0) continue;
        if (*count < capacity) {
            list[*count] = list[*count - 1];
            list[*count].name = "sp";
        }
        ++*count;
    }
    return BL_OK;
}

/* The eZ80's program counter has 24 bits in its 24-bit mode alone. */
static bool mode_allows(const sim_board *b, const char *name, uint32_t value)
{
    if (b->kind != &sim_ez80_kind) return true;
    if (strcmp(name, "pc") == 0) return b->ez80.adl || value <= 0xFFFF;
    return strcmp(name, "adl") != 0 || value != 0 || b->ez80.far_pc <= 0xFFFF;
}

static bl_status set_register(void *context, const char *name, uint32_t value)
{
    sim_bench *s = context;
    const sim_cpu_kind *kind = s->board.kind;
    bl_status status = check_cpu(s);
    if (status == BL_OK && strcmp(name, "sp") == 0 && stack_now(s) != NULL) name = stack_now(s);
    for (size_t i = 0; i < kind->register_count && status == BL_OK; i++) {
        const sim_register *r = &kind->registers[i];
        const char *own = sim_target_register_name(r);
        if (own == NULL || strcmp(own, name) != 0) continue;
        if (value >> sim_target_register_bits(r) != 0) return BL_E_RANGE;
        if (!mode_allows(&s->board, name, value)) return BL_E_RANGE;
        sim_register_set(&s->board.cpu, r, value);
        note_change(s);
        return BL_OK;
    }
    return status != BL_OK ? status : BL_E_NOT_FOUND;
}

/* ---- running ---- */

static bl_status step_cpu(void *context)
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status == BL_OK) sim_bench_step(s);
    return status;
}

static bl_status let_cpu_go(void *context, const uint32_t *entry)
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status != BL_OK) return status;
    if (entry != NULL && !is_inside(s, *entry, 1)) return BL_E_RANGE;
    if (entry != NULL) {
        sim_board_begin_at(&s->board, *entry);
        s->board.cpu.rest = false;
        if (s->board.kind->special_stops) s->board.cpu.special = false;
    }
    if (entry != NULL) note_change(s);
    s->stop = BL_STOP_NOT;
    return BL_OK;
}

static bl_status wait_for_stop(void *context, uint32_t microseconds, bl_stop *why)
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status != BL_OK) return status;
    *why =
        s->stop != BL_STOP_NOT ? s->stop : sim_bench_run(s, s->now + (uint64_t)microseconds * 1000);
    return BL_OK;
}

static bl_status stop_cpu(void *context)
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status == BL_OK && s->stop == BL_STOP_NOT) s->stop = BL_STOP_ASKED;
    return status;
}

static bl_status set_breakpoint(void *context, uint32_t address, bool on)
{
    sim_bench *s = context;
    if (!is_inside(s, address, 1)) return BL_E_RANGE;
    return sim_board_break(&s->board, address, on) ? BL_OK : BL_E_MEMORY;
}

static bl_status pull_reset(void *context)
{
    sim_bench *s = context;
    if (!s->powered) return BL_E_TIMEOUT;
    note_change(s);
    sim_bench_reset(s);
    return BL_OK;
}

/* ---- watchpoints and the past ---- */

static bl_status set_watchpoint(void *context, bl_range range, bool reads, bool writes)
{
    sim_bench *s = context;
    if (range.count == 0 || !is_inside(s, range.first, range.count)) return BL_E_RANGE;
    return sim_board_watch(&s->board, range, reads, writes) ? BL_OK : BL_E_MEMORY;
}

static bl_status tell_last_access(void *context, bl_access *access)
{
    const sim_bench *s = context;
    if (s->board.access_count == 0) return BL_E_NOT_FOUND;
    *access = s->board.accesses[0];
    return BL_OK;
}

static bl_status tell_cycles(void *context, uint64_t *cycles)
{
    const sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status == BL_OK) *cycles = s->board.cpu.cycles;
    return status;
}

static bl_status run_back(void *context, bl_back what, uint32_t number)
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status != BL_OK) return status;
    return s->past != NULL ? sim_past_back(s->past, what, number) : BL_E_UNSUPPORTED;
}

static bl_status tell_history(void *context, uint32_t steps, void *visitor,
                              void (*visit)(void *visitor, const bl_past_step *step))
{
    sim_bench *s = context;
    bl_status status = check_cpu(s);
    if (status != BL_OK) return status;
    return s->past != NULL ? sim_past_history(s->past, steps, visitor, visit) : BL_E_UNSUPPORTED;
}

bl_target sim_target(sim_bench *bench)
{
    return (bl_target){
        .context = bench,
        .read = read_memory,
        .write = write_memory,
        .sum = sum_memory,
        .registers = list_registers,
        .set_register = set_register,
        .step = step_cpu,
        .go = let_cpu_go,
        .wait = wait_for_stop,
        .stop = stop_cpu,
        .set_breakpoint = set_breakpoint,
        .set_watchpoint = set_watchpoint,
        .last_access = tell_last_access,
        .cycles = tell_cycles,
        .back = run_back,
        .history = tell_history,
        .reset = pull_reset,
    };
}

void sim_target_end(sim_bench *bench)
{
    while (bench->board.watchpoint_count > 0)
        sim_board_watch(&bench->board, bench->board.watchpoints[0].range, false, false);
    memset(&bench->board.breakpoints, 0, sizeof bench->board.breakpoints);
    bench->stop = BL_STOP_NOT;
}

/* eyelet_marks.c - breakpoints through Eyelet: instructions in RAM, and what they stand for. */
#include "base/core.h"
#include "eyelet_target.h"

/* Changes that are so near each other travel in one frame. */
enum { NEAR = 12 };

static bl_eyelet_mark *mark_at(bl_eyelet_target *t, uint32_t address)
{
    for (size_t i = 0; i < t->mark_count; i++)
        if (t->marks[i].address == address) return &t->marks[i];
    return NULL;
}

static bool is_cached(const bl_eyelet_target *t, uint32_t address)
{
    return address >= t->cache_first && address - t->cache_first < t->cache_count;
}

bool eyelet_remembers(const bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count)
{
    if (t->state_count < 2 || count == 0 || count > t->cache_count || !is_cached(t, address) ||
        !is_cached(t, address + (uint32_t)(count - 1)))
        return false;
    memcpy(bytes, t->cache + (address - t->cache_first), count);
    return true;
}

void eyelet_hide_marks(bl_eyelet_target *t, uint32_t address, uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < t->mark_count; i++) {
        bl_eyelet_mark *m = &t->marks[i];
        if (!m->placed || m->address < address || m->address - address >= count) continue;
        uint8_t *byte = &bytes[m->address - address];
        /* The program has written there, or memory was without power: the mark is gone. */
        if (*byte != t->state[0]) m->placed = false;
        if (m->placed) *byte = m->original;
    }
    t->cache_first = address;
    t->cache_count = count < BL_EYELET_CACHE ? count : BL_EYELET_CACHE;
    memcpy(t->cache, bytes, t->cache_count);
}

/* One that is wanted there is put into the new bytes when the program goes. */
void eyelet_forget_marks(bl_eyelet_target *t, uint32_t address, size_t count)
{
    t->cache_count = 0;
    for (size_t i = 0; i < t->mark_count; i++)
        if (t->marks[i].address >= address && t->marks[i].address - address < count)
            t->marks[i].placed = false;
}

/* What is there without a breakpoint: known from the last look, or asked for. */
static bl_status original_at(bl_eyelet_target *t, uint32_t address, uint8_t *byte)
{
    if (!is_cached(t, address)) return eyelet_read(t, address, byte, 1);
    *byte = t->cache[address - t->cache_first];
    return BL_OK;
}

static void sort_marks(bl_eyelet_target *t)
{
    for (size_t i = 1; i < t->mark_count; i++)
        for (size_t k = i; k > 0 && t->marks[k].address < t->marks[k - 1].address; k--) {
            bl_eyelet_mark m = t->marks[k];
            t->marks[k] = t->marks[k - 1];
            t->marks[k - 1] = m;
        }
}

/* The bytes from the first of some marks to the last: between them what was read last. Returns how
 * many marks one frame takes. */
static size_t span_of(const bl_eyelet_target *t, size_t first, uint8_t byte, uint8_t *bytes,
                      size_t *count)
{
    const bl_eyelet_mark *m = &t->marks[first];
    size_t n = 0;
    *count = 0;
    while (first + n < t->mark_count) {
        const bl_eyelet_mark *next = &t->marks[first + n];
        uint32_t at = next->address - m->address;
        if (at >= NEAR) break;
        bool known = true;
        for (uint32_t k = (uint32_t)*count; k < at && known; k++) {
            uint32_t address = m->address + k;
            known = is_cached(t, address);
            if (known) bytes[k] = t->cache[address - t->cache_first];
        }
        if (!known) break;
        bytes[at] = next->wanted ? byte : next->original;
        *count = (size_t)at + 1;
        n++;
    }
    return n;
}

/* One that is not wanted any more may stay until it is met, which costs nothing mostly; but not
 * where the program goes on, and not when nobody will listen. */
static bool needs_change(const bl_eyelet_target *t, const bl_eyelet_mark *m, bool all)
{
    if (m->wanted == m->placed) return false;
    uint32_t pc;
    bool here = eyelet_program_counter(t, &pc) && m->address == pc;
    return m->wanted || all || here;
}

/* Those that are neither wanted nor in memory are forgotten. */
static void drop_marks(bl_eyelet_target *t)
{
    size_t kept = 0;
    for (size_t i = 0; i < t->mark_count; i++)
        if (t->marks[i].wanted || t->marks[i].placed) t->marks[kept++] = t->marks[i];
    t->mark_count = kept;
}

/* all: those that are not wanted are taken away wherever they are. */
static bl_status change_marks(bl_eyelet_target *t, bool all)
{
    uint8_t byte = 0, bytes[NEAR];
    bl_status status = BL_OK;
    if (t->mark_count > 0) status = eyelet_breakpoint_byte(t, &byte);
    sort_marks(t);
    for (size_t i = 0, n; i < t->mark_count && status == BL_OK; i += n) {
        size_t count;
        n = 1;
        if (!needs_change(t, &t->marks[i], all)) continue;
        n = span_of(t, i, byte, bytes, &count);
        BL_ASSERT(n > 0);
        status = eyelet_write(t, t->marks[i].address, bytes, count);
        for (size_t k = i; k < i + n && status == BL_OK; k++)
            t->marks[k].placed = t->marks[k].wanted;
    }
    if (status == BL_OK) drop_marks(t);
    return status;
}

bl_status eyelet_place_marks(bl_eyelet_target *t)
{
    bool any = false;
    for (size_t i = 0; i < t->mark_count; i++)
        any |= t->marks[i].wanted;
    return change_marks(t, !any || t->mark_count > BL_EYELET_MARKS * 3 / 4);
}

/* Those that are wanted stay so, and are put back when the program goes. */
bl_status bl_eyelet_target_clear(bl_eyelet_target *t)
{
    bl_status status = BL_OK;
    if (t->runs && t->mark_count > 0) return BL_E_UNSUPPORTED;
    for (size_t i = 0; i < t->mark_count && status == BL_OK; i++) {
        if (!t->marks[i].placed) continue;
        status = eyelet_write(t, t->marks[i].address, &t->marks[i].original, 1);
        if (status == BL_OK) t->marks[i].placed = false;
    }
    if (status == BL_OK) drop_marks(t);
    /* Whoever comes next may start another program: nothing is known of registers and memory. */
    t->state_count = t->cache_count = 0;
    t->runs = false;
    return status;
}

bool eyelet_met_old_mark(const bl_eyelet_target *t)
{
    uint32_t pc;
    if (!eyelet_program_counter(t, &pc)) return false;
    for (size_t i = 0; i < t->mark_count; i++)
        if (t->marks[i].address == pc) return t->marks[i].placed && !t->marks[i].wanted;
    return false;
}

/* What is there is kept now, as long as it is known; it is put there when the program goes. */
bl_status eyelet_set_mark(void *context, uint32_t address, bool on)
{
    bl_eyelet_target *t = context;
    bl_eyelet_mark *m = mark_at(t, address);
    if (address > 0xFFFF) return BL_E_RANGE;
    if (m == NULL && !on) return BL_OK;
    if (m == NULL) {
        uint8_t byte, original;
        if (t->mark_count == BL_EYELET_MARKS) return BL_E_MEMORY;
        bl_status status = eyelet_breakpoint_byte(t, &byte);
        if (status == BL_OK) status = original_at(t, address, &original);
        if (status != BL_OK) return status;
        m = &t->marks[t->mark_count++];
        *m = (bl_eyelet_mark){.address = address, .original = original};
    }
    m->wanted = on;
    return BL_OK;
}

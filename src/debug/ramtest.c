/* ramtest.c - RAM that does not keep what it should: which wire it probably is. */
#include "bootlace/ramtest.h"

#include "base/core.h"

enum { PATTERNS = 10, ROW = 64 };

/* BL_E_DIFFERS is what is looked for here, not a failure. */
static bl_status store(const bl_target *t, uint32_t address, uint8_t value)
{
    bl_status status = t->write(t->context, address, &value, 1);
    return status == BL_E_DIFFERS ? BL_OK : status;
}

static bl_status load_byte(const bl_target *t, uint32_t address, uint8_t *value)
{
    return t->read(t->context, address, value, 1);
}

/* Lines that follow one another when each is driven alone. */
static uint8_t joined_lines(const uint8_t *found)
{
    uint8_t mask = 0;
    for (unsigned i = 0; i < 8; i++)
        if (found[2 + i] != 1u << i && (found[2 + i] >> i & 1) != 0) mask |= found[2 + i];
    return mask;
}

static const uint8_t patterns[PATTERNS] = {0x00, 0xFF, 1, 2, 4, 8, 16, 32, 64, 128};

/* Writes and reads each pattern at an address; in between its opposite beside it, so that a bus
 * that merely holds its charge is not taken for RAM. Unless both are the same byte. */
static bl_status try_patterns(const bl_target *t, uint32_t address, uint32_t beside, uint8_t *found)
{
    for (size_t i = 0; i < PATTERNS; i++) {
        bl_status status = store(t, address, patterns[i]);
        if (status == BL_OK && beside != address) status = store(t, beside, (uint8_t)~patterns[i]);
        if (status == BL_OK) status = load_byte(t, address, &found[i]);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

static bool all_inverse(const uint8_t *found)
{
    for (size_t i = 0; i < PATTERNS; i++)
        if ((found[i] ^ patterns[i]) != 0xFF) return false;
    return true;
}

/* All 0, all 1, and each line alone, at one address. When what is beside it is the same byte, an
 * address line is missing, and this says nothing. */
static bl_status test_data_lines(const bl_target *t, bl_range range, bl_ram_result *r)
{
    uint8_t found[PATTERNS], ones = 0, zeros = 0;
    uint32_t beside = range.first + (range.count > 1 ? 1u : 0u);
    unsigned kept = 0;
    bl_status status = try_patterns(t, range.first, beside, found);
    if (status == BL_OK && all_inverse(found))
        status = try_patterns(t, range.first, range.first, found);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < PATTERNS; i++) {
        ones |= found[i];
        zeros |= (uint8_t)~found[i];
        kept += found[i] == patterns[i];
    }
    if (kept == PATTERNS) return BL_OK;
    uint8_t never_one = (uint8_t)~ones, never_zero = (uint8_t)~zeros, joined = joined_lines(found);
    *r = (bl_ram_result){.address = range.first, .expected = 0xFF, .found = found[1]};
    r->fault = (ones & zeros) == 0 ? BL_RAM_NONE /* no line takes both values */
               : never_one != 0    ? BL_RAM_STUCK_LOW
               : never_zero != 0   ? BL_RAM_STUCK_HIGH
               : joined != 0       ? BL_RAM_JOINED
                                   : BL_RAM_CELL;
    r->mask = r->fault == BL_RAM_STUCK_LOW    ? never_one
              : r->fault == BL_RAM_STUCK_HIGH ? never_zero
              : r->fault == BL_RAM_JOINED     ? joined
                                              : 0;
    return BL_OK;
}

/* Two addresses that differ in one line must be two bytes. */
static bl_status test_address_lines(const bl_target *t, bl_range range, bl_ram_result *r)
{
    for (unsigned line = 0; line < 32 && (uint64_t)1 << line < range.count; line++) {
        uint32_t low = range.first, high = low ^ (uint32_t)1 << line;
        uint8_t value = 0;
        if (high < range.first || high - range.first >= range.count) {
            /* The other way round: from the first address that has this line low. */
            low = (range.first | (((uint32_t)1 << line) - 1)) + 1;
            high = low ^ (uint32_t)1 << line;
            if (low - range.first >= range.count || high < range.first ||
                high - range.first >= range.count)
                continue;
        }
        bl_status status = store(t, low, 0x55);
        if (status == BL_OK) status = store(t, high, 0xAA);
        if (status == BL_OK) status = load_byte(t, low, &value);
        if (status != BL_OK) return status;
        if (value != 0xAA) continue;
        *r = (bl_ram_result){BL_RAM_ADDRESS_LINE, 0, line, low, 0x55, value};
        return BL_OK;
    }
    return BL_OK;
}

/* Neighbours, and cells that are a power of two apart, get different values. */
static uint8_t pattern_at(uint32_t address, bool inverse)
{
    uint32_t mixed = address * 0x9E3779B1u;
    uint8_t value = (uint8_t)(mixed >> 24);
    return inverse ? (uint8_t)~value : value;
}

/* Everything is written before anything is read. */
static bl_status test_cells(const bl_target *t, bl_range range, bool inverse, void *context,
                            bl_ram_go_on go_on, bl_ram_result *r)
{
    uint8_t row[ROW];
    for (int pass = 0; pass < 2; pass++)
        for (uint64_t at = 0; at < range.count; at += ROW) {
            size_t n = range.count - at < ROW ? (size_t)(range.count - at) : ROW;
            uint32_t first = range.first + (uint32_t)at;
            uint64_t done = range.count * ((inverse ? 2u : 0u) + (unsigned)pass) + at;
            if (go_on != NULL && !go_on(context, done, range.count * 4)) return BL_E_REFUSED;
            for (size_t i = 0; i < n; i++)
                row[i] = pattern_at(first + (uint32_t)i, inverse);
            bl_status status = pass == 0 ? t->write(t->context, first, row, n)
                                         : t->read(t->context, first, row, n);
            if (status != BL_OK && status != BL_E_DIFFERS) return status;
            for (size_t i = 0; i < n && pass == 1; i++) {
                uint8_t expected = pattern_at(first + (uint32_t)i, inverse);
                if (row[i] == expected) continue;
                *r = (bl_ram_result){BL_RAM_CELL, 0, 0, first + (uint32_t)i, expected, row[i]};
                return BL_OK;
            }
        }
    return BL_OK;
}

bl_status bl_ram_test(const bl_target *t, bl_range range, void *context, bl_ram_go_on go_on,
                      bl_ram_result *r)
{
    memset(r, 0, sizeof *r);
    if (t->read == NULL || t->write == NULL) return BL_E_UNSUPPORTED;
    if (range.count == 0) return BL_E_RANGE;
    bl_status status = test_data_lines(t, range, r);
    if (status == BL_OK && r->fault == BL_RAM_GOOD) status = test_address_lines(t, range, r);
    for (int turn = 0; turn < 2 && status == BL_OK && r->fault == BL_RAM_GOOD; turn++)
        status = test_cells(t, range, turn == 1, context, go_on, r);
    return status;
}

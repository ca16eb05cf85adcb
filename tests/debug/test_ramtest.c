/* The test of RAM: each fault of a wire is told as what it is. */
#include "harness.h"

#include <string.h>

#include "bootlace/ramtest.h"

/* Memory behind wires: what is asked for is what the wires make of it. */
static struct wires {
    uint8_t cells[0x1000];
    uint8_t low, high; /* data lines that are always so */
    uint8_t joined;    /* data lines that follow one another */
    uint32_t open;     /* address lines that make no difference */
    uint32_t bad;      /* a cell that keeps nothing; UINT32_MAX: none */
    bool nothing;
    uint32_t accesses;
} wires;

static uint8_t through(uint8_t value)
{
    if ((value & wires.joined) != 0) value |= wires.joined;
    return (uint8_t)((value & ~wires.low) | wires.high);
}

static bl_status read_cells(void *context, uint32_t address, uint8_t *bytes, size_t count)
{
    (void)context;
    for (size_t i = 0; i < count; i++) {
        uint32_t at = (address + (uint32_t)i) & ~wires.open & 0xFFF;
        wires.accesses++;
        bytes[i] = wires.nothing ? 0xFF : through(at == wires.bad ? 0x5A : wires.cells[at]);
    }
    return BL_OK;
}

static bl_status write_cells(void *context, uint32_t address, const uint8_t *bytes, size_t count)
{
    (void)context;
    for (size_t i = 0; i < count; i++)
        wires.cells[(address + (uint32_t)i) & ~wires.open & 0xFFF] = through(bytes[i]);
    return wires.nothing ? BL_E_DIFFERS : BL_OK;
}

static bl_ram_result test_range(uint32_t first, uint32_t count)
{
    const bl_target t = {.read = read_cells, .write = write_cells};
    bl_ram_result r;
    CHECK_INT(bl_ram_test(&t, (bl_range){first, count}, NULL, NULL, &r), BL_OK);
    return r;
}

static void begin_wires(void)
{
    memset(&wires, 0, sizeof wires);
    wires.bad = UINT32_MAX;
}

TEST(good_ram_is_good)
{
    static const uint32_t ranges[][2] = {{0, 1}, {0, 0x1000}, {0x123, 0x345}, {0xFFF, 1}, {7, 2}};
    for (size_t i = 0; i < BL_COUNT(ranges); i++) {
        begin_wires();
        CHECK_INT(test_range(ranges[i][0], ranges[i][1]).fault, BL_RAM_GOOD);
        CHECK(wires.accesses >= ranges[i][1] * 2);
    }
}

TEST(each_wire_is_named)
{
    bl_ram_result r;
    for (unsigned line = 0; line < 8; line++) {
        begin_wires();
        wires.low = (uint8_t)(1u << line);
        r = test_range(0x100, 0x100);
        CHECK_INT(r.fault, BL_RAM_STUCK_LOW);
        CHECK_INT(r.mask, 1u << line);
        begin_wires();
        wires.high = (uint8_t)(1u << line);
        r = test_range(0x100, 0x100);
        CHECK_INT(r.fault, BL_RAM_STUCK_HIGH);
        CHECK_INT(r.mask, 1u << line);
    }
    for (unsigned line = 0; line < 12; line++) {
        begin_wires();
        wires.open = 1u << line;
        r = test_range(0, 0x1000);
        CHECK_INT(r.fault, BL_RAM_ADDRESS_LINE);
        CHECK_INT(r.line, line);
        r = test_range(0x0F0, 0xF00); /* does not begin at a round address */
        CHECK_INT(r.fault, BL_RAM_ADDRESS_LINE);
        CHECK_INT(r.line, line);
    }
    begin_wires();
    wires.joined = 0x18;
    r = test_range(0, 0x100);
    CHECK_INT(r.fault, BL_RAM_JOINED);
    CHECK_INT(r.mask, 0x18);
    begin_wires();
    wires.nothing = true;
    CHECK_INT(test_range(0, 0x100).fault, BL_RAM_NONE);
}

TEST(a_cell_is_found_wherever_it_is)
{
    for (unsigned turn = 0; turn < 50; turn++) {
        begin_wires();
        wires.bad = 1 + test_below(0xFFE);
        bl_ram_result r = test_range(0, 0x1000);
        CHECK(r.fault == BL_RAM_CELL || r.fault == BL_RAM_ADDRESS_LINE || r.fault == BL_RAM_NONE);
        if (r.fault == BL_RAM_CELL) CHECK_INT(r.address, wires.bad);
    }
}

/* Every part of the catalogue, written as its data sheet wants it. */
#include "chip_support.h"

#include <string.h>

static const bl_part *named(const char *name)
{
    const bl_part *p = bl_part_named((bl_text){name, strlen(name)});
    if (p == NULL) test_fail(__FILE__, __LINE__, "no part %s", name);
    return p;
}

static void scatter(uint32_t first, uint32_t count)
{
    for (uint32_t i = 0; i < count; i++)
        wanted[first + i] = (uint8_t)test_random();
}

TEST(the_catalogue_is_sound)
{
    CHECK(bl_part_named((bl_text){"27513", 5}) == NULL);
    CHECK(bl_part_named((bl_text){"28c64", 5}) == named("28C64"));
    CHECK(bl_part_at(bl_parts()) == NULL);
    for (size_t i = 0; i < bl_parts(); i++) {
        const bl_part *p = bl_part_at(i);
        CHECK(bl_part_fault(p) == NULL);
        CHECK(p->pins == (p->size <= 4096 ? 24 : p->size <= 65536 ? 28 : 32));
        CHECK(p->access_ns[0] > 0 && p->access_ns[BL_GRADES - 1] == 0);
        for (size_t k = 1; k < BL_GRADES && p->access_ns[k] != 0; k++)
            CHECK(p->access_ns[k] > p->access_ns[k - 1]);
        CHECK(bl_algorithm_text(p->algorithm) != NULL);
    }
    CHECK(bl_algorithm_text(BL_ALGORITHMS) == NULL);
}

TEST(parts_that_cannot_be)
{
    bl_part p = *named("27256");
    p.size = 30000;
    CHECK_CONTAINS(bl_part_fault(&p), "power of two");
    p = *named("27256"), p.pulses = 0;
    CHECK_CONTAINS(bl_part_fault(&p), "pulses");
    p = *named("27256"), p.vcc = 90;
    CHECK_CONTAINS(bl_part_fault(&p), "supply");
    p = *named("27256"), p.cycle_us = 60000, p.over = 200;
    CHECK_CONTAINS(bl_part_fault(&p), "shorter than 4 seconds");
    p = *named("39F010"), p.sector = 64;
    CHECK_CONTAINS(bl_part_fault(&p), "sector");
    p = *named("28C64"), p.page = 256;
    CHECK_CONTAINS(bl_part_fault(&p), "page");
    p = *named("28C64"), p.cycle_us = 0;
    CHECK_CONTAINS(bl_part_fault(&p), "write cycle");
    p = *named("28C64"), p.algorithm = 9;
    CHECK_CONTAINS(bl_part_fault(&p), "method");
}

TEST(every_part_is_written_and_then_has_nothing_to_do)
{
    for (size_t i = 0; i < bl_parts(); i++) {
        const bl_part *p = bl_part_at(i);
        bed_blank(p);
        bench.socket.vpp_max = 250;
        scatter(0, 70);
        scatter(p->size / 2 - 5, 300);
        scatter(p->size - 20, 20);
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
        CHECK_BYTES(cells, p->size, wanted, p->size);
        CHECK_INT(job.result.bytes_proved, p->size);
        CHECK(!bench.parts[0].destroyed);
        uint32_t cycles = bench.parts[0].cycles;
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
        CHECK_INT(job.result.blocks_written, 0);
        CHECK_INT(bench.parts[0].cycles, cycles);
    }
}

TEST(bits_of_an_eprom_only_fall)
{
    const bl_part *p = named("27256");
    bed_blank(p);
    cells[0x1234] = 0x0F;
    cells[0x2000] = 0xF7;
    wanted[0x1234] = 0x0E; /* can be written over */
    wanted[0x2000] = 0x08; /* cannot */
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_NOT_BLANK);
    CHECK_INT(job.result.differences, 1);
    CHECK_INT(job.result.difference[0].address, 0x2000);
    CHECK_INT(job.result.difference[0].found, 0xF7);
    CHECK_INT(bench.parts[0].cycles, 0); /* not one pulse */
    CHECK_INT(cells[0x1234], 0x0F);
    wanted[0x2000] = 0xF0;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_BYTES(cells, p->size, wanted, p->size);
    CHECK(sim_part_ultraviolet(&bench.parts[0]));
    CHECK_INT(cells[0x1234], 0xFF);
}

TEST(an_eprom_is_proved_at_both_supply_corners)
{
    bl_part p = *named("2764");
    bl_transfer_options o = {.goal = BL_GOAL_WRITE, .corners = true};
    bed_blank(&p);
    scatter(0x100, 200);
    CHECK_INT(bed_run(o), BL_OK);
    CHECK(job.options.corners && !job.result.no_corners);
    CHECK_INT(job.result.supply, 55);
    CHECK_INT(bench.parts[0].vcc, 50); /* and left as it should be */
    CHECK_INT(bench.parts[0].vpp, 0);

    /* A programmer that leaves the last pulse out is found at the high corner, not at 5 volts. */
    bl_part careless = p;
    careless.over = 0;
    bed_blank(&p);
    scatter(0x100, 200);
    chip.part = &careless;
    o.corners = false;
    CHECK_INT(bed_run(o), BL_OK);
    o.corners = true;
    o.goal = BL_GOAL_COMPARE;
    CHECK_INT(bed_run(o), BL_E_DIFFERS);
    CHECK_INT(job.result.supply, 55);
    CHECK_INT(job.result.difference[0].address, 0x100);
    CHECK_INT(job.result.difference[0].found, 0xFF);
}

TEST(a_programmer_without_supplies)
{
    bl_transfer_options o = {.goal = BL_GOAL_WRITE, .corners = true};
    bed_blank(named("28C64"));
    scatter(0, 100);
    bench.socket.fixed_supply = true;
    CHECK_INT(bed_run(o), BL_OK);
    CHECK(job.result.no_corners);
    CHECK_INT(job.result.bytes_proved, 8192);
    bed_blank(named("2764"));
    scatter(0, 100);
    bench.socket.fixed_supply = true;
    CHECK_INT(bed_run(o), BL_E_REFUSED);
    CHECK_INT(job.result.refusal, BL_ANSWER_NO_SUPPLY);
    bed_blank(named("2732")); /* 25 volts: more than most programmers make */
    scatter(0, 100);
    CHECK_INT(bed_run(o), BL_E_REFUSED);
    CHECK_INT(job.result.refusal, BL_ANSWER_NO_SUPPLY);
    CHECK_INT(bench.parts[0].cycles, 0);
}

TEST(too_high_a_voltage_ends_a_part_and_is_no_success)
{
    bl_part wrong = *named("27256");
    wrong.vpp = 210;
    bed_blank(named("27256"));
    scatter(0, 100);
    chip.part = &wrong;
    CHECK(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE) != BL_OK);
    CHECK(bench.parts[0].destroyed);
}

TEST(a_tired_eprom_takes_more_pulses_or_fails)
{
    bed_blank(named("27256"));
    scatter(0, 100);
    bench.parts[0].faults.tired = 8;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_BYTES(cells, 32768, wanted, 32768);
    bed_blank(named("27256"));
    scatter(0, 100);
    bench.parts[0].faults.tired = 30;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_E_DIFFERS);
}

TEST(only_the_sectors_of_a_flash_that_must_are_erased)
{
    const bl_part *p = named("39F010");
    bed_blank(p);
    scatter(0, 9000);
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_INT(job.result.sectors_erased, 0);
    wanted[20] &= 0xF0; /* falls */
    wanted[4096 + 7] = (uint8_t)~cells[4096 + 7];
    wanted[60000] = 0x55; /* was blank */
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_INT(job.result.sectors_erased, 1);
    CHECK_INT(job.result.blocks_written, 4096 / 128 + 2);
    CHECK_BYTES(cells, p->size, wanted, p->size);
    memset(wanted, 0xFF, p->size); /* blank again: sectors erased, nothing written */
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    CHECK_INT(job.result.blocks_written, 0);
    CHECK_INT(job.result.sectors_erased, 4);
    CHECK_BYTES(cells, p->size, wanted, p->size);
}

/* ---- time ---- */

TEST(line_and_chip_work_at_the_same_time)
{
    const bl_part *p = named("28C256");
    const double data_sheet = 512 * 0.010, line = 32768 * 10 / 115200.0;
    double max = 1.05 * (data_sheet > line ? data_sheet : line);
    for (uint32_t cycle = 6000; cycle <= 10000; cycle += 4000) { /* a usual and the slowest part */
        bed_blank(p);
        bench.parts[0].faults.cycle_us = cycle;
        scatter(0, p->size);
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
        CHECK_INT(job.result.blocks_written, 512);
        if (bed_seconds() > max) test_fail(__FILE__, __LINE__, "%.3f s", bed_seconds());
        scatter(0, p->size); /* and over an older program */
        CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
        if (bed_seconds() > max) test_fail(__FILE__, __LINE__, "%.3f s", bed_seconds());
    }
}

TEST(one_changed_byte_costs_one_page_cycle_and_finding_it)
{
    const bl_part *p = named("28C256");
    bed_blank(p);
    scatter(0, p->size);
    memcpy(cells, wanted, p->size);
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    double looking = bed_seconds(); /* includes proving */
    wanted[0x5A5A] ^= 1;
    CHECK_INT(bed_burn(BL_GOAL_WRITE, BL_PROTECT_LEAVE), BL_OK);
    double bytes_of_finding = (64 * 4 + 7 + 64 + 16 + 30) * 10 / 115200.0;
    CHECK_INT(job.result.blocks_written, 1);
    CHECK_INT(bench.parts[0].cycles, 1);
    if (bed_seconds() > looking + bytes_of_finding + 0.010)
        test_fail(__FILE__, __LINE__, "%.4f s, of which %.4f s looking", bed_seconds(), looking);
}

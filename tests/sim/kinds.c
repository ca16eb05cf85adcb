/* The interface that all simulated CPUs share, and the board as it uses it. */
#include <string.h>

#include "harness.h"
#include "sim/board.h"

TEST(every_simulated_cpu_has_a_sheet)
{
    unsigned count = 0;
    for (; sim_cpu_name(count) != NULL; count++) {
        const char *name = sim_cpu_name(count);
        bl_sheet *sheet = NULL;
        CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, strlen(name)}, &test_sink, &sheet),
                  BL_OK);
        bl_sheet_close(sheet);
        CHECK(sim_cpu_kind_for(name, strlen(name)) != NULL);
        CHECK(sim_cpu_kind_for(name, strlen(name) - 1) != sim_cpu_kind_for(name, strlen(name)) ||
              strchr(name, '+') != NULL);
    }
    CHECK(count >= 10);
    CHECK(sim_cpu_kind_for("Z80", 3) == &sim_z80_kind); /* in either case */
    CHECK(sim_cpu_kind_for("gannet", 6) == NULL);
    CHECK(sim_cpu_kind_for("", 0) == NULL);
}

TEST(registers_by_name_keep_what_is_put_there)
{
    static sim_board b;
    static const bl_area ram = {"ram", {0, 0x10000}, BL_AREA_RAM, 0};
    for (unsigned k = 0; sim_cpu_name(k) != NULL; k++) {
        const sim_cpu_kind *kind = sim_cpu_kind_for(sim_cpu_name(k), strlen(sim_cpu_name(k)));
        sim_chance chance = {7};
        sim_board_begin(&b, kind, 1000000, &ram, 1, NULL, NULL, 0);
        sim_board_power_on(&b, &chance, 5000000);
        CHECK(b.cpu.cycles >= 5000 && b.cpu.cycles < 5020); /* 5 ms have passed, and the reset */
        for (size_t i = 0; i < kind->register_count; i++) {
            const sim_register *r = &kind->registers[i];
            sim_register_set(&b.cpu, r, 1);
            CHECK_INT(sim_register_get(&b.cpu, r), 1);
            sim_register_set(&b.cpu, r, 0);
            CHECK_INT(sim_register_get(&b.cpu, r), 0);
            for (size_t j = 0; j < i; j++)
                CHECK(strcmp(kind->registers[j].name, r->name) != 0);
        }
        /* A step takes time, and running takes at least what was asked for. */
        uint64_t before = b.cpu.cycles;
        kind->step(&b.cpu);
        CHECK(b.cpu.cycles > before);
        sim_board_run(&b, 6000000);
        CHECK(b.cpu.cycles >= 6000 && b.cpu.cycles < 6040);
    }
}

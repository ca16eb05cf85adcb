/* eyelet.c - clock cycles of its loops. tests/host/test_eyelet.c measures them. */
#include "eyelet.h"

#include <string.h>

uint32_t eyelet_sum_ns(const bench *b)
{
    static const struct {
        const char *cpu;
        uint32_t cycles;
    } table[] = {{"65c02", 480}, {"z80", 1000}, {"8080", 1000}, {"8085", 1000}, {"6809", 1000}};
    bl_text cpu = bl_sheet_name(b->sheet);
    uint64_t cycles = 1000;
    for (size_t i = 0; i < sizeof table / sizeof table[0]; i++)
        if (cpu.length == strlen(table[i].cpu) && memcmp(cpu.at, table[i].cpu, cpu.length) == 0)
            cycles = table[i].cycles;
    return (uint32_t)(cycles * 1000000000u / b->clock);
}

/* fuzz_places.c - any text as an address or a range, with a bench and a program at hand. */
#include "fuzz_host.h"

#include <glib.h>

#include "project/places.h"
#include "simulation/simulation.h"

static const bench *a_bench(const char *name, bench **b)
{
    char path[300];
    if (*b != NULL) return *b;
    snprintf(path, sizeof path, "%s/examples/%s/bench.yaml", BOOTLACE_SOURCE, name);
    if (bench_open(path, &simulation_hardware, NULL, b) != BL_OK) abort();
    return *b;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static bench *bytes, *words;
    static const bl_disasm_name names[] = {{{"light", 5}, 0x300}, {{"_far", 4}, 0xFFFFFFFF}};
    char text[200], *why;
    if (size < 1 || size >= sizeof text) return 0;
    memcpy(text, data + 1, size - 1);
    text[size - 1] = '\0';
    places p = {.b = (data[0] & 1) != 0 ? a_bench("skerry-65", &bytes) : a_bench("cleat", &words),
                .names = names,
                .name_count = 2,
                .count = (places_count)((data[0] >> 1) % 3),
                .machine_radix = (data[0] & 8) != 0};
    uint32_t address = 0;
    bl_range range = {0, 0};
    bool good = places_address(&p, text, &address, &why);
    if (!good && why == NULL) abort();
    g_free(why);
    good = places_range(&p, text, &range, &why);
    if (!good && why == NULL) abort();
    if (good && (range.count == 0 || range.first + range.count > (uint64_t)UINT32_MAX + 1)) abort();
    g_free(why);
    places_eaten(text);
    places_names(text);
    return 0;
}

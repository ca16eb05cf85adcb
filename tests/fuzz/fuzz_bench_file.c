/* fuzz_bench_file.c - any bytes as a bench file; of one that is accepted the chips are planned. */
#include "fuzz_host.h"

#include "figure/strip.h"
#include "project/project.h"
#include "simulation/simulation.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const uint8_t some[] = {1, 2, 3, 4, 5, 6, 7, 8};
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    bench *b = NULL;
    fuzz_folder();
    fuzz_write("bench.yaml", data, size);
    if (bench_open("bench.yaml", &simulation_hardware, &sink, &b) != BL_OK) return 0;
    bl_image *image;
    strip_mark marks[64];
    if (bl_image_open(&fuzz_memory, &image) != BL_OK) abort();
    for (size_t i = 0; i < b->area_count; i++) {
        bl_range area = bench_bytes(b, b->areas[i].range);
        bl_image_put(image, area.first, some, area.count < sizeof some ? area.count : sizeof some,
                     (bl_origin){0, 0});
        strip_of_range(b, area, image, 64, marks);
    }
    project_check_chips(b, image, &sink);
    project_check_ram(b, image, &sink);
    for (size_t i = 0; i < b->chip_count; i++) {
        strip_of_chip_at_cpu(b, &b->chips[i], image, 64, marks);
        strip_of_chip(&b->chips[i], image, 64, marks);
    }
    bl_image_close(image);
    bench_close(b);
    return 0;
}

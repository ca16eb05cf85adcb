#include "support.h"

#include <stdio.h>

bench *example_bench(void)
{
    static const char *const names[] = {"bench.yaml", "light.asm", "lamp.asm", "lamp-rom.asm"};
    for (size_t i = 0; i < 4; i++) {
        char path[512], text[8000];
        snprintf(path, sizeof path, "%s/examples/skerry-65/%s", test_source_folder(), names[i]);
        FILE *f = fopen(path, "rb");
        if (f == NULL) test_fail(__FILE__, __LINE__, "cannot read %s", path);
        size_t n = fread(text, 1, sizeof text, f);
        fclose(f);
        test_write_bytes(names[i], text, n);
    }
    bench *b = NULL;
    if (bench_open(test_path("bench.yaml"), &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return b;
}

#include "host_support.h"

#include <glib.h>
#include <string.h>

#include <stdio.h>

static void copy_file(const char *folder, const char *name)
{
    char path[300];
    size_t n;
    snprintf(path, sizeof path, "examples/%s/%s", folder, name);
    const char *text = test_read_source(path, &n);
    test_write_bytes(name, text, n);
}

static void change_file(const char *path, const char *const *changes)
{
    char *text;
    if (*changes == NULL) return;
    CHECK(g_file_get_contents(path, &text, NULL, NULL));
    GString *changed = g_string_new(text);
    for (; *changes != NULL; changes += 2)
        CHECK(g_string_replace(changed, changes[0], changes[1], 0) > 0);
    CHECK(g_file_set_contents(path, changed->str, -1, NULL));
    g_string_free(changed, TRUE);
    g_free(text);
}

bench *example_bench_changed(const char *folder, const char *const *changes)
{
    char *path = g_strdup_printf("%s/examples/%s", test_source_folder(), folder);
    GDir *dir = g_dir_open(path, 0, NULL);
    CHECK(dir != NULL);
    for (const char *name; (name = g_dir_read_name(dir)) != NULL;)
        if (g_str_has_suffix(name, ".asm") || g_str_has_suffix(name, ".dialogue") ||
            strcmp(name, "bench.yaml") == 0)
            copy_file(folder, name);
    g_dir_close(dir);
    g_free(path);
    change_file(test_path("bench.yaml"), changes);
    bench *b = NULL;
    if (bench_open(test_path("bench.yaml"), &simulation_hardware, &test_sink, &b) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    return b;
}

bench *example_bench_named(const char *folder)
{
    static const char *const none[] = {NULL};
    return example_bench_changed(folder, none);
}

simulation *example_board(const bench *b, project **p)
{
    uint32_t used;
    simulation *s = NULL;
    if (simulation_open(b, test_path("state"), 1, NULL, &test_sink, &s) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    if (project_build(b, PROJECT_CHIPS, NULL, &test_sink, p) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    for (size_t i = 0; i < b->chip_count && (*p)->chips != NULL; i++)
        bl_chip_contents(&b->chips[i], (*p)->chips, s->cells[i], &used);
    simulation_come_up(s);
    return s;
}

bench *example_bench(void)
{
    return example_bench_named("skerry-65");
}

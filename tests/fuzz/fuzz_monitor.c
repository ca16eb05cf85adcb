/* fuzz_monitor.c - any lines as words of the monitor, on a simulated board whose memory they
 * change.
 */
#include "fuzz_host.h"

#include <string.h>

#include "monitor/monitor.h"
#include "sim/sim_target.h"
#include "simulation/simulation.h"

static bool a_few_times(void *context)
{
    return ++*(unsigned *)context < 20;
}

static simulation *board(const bench **found)
{
    static simulation *s;
    static bench *b;
    char path[300];
    *found = b;
    if (s != NULL) return s;
    snprintf(path, sizeof path, "%s/examples/skerry-80/bench.yaml", BOOTLACE_SOURCE);
    if (bench_open(path, &simulation_hardware, NULL, &b) != BL_OK ||
        simulation_open(b, "state", 1, NULL, NULL, &s) != BL_OK)
        abort();
    simulation_power_on(s);
    *found = b;
    return s;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char text[300];
    const bench *b;
    unsigned asked = 0;
    fuzz_folder();
    if (size >= sizeof text || memchr(data, 0, size) != NULL) return 0;
    memcpy(text, data, size);
    text[size] = '\0';
    simulation *s = board(&b);
    bl_target target = sim_target(&s->sim);
    monitor *m = monitor_open(b, &target, NULL);
    GString *out = g_string_new(NULL), *said = g_string_new(NULL);
    monitor_set_watch(m, (bl_debug_watch){&asked, a_few_times});
    for (char *line = text, *next; line != NULL; line = next) {
        next = strchr(line, '\n');
        if (next != NULL) *next++ = '\0';
        asked = 0;
        said->len = 0;
        if (monitor_obey(m, line, out, said) == MONITOR_FAILED && said->len == 0) abort();
    }
    monitor_close(m);
    sim_target_end(&s->sim);
    g_string_free(out, TRUE);
    g_string_free(said, TRUE);
    return 0;
}

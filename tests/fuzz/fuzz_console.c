/* fuzz_console.c - any lines as commands of the console, at a simulated board. Files that they name
 * lie in the target's own folder. */
#include "fuzz_host.h"

#include "console/console.h"

static connection *connected(void)
{
    static connection c;
    static bench *b;
    char path[300];
    if (b != NULL) return &c;
    snprintf(path, sizeof path, "%s/examples/thrift/bench.yaml", BOOTLACE_SOURCE);
    given.port = (char[]){"sim"};
    given.state = (char[]){"state"};
    given.quiet = TRUE;
    if (bench_open(path, &simulation_hardware, NULL, &b) != BL_OK ||
        connect_board(b, &c) != EXIT_GOOD)
        abort();
    return &c;
}

/* Nothing outside of the folder, and no command that goes on for seconds. */
static bool is_harmless(const uint8_t *data, size_t size)
{
    for (size_t i = 0; i < size; i++)
        if (data[i] == '/' || data[i] == 0) return false;
    return size < 400;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char text[400];
    fuzz_folder();
    if (!is_harmless(data, size)) return 0;
    memcpy(text, data, size);
    text[size] = '\0';
    console k = {.c = connected()};
    for (char *line = text, *next; line != NULL && !k.over; line = next) {
        next = strchr(line, '\n');
        if (next != NULL) *next++ = '\0';
        console_obey(&k, line);
    }
    console_end_monitor(&k);
    console_keep(&k, NULL);
    return 0;
}

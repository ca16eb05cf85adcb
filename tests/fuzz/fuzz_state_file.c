/* fuzz_state_file.c - any bytes as the saved state of a simulated board; one that is accepted must
 * run for some milliseconds. The first byte chooses the board. */
#include "fuzz_host.h"

#include "simulation/simulation.h"

static const char *const boards[] = {"skerry-65", "skerry-80", "skerry-85", "skerry-68",
                                     "thrift",    "cleat",     "purser",    "petrel"};
enum { BOARDS = sizeof boards / sizeof boards[0] };

static bench *bench_numbered(size_t i)
{
    static bench *all[BOARDS];
    char path[300];
    if (all[i] != NULL) return all[i];
    snprintf(path, sizeof path, "%s/examples/%s/bench.yaml", BOOTLACE_SOURCE, boards[i]);
    if (bench_open(path, &simulation_hardware, NULL, &all[i]) != BL_OK) abort();
    return all[i];
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static uint8_t ram[0x10000];
    size_t sum = 0;
    bl_sink sink = {&sum, fuzz_report};
    simulation *s = NULL;
    if (size == 0) return 0;
    fuzz_folder();
    mkdir("state", 0700);
    fuzz_write("state/board.ini", data + 1, size - 1);
    if (access("state/ram.bin", F_OK) != 0) fuzz_write("state/ram.bin", ram, sizeof ram);
    if (simulation_open(bench_numbered(data[0] % BOARDS), "state", 1, NULL, &sink, &s) != BL_OK)
        return 0;
    bl_serial port = sim_line_port(&s->sim.board_line);
    size_t taken;
    uint8_t back[64];
    port.send(port.context, (const uint8_t *)"1\r0300\r7\r", 9, &taken);
    for (unsigned i = 0; i < 3; i++) {
        port.wait(port.context, 2000);
        port.receive(port.context, back, sizeof back, &taken);
    }
    simulation_close(s);
    return 0;
}

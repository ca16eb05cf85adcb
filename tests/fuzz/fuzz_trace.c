/* fuzz_trace.c - any bytes from both ends of a line, explained in a trace. The first byte chooses
 * the protocol. */
#include "fuzz_host.h"

#include "line_trace.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const trace_protocol all[] = {TRACE_RAW, TRACE_FRAMES, TRACE_XMODEM};
    fuzz_input in = {data, size};
    line_trace *t;
    uint64_t now = 0;
    fuzz_folder();
    if (line_trace_open("trace.txt", "sim", 9600, all[fuzz_byte(&in) % 3], NULL, &t) != BL_OK)
        abort();
    while (in.left > 0) {
        uint8_t how = fuzz_byte(&in);
        size_t count = how & 0x3F;
        if (count > in.left) count = in.left;
        line_trace_passed(t, (how & 0x80) != 0, in.at, count, now);
        in.at += count, in.left -= count;
        now += (how & 0x40) != 0 ? 1000000 : 100;
    }
    if (line_trace_close(t, NULL) != BL_OK) abort();
    return 0;
}

/* Line traces: every byte once, in order; frames and blocks explained. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bootlace/exchange.h"
#include "harness.h"
#include "line_trace.h"

static line_trace *open_trace(trace_protocol protocol)
{
    line_trace *t = NULL;
    CHECK_INT(line_trace_open(test_path("t.txt"), "sim", 9600, protocol, &test_sink, &t), BL_OK);
    return t;
}

static const char *close_trace(line_trace *t)
{
    size_t count;
    CHECK_INT(line_trace_close(t, &test_sink), BL_OK);
    return test_read_file("t.txt", &count);
}

static void frame(line_trace *t, bool sent, uint8_t kind, const uint8_t *payload, uint8_t count,
                  uint64_t now)
{
    bl_frame f = {.kind = kind, .sequence = 7, .length = count};
    uint8_t wire[BL_FRAME_WIRE];
    memcpy(f.payload, payload, count);
    line_trace_passed(t, sent, wire, bl_frame_encode(&f, wire), now);
}

TEST(frames_are_explained)
{
    line_trace *t = open_trace(TRACE_FRAMES);
    frame(t, true, BL_ASK_QUICK, (const uint8_t *)"\x00\x03\x00\x33\x00\x02", 6, 1000000);
    frame(t, false, BL_ASK_QUICK | BL_ANSWER, (const uint8_t *)"\x03", 1, 1012345);
    line_trace_passed(t, false, (const uint8_t *)"\x7E\x01\x02\x03\x04\x05\x7E", 7, 2000000);
    const char *text = close_trace(t);
    CHECK_CONTAINS(text, "# line trace: sim, 9600 baud\n");
    CHECK_CONTAINS(text, "    0.000000  PC    7E 08 07 06");
    CHECK_CONTAINS(text, "= asks quick, number 7 at $000300, 2 blocks of 51 bytes\n");
    CHECK_CONTAINS(text, "    0.012345  far   7E 88 07 01 03");
    CHECK_CONTAINS(text, "= answer to quick, number 7: out of range\n");
    CHECK_CONTAINS(text, "= a damaged frame\n");
}

TEST(xmodem_blocks_are_explained_and_text_is_not)
{
    uint8_t block[133] = {1, 1, 0xFE};
    line_trace *t = open_trace(TRACE_XMODEM);
    line_trace_passed(t, false, (const uint8_t *)"BC 1C\r\nsend:C", 13, 0);
    line_trace_passed(t, true, block, 133, 20000);
    line_trace_passed(t, false, (const uint8_t *)"\x06", 1, 200000);
    line_trace_passed(t, true, (const uint8_t *)"\x04", 1, 210000);
    const char *text = close_trace(t);
    CHECK_CONTAINS(text, "= block of 128 bytes, number 1\n");
    CHECK_CONTAINS(text, "= ACK\n");
    CHECK_CONTAINS(text, "= EOT: that was all\n");
    CHECK_NOT_CONTAINS(text, "= C");
}

/* Whatever passes, in whatever pieces: the bytes of the file are those of the line. */
static const uint8_t marks[] = {0x7E, 0x01, 0x02, 0x15};

TEST(no_byte_is_missing_and_none_twice)
{
    static const trace_protocol protocols[] = {TRACE_RAW, TRACE_FRAMES, TRACE_XMODEM};
    for (unsigned turn = 0; turn < 60; turn++) {
        line_trace *t = open_trace(protocols[turn % 3]);
        uint8_t passed[2][3000];
        size_t counts[2] = {0, 0};
        uint64_t now = 5;
        for (unsigned i = 0; i < 100; i++) {
            uint8_t bytes[29];
            size_t n = 1 + test_below(28);
            bool sent = test_below(2) == 0;
            for (size_t k = 0; k < n; k++)
                bytes[k] = test_below(4) == 0 ? marks[test_below(4)] : (uint8_t)test_below(256);
            memcpy(passed[sent] + counts[sent], bytes, n);
            counts[sent] += n;
            line_trace_passed(t, sent, bytes, n, now);
            now += test_below(9000);
        }
        const char *line = close_trace(t);
        size_t seen[2] = {0, 0};
        for (; line != NULL && *line != '\0'; line = strchr(line, '\n'), line += line != NULL) {
            if (*line == '#' || strncmp(line, "                    =", 21) == 0) continue;
            bool sent = strncmp(line + 14, "PC", 2) == 0;
            for (const char *p = line + 19; p < line + 19 + 48 && *p == ' ' && p[1] != ' '; p += 3)
                CHECK_INT(strtoul(p, NULL, 16), passed[sent][seen[sent]++]);
        }
        CHECK_INT(seen[0], counts[0]);
        CHECK_INT(seen[1], counts[1]);
    }
}

TEST(a_trace_that_cannot_be_written_is_told)
{
    line_trace *t = NULL;
    CHECK_INT(line_trace_open("/nowhere/t.txt", "sim", 9600, TRACE_RAW, &test_sink, &t), BL_E_IO);
    CHECK_CONTAINS(test_messages(), "/nowhere/t.txt: error: the trace cannot be written");
}

/* Address lines that contents cannot show. */
#include <string.h>

#include "bootlace/unseen.h"
#include "harness.h"

enum { SIZE = 4096 };

static uint8_t bytes[SIZE];

/* By definition, byte by byte. */
static bool matters(uint32_t line)
{
    for (uint32_t at = 0; at < SIZE; at++)
        if (bytes[at] != bytes[at ^ line]) return true;
    return false;
}

TEST(unseen_lines_are_those_that_do_not_matter)
{
    for (unsigned turn = 0; turn < 300; turn++) {
        uint32_t blind = test_random() & (SIZE - 1);
        for (uint32_t at = 0; at < SIZE; at++)
            bytes[at] = (uint8_t)((at & ~blind) * 2654435761u >> 24);
        if (turn % 3 == 0) bytes[test_below(SIZE)] ^= 1;
        uint32_t found = bl_unseen_lines(bytes, SIZE);
        for (uint32_t line = 1; line < SIZE; line *= 2)
            CHECK_INT((found & line) != 0, !matters(line));
    }
    memset(bytes, 0xFF, SIZE);
    CHECK_INT(bl_unseen_lines(bytes, SIZE), SIZE - 1);
}

/* Whatever line does nothing: the page that is changed, or one of the others, shows it. */
TEST(a_probe_shows_every_line)
{
    bl_part part = *bl_part_named((bl_text){"28C256", 6});
    bl_line_probe p;
    memset(bytes, 0xFF, SIZE);
    part.size = SIZE;
    bl_line_probe_make(&p, bytes, &part, SIZE - 1);
    CHECK_BYTES(p.original.bytes, p.original.count, bytes, part.page);
    for (uint32_t line = 1; line < SIZE; line *= 2) {
        uint8_t cells[SIZE];
        memcpy(cells, bytes, SIZE);
        for (uint32_t at = 0; at < part.page; at++) /* what is written, with the line stuck at 0 */
            cells[at & ~line] = p.changed.bytes[at];
        bool seen = false;
        for (uint32_t at = 0; at < part.page; at++) {
            if (cells[at & ~line] == p.changed.bytes[at]) continue;
            seen = true;
            CHECK_INT(at ^ (part.page - 1u), line);
        }
        for (size_t i = 0; i < p.other_count; i++)
            for (uint32_t at = 0; at < part.page; at++)
                if (cells[(p.others[i].first + at) & ~line] != p.others[i].bytes[at]) {
                    seen = true;
                    CHECK_INT((uint32_t)1 << p.line[i], line);
                }
        CHECK(seen);
    }
}

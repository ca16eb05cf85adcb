/* The full screen's arithmetic: rows shared out at every size, and what a machine says as lines. */
#include <string.h>

#include "harness.h"
#include "screen/layout.h"
#include "screen/transcript.h"

static void check_pane(const layout_pane *p, int *next, int heading, int columns)
{
    CHECK_INT(p->row, *next + heading);
    CHECK(p->rows > 0);
    CHECK(p->column >= 0 && p->column + p->columns <= columns);
    *next = p->row + p->rows;
}

/* Nothing overlaps, nothing is left over. */
TEST(every_row_of_a_screen_belongs_to_one_pane)
{
    CHECK(!layout_share(LAYOUT_ROWS - 1, 100, 1, 2).fits);
    CHECK(!layout_share(40, LAYOUT_COLUMNS - 1, 1, 2).fits);
    CHECK(layout_share(24, 80, 4, 2).fits);
    for (int rows = LAYOUT_ROWS; rows < 120; rows++)
        for (int columns = LAYOUT_COLUMNS; columns < 300; columns += 7) {
            screen_layout l = layout_share(rows, columns, 1 + rows % 3, 2);
            int next = 0;
            CHECK(l.fits);
            check_pane(&l.title, &next, 0, columns);
            check_pane(&l.registers, &next, 0, columns);
            check_pane(&l.code, &next, 1, columns);
            check_pane(&l.memory, &next, 1, columns);
            check_pane(&l.terminal, &next, 1, columns);
            check_pane(&l.prompt, &next, 0, columns);
            check_pane(&l.keys, &next, 0, columns);
            CHECK_INT(next, rows);
            CHECK_INT(l.source.row, l.code.row);
            CHECK_INT(l.source.rows, l.code.rows);
            if (l.wide) CHECK(l.source.column > l.code.columns);
        }
}

static transcript heard;

static void hear(const char *text)
{
    transcript_add(&heard, (const uint8_t *)text, strlen(text));
}

TEST(what_a_machine_says_becomes_lines)
{
    memset(&heard, 0, sizeof heard);
    hear("\r\nEyelet\r\neye");
    hear("let> ab\bc\td\x01\a");
    CHECK_TEXT(transcript_line(&heard, 0), "eyelet> ac      d.");
    CHECK_TEXT(transcript_line(&heard, 1), "Eyelet");
    CHECK_TEXT(transcript_line(&heard, 2), "");
    CHECK(transcript_line(&heard, 3) == NULL);
    hear("\rEYE");
    CHECK_TEXT(transcript_line(&heard, 0), "EYElet> ac      d.");
    for (int i = 0; i < TRANSCRIPT_COLUMNS * 2; i++)
        hear(i == 0 ? "\n\b" : "x");
    CHECK_INT(strlen(transcript_line(&heard, 1)), TRANSCRIPT_COLUMNS);
    CHECK_INT(strlen(transcript_line(&heard, 0)), TRANSCRIPT_COLUMNS - 1);
}

TEST(a_transcript_keeps_the_last_lines)
{
    memset(&heard, 0, sizeof heard);
    for (int i = 0; i < 3 * TRANSCRIPT_LINES; i++)
        hear(i % 2 == 0 ? "even\n" : "odd\n");
    CHECK_TEXT(transcript_line(&heard, 0), "");
    CHECK_TEXT(transcript_line(&heard, 1), "odd");
    CHECK_TEXT(transcript_line(&heard, TRANSCRIPT_LINES - 1), "odd");
    CHECK(transcript_line(&heard, TRANSCRIPT_LINES) == NULL);
}

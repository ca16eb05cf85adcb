/* layout.c - how the lines of a screen are shared out among what is looked at. */
#include "layout.h"

/* Rows from *next on. */
static layout_pane take_rows(int *next, int rows, int columns)
{
    layout_pane p = {*next, 0, rows, columns};
    *next += rows;
    return p;
}

static layout_pane take_headed(int *next, int rows, int columns)
{
    ++*next;
    return take_rows(next, rows, columns);
}

/* Code gets half of what is left, memory a quarter, and the machine's words the rest. */
screen_layout layout_share(int rows, int columns, int registers, int keys)
{
    enum { FEWEST = 7, HEADINGS = 3, SEAM = 1 };
    screen_layout l = {.wide = columns >= LAYOUT_WIDE};
    int left = rows - 1 - registers - HEADINGS - 1 - keys, next = 0;
    l.fits = rows >= LAYOUT_ROWS && columns >= LAYOUT_COLUMNS && left >= FEWEST;
    if (!l.fits) return l;
    int memory = left / 4, code = (left - memory) * 3 / 5;
    l.title = take_rows(&next, 1, columns);
    l.registers = take_rows(&next, registers, columns);
    l.code = l.source = take_headed(&next, code, columns);
    if (l.wide) {
        l.code.columns = columns / 2 - SEAM;
        l.source.column = columns / 2;
        l.source.columns = columns - l.source.column;
    }
    l.memory = take_headed(&next, memory, columns);
    l.terminal = take_headed(&next, left - memory - code, columns);
    l.prompt = take_rows(&next, 1, columns);
    l.keys = take_rows(&next, keys, columns);
    return l;
}

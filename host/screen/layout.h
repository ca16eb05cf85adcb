/* layout.h - how the lines of a screen are shared out among what is looked at. */
#ifndef BOOTLACE_HOST_LAYOUT_H
#define BOOTLACE_HOST_LAYOUT_H

#include <stdbool.h>

enum { LAYOUT_ROWS = 20, LAYOUT_COLUMNS = 80, LAYOUT_WIDE = 132 };

/* A block of a screen: its first row and column, and how many of each. */
typedef struct layout_pane {
    int row, column, rows, columns;
} layout_pane;

/* Each pane but title, registers, prompt and keys has a row above it for its heading. */
typedef struct screen_layout {
    bool fits; /* false: the screen is too small, and nothing else here counts */
    bool wide; /* code and source stand side by side; otherwise they share a place */
    layout_pane title, registers, code, source, memory, terminal, prompt, keys;
} screen_layout;

/* rows and columns of the screen; registers, keys: lines that these need. What is left is shared
 * by code, memory and terminal. */
screen_layout layout_share(int rows, int columns, int registers, int keys);

#endif

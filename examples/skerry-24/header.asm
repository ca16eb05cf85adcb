; What stands before a program that the loader starts: a name, a version, where the program runs, how long it is, where
; it begins, and the 16-bit sum of its bytes.

HEADER_VERSION = 1

        .group header
NAME    = 0                     ; "CHART"
VERSION = 5
PLACE   = 6
LENGTH  = 9
ENTRY   = 12
SUM     = 15
SIZE    = 17
        .end group

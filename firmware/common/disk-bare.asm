; Places in the directory of a bare disk. docs/disk.md.

BARE_START  = 9         ; in the head: which entry starts
BARE_CHECK  = 14
BARE_FIRST  = 16        ; in an entry: its first sector
BARE_LENGTH = 18
BARE_FLAGS  = 21        ; 1 it has a load address, 2 an entry point
BARE_LOAD   = 22
BARE_RUN    = 25
BARE_SUM    = 28

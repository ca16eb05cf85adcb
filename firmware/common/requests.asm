; The requests of docs/link.md by their kind, from 1 on.

least:  .byte 0, 4, 4, 6, 3, 0  ; payload bytes that each kind must have
KINDS = here - least
requests:
        .word hello, read, write, sums, run, resume

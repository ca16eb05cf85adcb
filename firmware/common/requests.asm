; The requests of docs/link.md by their kind, from 1 on. POURS: this Eyelet also takes pours and makes double sums.
; TELLS: it tells so many bytes of registers; 0: it does not.

least:  .byte 0, 4, 4, 6, 3, 0  ; payload bytes that each kind must have
        .if POURS
        .byte 5, 6
        .elseif TELLS
        .byte 0, 0
        .end
        .if TELLS
        .byte 0, 0, TELLS
        .end
KINDS = here - least
requests:
        .word hello, read, write, sums, run, resume
        .if POURS
        .word pour, sums
        .elseif TELLS
        .word no_request, no_request
        .end
        .if TELLS
        .word no_request, registers, set_registers
        .end

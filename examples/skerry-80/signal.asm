; Skerry's fog horn: one long and two short blasts every eight seconds. The horn sounds while bit 0 is set; the lamp
; beside it shows bit 7.
;
; A signal is a list of steps: what the latch holds, and for how many tenths of a second.
; Who includes this has said .use "out/eyelet.sym" as eyelet and where it is to be placed.

SOUND = %10000001
QUIET = %00000000

signal: ld hl,steps
        ld b,(steps_end - steps) / 2
_step:  ld a,(hl)
        out (board.horn.data),a
        inc hl
        ld c,(hl)
        inc hl
_hold:  call tenth
        dec c
        jr nz,_hold
        djnz _step
        jr signal

; A tenth of a second, listening to the line all the while: turns of 70 cycles.
TURNS = board.clock / 10 / 70
tenth:  ld de,TURNS
_turn:  call eyelet.poll                ; 46 there and back
        dec de                          ; 6
        ld a,d                          ; 4
        or e                            ; 4
        jp nz,_turn                     ; 10
        ret

steps:  .byte SOUND, 20
        .byte QUIET, 5
        .byte SOUND, 5
        .byte QUIET, 5
        .byte SOUND, 5
        .byte QUIET, 40
steps_end:

; Skerry's bell in fog: two strokes, a pause, over and over. Who includes this has said .use "out/eyelet.sym" as eyelet and
; where it is to be placed.

HAMMER = %00000001

ring:   ldx #strokes
_next:  stx bell_at
        ldab 0,x                ; tenths of a second, with the hammer in the top bit
        beq ring                ; the end
        clra
        aslb
        bcc _set
        ldaa #HAMMER
_set:   staa board.bell.data
        lsrb
        bsr tenths
        ldx bell_at
        inx
        bra _next

; B tenths of a second, listening to the line all the while: turns of 40 cycles.
TURNS = board.clock / 10 / 40
tenths: ldx #TURNS
_turn:  jsr eyelet.poll         ; 9, then 4 + 2 + 4 + 5
        nop                     ; 2
        nop
        nop
        nop
        dex                     ; 4
        bne _turn               ; 4
        decb
        bne tenths
        rts

; The hammer down is $80; how long.
strokes:
        .byte $80 | 1, 4, $80 | 1, 14, 0

; The buoy's light: one lamp goes round, a step every half second.

        .place program
        .entry start
start:  lda #1
_next:  sta board.lamps.data
        jsr wait
        asl a
        bne _next
        beq start

; Half a second.
wait:   ldy #0
        ldx #0
_turn:  nop
        nop
        dex
        bne _turn
        dey
        bne _turn
        rts

; What the buoy says of itself, for whoever reads the tape.
name:   .text "Skerry buoy 7, one lamp going round" ending 0

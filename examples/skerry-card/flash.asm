; What the card starts: the light character of Skerry, two flashes every six seconds, and a line for
; whoever is at the terminal.

        .place zero
wait:   .reserve 3

        .place program
        .entry start
start:  lda #%00011111          ; 19,200 baud, 8 bits
        sta board.serial.control
        lda #%00001011
        sta board.serial.command
        ldx #0
_say:   lda greeting,x
        beq light
        jsr say
        inx
        bra _say

light:  ldx #0
_step:  lda character,x
        beq light
        sta wait+2
        lda character+1,x
        sta board.lamps.data
        jsr pause
        inx
        inx
        bra _step

; Tenths of a second at 2 MHz: 256 times 156 times 5 cycles are about one.
pause:  lda #156
        sta wait+1
_row:   ldy #0
_cell:  dey
        bne _cell
        dec wait+1
        bne _row
        dec wait+2
        bne pause
        rts

say:    pha
_full:  lda board.serial.status
        and #%00010000
        beq _full
        pla
        sta board.serial.data
        rts

character:
        .byte 5, $FF, 10, 0, 5, $FF, 40, 0, 0
greeting:
        .text "Skerry, from a bare card: two flashes every six seconds\r\n" ending 0

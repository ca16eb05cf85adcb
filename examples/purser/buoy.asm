; The buoy in front of the harbour: two short flashes, and a long dark.

LAMP    = board.lamps.data

        .place program
        .entry buoy
buoy:   ldy #0
_next:  lda flashes,y
        sta LAMP
        jsr beat
        iny
        cpy #sizeof_flashes
        bne _next
        bra buoy

; An eighth of a second, about.
beat:   ldx #100
_outer: lda #250
_inner: dec a
        bne _inner
        dex
        bne _outer
        rts

flashes:
        .byte 1, 0, 1, 0, 0, 0, 0, 0
sizeof_flashes = here - flashes
        .fill 160, 0            ; room for other characters

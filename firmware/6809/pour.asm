; How Eyelet takes a pour on the 6809; part of eyelet.asm.

; Bytes in one long row, stored as they come, each read back. The answer says that they may come; then they do, in the
; clothes of a frame's payload, with FCS-16 and a flag at the end; a second answer says what became of them.
pour:   lbsr address
        lbcs _done
        cmpx #area.eyelet_page.last + 1
        blo _range
        stx place
        ldb payload + 3
        lda payload + 4
        std span
        beq _range
        subd #1
        addd place
        bcs _range              ; it would run over $FFFF
        clra                    ; GOOD
        lbsr answer
        lda #POURED
        sta kind
        lda #1
        sta length
        ldd #$FFFF
        std fcs
        ldy span                ; still to come
        ldu place
        clra
_clean: sta escaped
_next:  ldx #IDLE
        lbsr wait
        bcs _bad                ; it broke off
        serial_get_b
        cmpb #FLAG
        beq _end
        lda #FLIP
        cmpb #ESCAPE
        beq _clean
        eorb escaped
        clr escaped
        tfr b,a
        lbsr add_fcs            ; keeps B
        cmpy #0
        beq _next               ; the FCS itself
        stb ,u
        cmpb ,u
        bne _wrong
_on:    leau 1,u
        leay -1,y
        bra _next
_wrong: lda length              ; the first is told
        deca
        bne _on
        sta payload + 3
        stb payload + 4
        ldb ,u
        stb payload + 5
        tfr u,d
        stb payload + 1
        sta payload + 2
        lda #6
        sta length
        bra _on
_range: lda #RANGE
_done:  rts
_end:   cmpy #0
        bne _drain
        ldx fcs
        cmpx #GOOD_FCS
        bne _drain
        lda length
        deca
        beq _done               ; A is GOOD
        lda #DIFFERS
        rts
; A flag that noise has made may not be the end: what still comes is let go by.
_drain: ldx #IDLE
        lbsr wait
        serial_get
        bcc _drain
_bad:   lda #1
        sta length
        lda #MALFORMED
        rts

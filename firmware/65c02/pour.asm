; How Eyelet takes a pour on the 65C02; part of eyelet.asm.

; Bytes in one long row, stored as they come, each read back. The answer says that they may come; then they do, in the
; clothes of a frame's payload, with FCS-16 and a flag at the end; a second answer says what became of them.
pour:   jsr address
        bcs _done
        lda payload + 3
        sta count
        lda payload + 4
        sta count + 1
        ora count
        beq _range
        clc
        lda count
        adc pointer
        tax
        lda count + 1
        adc pointer + 1
        bcc _below
        bne _range              ; it would run over $FFFF
        cpx #0
        bne _range
_below: lda pointer + 1
        cmp #hi(buffer) + 1
        bcs _may
_range: lda #RANGE
_done:  rts
_bad:   lda #1
        sta length
        lda #MALFORMED
        rts
_may:   lda #GOOD
        jsr answer
        lda payload + 3         ; sending took the count
        sta count
        lda payload + 4
        sta count + 1
        lda #POURED
        sta kind
        lda #1
        sta length
        jsr fresh
_next:  lda #IDLE
        jsr wait
        bcs _bad                ; it broke off
        serial_get
        cmp #FLAG
        beq _end
        cmp #ESCAPE
        beq _escape
        eor escaped
        stz escaped
        tax
        .if area.eyelet.last - area.eyelet.first > $7FF
        eor fcs                 ; there is room for what add_fcs does: 12 cycles less for those that time bits themselves
        tay
        lda fcs_low,y
        eor fcs + 1
        sta fcs
        lda fcs_high,y
        sta fcs + 1
        .else
        jsr add_fcs
        .end
        lda count
        ora count + 1
        beq _next               ; the FCS itself
        txa
        sta_at pointer
        cmp_at pointer
        bne _wrong
_on:    jsr onward
        bra _next
_escape:
        lda #FLIP
        sta escaped
        bra _next
_wrong: ldy length              ; the first is told
        cpy #1
        bne _on
        sta payload + 4
        lda_at pointer
        sta payload + 5
        lda pointer
        sta payload + 1
        lda pointer + 1
        sta payload + 2
        stz payload + 3
        lda #6
        sta length
        bra _on
_end:   lda count
        ora count + 1
        bne _drain
        lda fcs
        cmp #<GOOD_FCS
        bne _drain
        lda fcs + 1
        cmp #>GOOD_FCS
        bne _drain
        lda length              ; 1, or 6 with a byte that differs
        and #DIFFERS
        rts
        .assert (1 & DIFFERS) == GOOD && (6 & DIFFERS) == DIFFERS, "the length gives the code"
; A flag that noise has made may not be the end: what still comes is let go by.
_drain: lda #IDLE
        jsr wait
        serial_get
        bcc _drain
        jmp _bad

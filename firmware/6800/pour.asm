; How Eyelet takes a pour on the 6800; part of eyelet.asm.

; Bytes in one long row, stored as they come, each read back. The answer says that they may come; then they do, in the
; clothes of a frame's payload, with FCS-16 and a flag at the end; a second answer says what became of them.
pour:   jsr address
        bcs _done
        ldaa place
        cmpa #hi(buffer) + 1
        bcs _range
        ldaa payload + 4
        staa span
        ldab payload + 3
        stab span + 1
        ldx span
        beq _range
        subb #1
        sbca #0
        addb place + 1
        adca place
        bcs _range              ; it would run over $FFFF
        stx left
        clra                    ; GOOD
        jsr answer
        ldx left                ; still to come
        stx span
        ldaa #POURED
        staa kind
        ldaa #1
        staa length
        ldx #$FFFF
        stx fcs
        clra
_clean: staa escaped
_next:  ldx #IDLE
        jsr wait
        bcs _bad                ; it broke off
        serial_get_b
        cmpb #FLAG
        beq _end
        ldaa #FLIP
        cmpb #ESCAPE
        beq _clean
        eorb escaped
        clr escaped
        tba
        psha
        jsr add_fcs
        pula
        ldx span
        beq _next               ; the FCS itself
        dex
        stx span
        ldx place
        staa 0,x
        cmpa 0,x
        bne _wrong
_on:    ldx place
        inx
        stx place
        bra _next
_wrong: ldab length             ; the first is told
        decb
        bne _on
        stx to
        jsr wrong
        bra _on
_range: ldaa #RANGE
_done:  rts
_end:   ldx span
        bne _drain
        ldx fcs
        cpx #GOOD_FCS
        bne _drain
        ldaa length
        deca
        beq _done               ; A is GOOD
        ldaa #DIFFERS
        rts
; A flag that noise has made may not be the end: what still comes is let go by.
_drain: ldx #IDLE
        jsr wait
        serial_get
        bcc _drain
_bad:   ldaa #1
        staa length
        ldaa #MALFORMED
        rts

; How Eyelet takes a pour on the 8080 and the 8085; part of eyelet.asm.

; Bytes in one long row, stored as they come, each read back. The answer says that they may come; then they do, in the
; clothes of a frame's payload, with FCS-16 and a flag at the end; a second answer says what became of them.
pour:   call address
        rc
        mov a,h
        cpi hi(buffer) + 1
        jc range
        xchg
        lhld payload + 3
        mov a,h
        ora l
        jz range
        dcx h                   ; would it run over $FFFF?
        dad d
        jc range
        lhld payload + 3
        push d
        push h
        xra a
        call answer
        mvi a,POURED
        sta kind
        mvi a,1
        sta length
        lxi h,$FFFF
        shld fcs
        pop b                   ; still to come
        pop h                   ; where
        xra a
_clean: sta escaped
_next:  push b
        mvi c,IDLE
        call wait
        pop b
        jc _bad                 ; it broke off
        serial_get
        cpi FLAG
        jz _end
        cpi ESCAPE
        mov d,a
        mvi a,FLIP
        jz _clean
        lda escaped
        xra d
        push psw
        call add_fcs
        xra a
        sta escaped
        pop d                   ; D: the byte
        mov a,b
        ora c
        jz _next                ; the FCS itself
        mov m,d
        mov a,m
        cmp d
        jnz _wrong
_on:    inx h
        dcx b
        jmp _next
_wrong: mov e,a                 ; the first is told
        lda length
        dcr a
        jnz _on
        push h
        call differs
        pop h
        jmp _on
_end:   mov a,b
        ora c
        jnz _drain
        call fcs_is_good
        jnz _drain
        lda length
        dcr a
        rz                      ; A is GOOD
        mvi a,DIFFERS
        ret
; A flag that noise has made may not be the end: what still comes is let go by.
_drain: mvi c,IDLE
        call wait
        serial_get
        jnc _drain
_bad:   mvi a,1
        sta length
        mvi a,MALFORMED
        ret

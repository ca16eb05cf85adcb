; The registers of a program that waits, for the 8080 and the 8085; part of eyelet.asm.

BREAK = $F7                     ; RST 6
SAVED = 10                      ; bytes that a program that waits has on its stack

; The byte that is a breakpoint, then all registers and the next code of the program that waits, if one does.
registers:
        mvi a,BREAK
        sta payload + 1
        mvi a,2
        sta length
        lhld waiting
        mov a,h
        ora l
        rz                      ; A is GOOD
        lxi d,SAVED
        dad d
        push h
        dcx h
        lxi d,payload + 2
        mvi b,SAVED             ; PC A F B C D E H L
_down:  mov a,m
        stax d
        dcx h
        inx d
        dcr b
        jnz _down
        pop h
        mov a,h                 ; SP
        stax d
        inx d
        mov a,l
        stax d
        inx d
        mvi a,TELLS + 2
        .if POURS
        lhld payload + 2        ; PC, turned round
        mov a,h
        mov h,l
        mov l,a
        mvi c,CODE
        call copy
        mvi a,TELLS + 2 + CODE
        .end
        sta length
        xra a
        ret

; All of them but the stack pointer, which must be as it is.
set_registers:
        lhld waiting
        mov a,h
        ora l
        jz range
        lxi d,SAVED
        dad d
        lda payload + 10
        cmp h
        jnz range
        lda payload + 11
        cmp l
        jnz range
        dcx h
        lxi d,payload
        mvi b,SAVED
_up:    ldax d
        mov m,a
        inx d
        dcx h
        dcr b
        jnz _up
        xra a
        ret

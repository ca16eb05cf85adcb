; The registers of a program that waits, for the 6800; part of eyelet.asm.

BREAK = $3F                     ; SWI

; SWI is a breakpoint: the program waits, with its program counter there, and all registers are told. The one in poll is
; none: the program waits as if it had been called back from there.
broken: tsx                     ; CC B A X PC
        ldaa 6,x
        ldab 5,x
        cmpa #lo(polled)
        bne _break
        cmpb #hi(polled)
        bne _break
        ldaa 4,x                ; the call's own return takes the place of PC
        staa 6,x
        ldaa 3,x
        staa 5,x
        ldaa 2,x
        staa 4,x
        ldaa 1,x
        staa 3,x
        ldaa 0,x
        staa 2,x
        ins
        ins
        sts waiting
        jmp monitor_here
_break: suba #1
        staa 6,x
        sbcb #0
        stab 5,x
        sts waiting
        ldaa #STOPPED
        staa kind
        clr kind + 1            ; sequence 0
        bsr registers
        jsr answer
        jmp monitor_here

; The byte that is a breakpoint, then all registers and the next code of the program that waits, if one does.
registers:
        ldaa #BREAK
        staa payload + 1
        ldaa #2
        staa length
        ldx waiting
        beq _good
        inx                     ; the stack pointer is below
        ldaa 2,x                ; A, B
        staa payload + 4
        ldaa 1,x
        staa payload + 5
        ldaa 0,x                ; CC
        staa payload + 10
        ldaa 3,x                ; X
        staa payload + 6
        ldaa 4,x
        staa payload + 7
        ldx 5,x                 ; PC
        stx payload + 2
        stx from
        ldaa waiting + 1        ; SP before
        adda #7
        staa payload + 9
        ldaa waiting
        adca #0
        staa payload + 8
        ldx #payload + TELLS + 2
        stx to
        ldab #CODE
        jsr copy
        ldaa #TELLS + 2 + CODE
        staa length
_good:  clra
        rts

no_request:
        ldaa #UNKNOWN
        rts

; All of them but the stack pointer, which must be as it is.
set_registers:
        ldx waiting
        beq _none
        ldaa waiting + 1
        adda #7
        cmpa payload + 7
        bne _none
        ldaa waiting
        adca #0
        cmpa payload + 6
        bne _none
        inx
        ldaa payload            ; PC
        staa 5,x
        ldaa payload + 1
        staa 6,x
        ldaa payload + 2        ; A, B
        staa 2,x
        ldaa payload + 3
        staa 1,x
        ldaa payload + 4        ; X
        staa 3,x
        ldaa payload + 5
        staa 4,x
        ldaa payload + 8        ; CC
        staa 0,x
        clra
        rts
_none:  jmp range

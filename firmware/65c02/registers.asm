; The registers of a program that waits, for the 65C02; part of eyelet.asm.

; BRK is a breakpoint: the program waits, with its program counter at the BRK.
interrupt:
        pha
        phx
        tsx
        lda $0103,x             ; P, as the interrupt left it
        and #%00010000
        bne _break
        plx
        pla
        jmp (irq_hook)
_break: phy
        tsx
        sec
        lda $0105,x
        sbc #2
        sta $0105,x
        bcs _same
        dec $0106,x
_same:  stx stack
        cld
        lda #STOPPED
        sta kind
        stz kind + 1
        jsr registers           ; what they are is told at once
        jsr answer
        jmp monitor_here
no_interrupt:
        rti

; The byte that is a breakpoint, then PC, A, X, Y, S, P and the next code of the program that waits, if one does.
registers:
        stz payload + 1
        lda #2
        sta length
        ldx stack
        inx
        beq _good
        lda $0105,x
        sta payload + 2
        lda $0104,x
        sta payload + 3
        lda $0102,x
        sta payload + 4
        lda $0101,x
        sta payload + 5
        lda $0100,x
        sta payload + 6
        txa
        clc
        adc #5
        sta payload + 7
        lda $0103,x
        sta payload + 8
        lda payload + 3
        sta pointer
        lda payload + 2
        sta pointer + 1
        ldy #CODE - 1
_code:  lda (pointer),y
        sta payload + 9,y
        dey
        bpl _code
        lda #TELLS + 2 + CODE
        sta length
_good:  lda #GOOD
        rts

no_request:
        lda #UNKNOWN
        rts

; All of them but the stack pointer, which must be as it is.
set_registers:
        ldx stack
        inx
        beq _none
        txa
        clc
        adc #5
        cmp payload + 5
        bne _none
        lda payload
        sta $0105,x
        lda payload + 1
        sta $0104,x
        lda payload + 2
        sta $0102,x
        lda payload + 3
        sta $0101,x
        lda payload + 4
        sta $0100,x
        lda payload + 6
        sta $0103,x
        lda #GOOD
        rts
_none:  lda #RANGE
        rts

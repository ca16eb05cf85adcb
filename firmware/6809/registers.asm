; The registers of a program that waits, for the 6809; part of eyelet.asm.

; SWI is a breakpoint: the program waits, with its program counter there, and all registers are told.
broken: sts >waiting
        lda #PAGE
        tfr a,dp
        ldx 10,s
        leax -1,x
        stx 10,s
        ldd #STOPPED * 256      ; the kind, and sequence 0
        std kind
        bsr registers
        lbsr answer
        lbra monitor_here

BREAK = $3F                     ; SWI

; The byte that is a breakpoint, then all registers and the next code of the program that waits, if one does.
registers:
        ldd #BREAK * 256 + 2
        sta payload + 1
        stb length
        ldx waiting
        beq _good
        ldy #payload + 2
        ldd 10,x                ; PC
        std ,y++
        ldd 1,x                 ; A B
        std ,y++
        ldd 4,x                 ; X Y U
        std ,y++
        ldd 6,x
        std ,y++
        ldd 8,x
        std ,y++
        leau 12,x               ; S
        stu ,y++
        lda 3,x                 ; DP CC
        ldb ,x
        std ,y++
        ldx 10,x
        ldb #CODE
        lbsr copy
        lda #TELLS + 2 + CODE
        sta length
_good:  clra
        rts

no_request:
        lda #UNKNOWN
        rts

; All of them but the stack pointer, which must be as it is.
set_registers:
        ldx waiting
        lbeq range
        leau 12,x
        cmpu payload + 10
        lbne range
        ldd payload
        std 10,x
        ldd payload + 2
        std 1,x
        ldd payload + 4
        std 4,x
        ldd payload + 6
        std 6,x
        ldd payload + 8
        std 8,x
        ldd payload + 12
        sta 3,x
        orb #$80                ; all of them are on the stack
        stb ,x
        clra
        rts

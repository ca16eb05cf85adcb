; The keeper's language keeps a program as lines: where the next line begins, the line's number, its words as
; single codes, and a 0. This file holds one line, "10 CALL 2061", and the machine code that it calls.

WORD_CALL = $9E                         ; the code of the word CALL

        .org $0801
line10: .word line_end                  ; the next line
        .word 10                        ; the number
        .byte WORD_CALL
        ; the address in decimal, a digit at a time
        .repeat 4, I
        .byte '0' + start / pick(I, 1000, 100, 10, 1) mod 10
        .end
        .byte 0
line_end:
        .word 0                         ; no more lines

start:  lda #$FF
        sta $8010
        rts
        .assert start < 10000, "the address no longer has four digits"
        .entry start

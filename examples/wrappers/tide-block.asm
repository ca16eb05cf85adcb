; A block for the tide gauge's loader: header, program, end mark. The file is the block; addresses in it are
; those at which the program will run.

NAME_LENGTH = 10
LOAD = $0400

        .org 0                          ; places in the file
name:   .text "TIDE GAUGE"
        .assert here - name == NAME_LENGTH, "the name must have ten characters; pad it"
        .word LOAD
        .word program_end - LOAD        ; bytes, counted by labels that come later
        .word start

        .runat LOAD
        .reserve 0
table:  .byte 0, 12, 31, 55, 80, 104, 123, 135
start:  ldx #0
_next:  lda table,x
        sta $8010
        inx
        cpx #8
        bne _next
        rts
program_end:
        .end
        .byte $1A, $1A                  ; the end mark

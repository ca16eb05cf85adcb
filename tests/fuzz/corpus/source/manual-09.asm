load = $0800
        .text "LIGHT"                   ; a name of eight characters
        .fill 8 - 5, ' '
        .word load, end - load, start   ; where, how many, entry
        .runat load
start:  lda #1
        sta board.lamps.data
        rts
end:
        .end
        .byte $FF                       ; the end mark

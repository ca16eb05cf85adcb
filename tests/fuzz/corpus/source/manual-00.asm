; the tide gauge's alarm
LIMIT = 180                     ; centimetres
        .org $0300
watch:  lda level
        cmp #LIMIT
        bcc _calm
        jsr alarm
_calm:  rts
alarm:  lda #%11111111
        sta board.lamps.data
        rts
level:  .byte 0

        .group horn
loud = 3
blast:  lda #loud
        jmp silence
        .end
        .group lamp
loud = 1
        .end
silence:
        jsr horn.blast
        ldx #horn.loud - lamp.loud
        .byte sizeof(horn)

        .scope horn
loud = 3
blast:  lda #loud
        jmp silence
        .endscope
        .scope lamp
loud = 1
        .endscope
silence:
        jsr horn.blast
        ldx #horn.loud - lamp.loud
        .byte sizeof(horn)

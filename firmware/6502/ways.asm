; What a 6502 does in some instructions where a 65C02 has one; part of <65c02/eyelet> and <65c02/aglet>. They change
; what they need: PHX, PHY, PLX and PLY change A; STZ, and what goes through a pointer, Y.

        .macro lda_at POINTER
        ldy #0
        lda (POINTER),y
        .end
        .macro sta_at POINTER
        ldy #0
        sta (POINTER),y
        .end
        .macro cmp_at POINTER
        ldy #0
        cmp (POINTER),y
        .end
        .macro eor_at POINTER
        ldy #0
        eor (POINTER),y
        .end

        .macro jump_by TABLE
        lda TABLE,x
        sta scratch
        lda TABLE + 1,x
        sta scratch + 1
        jmp (scratch)
        .end

        .macro bra TARGET
        jmp TARGET
        .end
        .macro stz PLACE
        ldy #0
        sty PLACE
        .end
        .macro phx
        txa
        pha
        .end
        .macro phy
        tya
        pha
        .end
        .macro plx
        pla
        tax
        .end
        .macro ply
        pla
        tay
        .end

        .macro banner_text
        .text "\r\nEyelet ", '0' + VERSION, " for the 6502\r\n" ending 0
        .end
        .macro name_text
        .text "Eyelet 6502"
        .end

; What a 65C02 does in one instruction and a 6502 does in some; the other half is <6502/ways>. Part of eyelet.asm.

; The byte that a pointer in page zero points at. On a 6502 they use Y.
        .macro lda_at POINTER
        lda (POINTER)
        .end
        .macro sta_at POINTER
        sta (POINTER)
        .end
        .macro cmp_at POINTER
        cmp (POINTER)
        .end
        .macro eor_at POINTER
        eor (POINTER)
        .end

; To the address at X in a table.
        .macro jump_by TABLE
        jmp (TABLE,x)
        .end

        .macro banner_text
        .text "\r\nEyelet ", '0' + VERSION, " for the 65C02\r\n" ending 0
        .end
        .macro name_text
        .text "Eyelet 65C02"
        .end

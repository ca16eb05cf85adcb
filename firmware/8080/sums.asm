; Eyelet's checksums for the 8080 and the 8085; part of eyelet.asm.

; CRC-32 of each of a row of blocks, or with quick FCS-16.
        .if POURS
quick:  mvi a,2
        jmp sums_of
        .end
sums:   mvi a,4
sums_of:
        sta width
        call address
        rc
        shld place
        lda payload + 5
        sta blocks
        dcr a
        cpi (PAYLOAD - 1) / 4
        jnc range
        lhld payload + 3        ; bytes in a block
        shld span
        mov a,h
        ora l
        jz range
        lxi h,payload + 1
        shld into
_block: lhld span
        shld left
        .if POURS
        lda width
        ani 2
        cnz fast
        cz sum
        .else
        call sum
        .end
        lhld into
        mov a,c                 ; turned over, the lowest first
        cma
        mov m,a
        inx h
        mov a,b
        cma
        mov m,a
        inx h
        lda width
        ani 2
        jnz _short
        mov a,e
        cma
        mov m,a
        inx h
        mov a,d
        cma
        mov m,a
        inx h
_short: shld into
        lxi h,width
        lda length
        add m
        sta length
        lxi h,blocks
        dcr m
        jnz _block
        xra a
        ret

        .if POURS
; BC: FCS-16 over left bytes from place on, which then is behind them. Whole pages go faster. Leaves Z clear.
fast:   lhld place
        xchg
        lxi b,$FFFF             ; low in C, high in B
_more:  lda left + 1
        ora a
        jz _single              ; less than a page is left
        mov a,e
        ora a
        jnz _single
        mvi h,hi(fcs_low)
_page:  .repeat 2
        ldax d                  ; 7
        xra c                   ; 4
        mov l,a                 ; 5, on the 8085 4
        mov a,m                 ; 7
        xra b                   ; 4
        mov c,a                 ; 5
        inr h                   ; 5
        mov b,m                 ; 7
        dcr h                   ; 5
        inr e                   ; 5, and 10 for two of them
        .end
        jnz _page
        inr d
        lxi h,left + 1
        dcr m
        lhld left
        jmp _whole
_single:
        mvi h,hi(fcs_low)
        ldax d
        xra c
        mov l,a
        mov a,m
        xra b
        mov c,a
        inr h
        mov b,m
        inx d
        lhld left
        dcx h
        shld left
_whole: mov a,h
        ora l
        jnz _more
        xchg
        shld place
        inr a
        ret
        .end

; DE and BC: the checksum of left bytes from place on, which then is behind them.
sum:    lxi b,$FFFF
        mov d,b
        mov e,b
_byte:  lhld place
        mov a,m
        inx h
        shld place
        xra c
        mov c,a
        call nibble
        call nibble
        lhld left
        dcx h
        shld left
        mov a,h
        ora l
        jnz _byte
        ret

; checksum = checksum >> 4 ^ the table's entry for the four bits that fall out
nibble: mov a,c
        ani 15
        add a
        add a
        adi lo(crc_table)
        mov h,a
        mov l,c
        mov a,b
        call _pair
        mov c,a
        mov l,b
        mov a,e
        call _pair
        mov b,a
        mov l,e
        mov a,d
        call _pair
        mov e,a
        mov l,d
        xra a
        call _pair
        mov d,a
        mov l,h
        mvi h,hi(crc_table)
        mov a,m
        xra c
        mov c,a
        inx h
        mov a,m
        xra b
        mov b,a
        inx h
        mov a,m
        xra e
        mov e,a
        inx h
        mov a,m
        xra d
        mov d,a
        ret
; The low four bits of A above the high four of L.
_pair:  xra l
        ani $0F
        xra l
        rrc
        rrc
        rrc
        rrc
        ret

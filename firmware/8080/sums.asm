; Eyelet's checksums for the 8080 and the 8085; part of eyelet.asm.

; CRC-32 of each of a row of blocks.
sums:   call address
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
_block: call sum
        lhld into
        mov a,c                 ; turned over, the lowest first
        cma
        mov m,a
        inx h
        mov a,b
        cma
        mov m,a
        inx h
        mov a,e
        cma
        mov m,a
        inx h
        mov a,d
        cma
        mov m,a
        inx h
        shld into
        lxi h,length
        mov a,m
        adi 4
        mov m,a
        lxi h,blocks
        dcr m
        jnz _block
        xra a
        ret

; DE and BC: the checksum of span bytes from place on, which then is behind them.
sum:    lhld span
        shld left
        lxi b,$FFFF
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

; Eyelet's checksums for the 8080 and the 8085; part of eyelet.asm.

; The sums of each of a row of blocks: CRC-32, or for quick the double sum of docs/link.md.
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
_block: lhld span
        shld left
        .if POURS
        lda kind
        ani SUMS
        cz double               ; leaves Z set
        cnz sum
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
        mov a,e
        cma
        mov m,a
        inx h
        mov a,d
        cma
        mov m,a
        inx h
        shld into
        lda length
        adi 4
        sta length
        lxi h,blocks
        dcr m
        jnz _block
        xra a
        ret

        .if POURS
; BC: the sum of left bytes from place on, which then is at their end; DE: the sum of sums. The carry of each goes into
; the other, so nothing between may touch it. Leaves Z set.
double: lhld place
        xchg
        lhld left
        mov a,h
        ora a
        rar
        mov h,a
        mov a,l
        rar
        mov l,a                 ; words
        jnc _whole
        inx h                   ; the first byte is the high one of a word
_whole: inr l
        dcr l
        jz _pages
        inr h
_pages: shld left
        lxi h,$FFFF
        mov b,h
        mov c,h
        jnc _word
        ora a
        jmp _high
_word:  ldax d                  ; 7
        adc c                   ; 4
        mov c,a                 ; 5, on the 8085 4
        inx d                   ; 5, on the 8085 6
_high:  ldax d                  ; 7
        adc b                   ; 4
        mov b,a                 ; 5
        inx d                   ; 5
        mov a,c                 ; 5
        jnc _sums               ; 10
        adi ROUND
        mov c,a
        jnc _sums
        inr b
        ora a
_sums:  mov a,l                 ; 5
        adc c                   ; 4
        mov l,a                 ; 5
        mov a,h                 ; 5
        adc b                   ; 4
        mov h,a                 ; 5
        lda left                ; 13
        dcr a                   ; 5
        sta left                ; 13
        jnz _word               ; 10
        lda left + 1
        dcr a
        sta left + 1
        jnz _word
        xchg
        shld place
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

; Eyelet's checksums for the Z80; part of eyelet.asm.

        .if defined(FAR)
near_range:
        jp range
        .else
near_range = range
        .end

; The sums of each of a row of blocks: CRC-32, or for quick the double sum of docs/link.md.
sums:   call address
        ret c
        keep_hl place
        ld a,(payload + 5)
        dec a
        cp (PAYLOAD - 1) / 4
        jr nc,near_range
        ld bc,(payload + 3)     ; bytes in a block
        ld a,b
        or c
        jr z,near_range
        ld a,(payload + 5)
        ld iy,payload + 1
_block: push af
        push bc
        .if POURS
        ld a,(kind)
        and SUMS
        jr nz,_long
        call double
        jr _sum
        .end
_long:  call sum
_sum:
        ld a,l                  ; turned over, the lowest first
        cpl
        ld (iy+0),a
        ld a,h
        cpl
        ld (iy+1),a
        ld a,e
        cpl
        ld (iy+2),a
        ld a,d
        cpl
        ld (iy+3),a
        ld bc,4
        add iy,bc
        ld hl,length
        ld a,(hl)
        add a,c
        ld (hl),a
        pop bc
        pop af
        dec a
        jr nz,_block
        ret                     ; A is GOOD

        .if POURS
; HL: the sum of BC bytes from place on, which then is at their end; DE: the sum of sums. The carry of each goes into the
; other, so nothing between may touch it.
double: take_de place
        srl b
        rr c
        ld h,b
        ld l,c                  ; words
        jr nc,_whole
        inc hl                  ; the first byte is the high one of a word
_whole: inc l
        dec l
        jr z,_pages
        inc h
_pages: ld (span),hl
        ld hl,$FFFF
        ld b,h
        ld c,h
        jr nc,_word
        or a
        jr _high
_word:  wide
        ld a,(de)               ; 7
        adc a,c                 ; 4
        ld c,a                  ; 4
        wide
        inc de                  ; 6
_high:  wide
        ld a,(de)               ; 7
        adc a,b                 ; 4
        ld b,a                  ; 4
        wide
        inc de                  ; 6
        ld a,c                  ; 4
        jr nc,_sums             ; 12
        add a,ROUND
        ld c,a
        jr nc,_sums
        inc b
        or a
_sums:  adc hl,bc               ; 15
        ld a,(span)             ; 13
        dec a                   ; 4
        ld (span),a             ; 13
        jr nz,_word             ; 12
        ld a,(span + 1)
        dec a
        ld (span + 1),a
        jr nz,_word
        keep_de place
        ex de,hl
        ld h,b
        ld l,c
        ret
        .end

; DE and HL: the checksum of BC bytes from place on, which then is behind them.
sum:    ld hl,$FFFF
        ld d,h
        ld e,l
        take_ix place
_byte:  wide
        ld a,(ix+0)
        wide
        inc ix
        xor l
        ld l,a
        call nibble
        call nibble
        dec bc
        ld a,b
        or c
        jr nz,_byte
        keep_ix place
        ret

; checksum = checksum >> 4 ^ the table's entry for the four bits that fall out
nibble: ld a,l
        and 15
        add a,a
        add a,a
        push bc
        ld c,a
        ld b,4
_shift: srl d
        rr e
        rr h
        rr l
        djnz _shift             ; leaves 0 in B
        push hl
        ld hl,crc_table
        add hl,bc
        ld c,l
        ld b,h
        pop hl
        ld a,(bc)
        xor l
        ld l,a
        inc bc
        ld a,(bc)
        xor h
        ld h,a
        inc bc
        ld a,(bc)
        xor e
        ld e,a
        inc bc
        ld a,(bc)
        xor d
        ld d,a
        pop bc
        ret

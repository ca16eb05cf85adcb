; Eyelet's checksums for the Z80; part of eyelet.asm.

        .if defined(FAR)
near_range:
        jp range
        .else
near_range = range
        .end

; CRC-32 of each of a row of blocks, or with quick FCS-16.
        .if POURS
quick:  ld a,2
        jr sums_of
        .end
sums:   ld a,4
sums_of:
        ld (width),a
        call address
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
        ld (span),bc
        ld a,(width)
        rra
        rra
        call c,fast
        call nc,sum
        .else
        call sum
        .end
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
        ld (iy+3),a             ; of a short one, two that the next is put over
        ld bc,(width)
        ld b,0
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
; HL: FCS-16 over span bytes from place on, which then is behind them. Whole pages go faster. Leaves C set.
fast:   take_de place
        ld bc,$FFFF             ; low in C, high in B
_more:  ld a,(span + 1)
        or e
        jr z,_single            ; less than a page is left
        ld a,e
        or a
        jr nz,_single
        ld h,hi(fcs_low)
_page:  .repeat 2
        wide
        ld a,(de)               ; 7
        xor c                   ; 4
        ld l,a                  ; 4
        ld a,(hl)               ; 7
        xor b                   ; 4
        ld c,a                  ; 4
        inc h                   ; 4
        ld b,(hl)               ; 7
        dec h                   ; 4
        inc e                   ; 4, and 10 for two of them
        .end
        jp nz,_page
        next_page
        ld hl,span + 1
        dec (hl)
        ld hl,(span)
        jr _whole
_single:
        ld h,hi(fcs_low)
        wide
        ld a,(de)
        xor c
        ld l,a
        ld a,(hl)
        xor b
        ld c,a
        inc h
        ld b,(hl)
        wide
        inc de
        ld hl,(span)
        dec hl
        ld (span),hl
_whole: ld a,h
        or l
        jr nz,_more
        keep_de place
        ld h,b
        ld l,c
        scf
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

; Eyelet's checksums for the Z80; part of eyelet.asm.

; CRC-32 of each of a row of blocks.
sums:   call address
        ret c
        ld (place),hl
        ld a,(payload + 5)
        dec a
        cp (PAYLOAD - 1) / 4
        jr nc,range
        ld bc,(payload + 3)     ; bytes in a block
        ld a,b
        or c
        jr z,range
        ld a,(payload + 5)
        ld iy,payload + 1
_block: push af
        push bc
        call sum
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
        add a,4
        ld (hl),a
        pop bc
        pop af
        dec a
        jr nz,_block
        ret                     ; A is GOOD

; DE and HL: the checksum of BC bytes from place on, which then is behind them.
sum:    ld hl,$FFFF
        ld d,h
        ld e,l
        ld ix,(place)
_byte:  ld a,(ix+0)
        inc ix
        xor l
        ld l,a
        call nibble
        call nibble
        dec bc
        ld a,b
        or c
        jr nz,_byte
        ld (place),ix
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

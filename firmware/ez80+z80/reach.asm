; How Eyelet for the eZ80 reaches the memory that it is asked about: 24 bits of address, from Z80 mode. The Z80's, for
; comparison, is firmware/z80/reach.asm. Instructions of Z80 mode without a suffix lose what a pair has beyond 16 bits.

FAR   = 1
PLACE = 3                       ; bytes of a place

        .macro cpu_name
        .byte "eZ80"
        .end

        .macro wide
        .byte $49               ; .LIS: registers of 24 bits; whatever stands in the code has its usual length
        .end

        .macro take_hl FROM
        ld.lil hl,(FROM)
        .end
        .macro take_de FROM
        ld.lil de,(FROM)
        .end
        .macro take_ix FROM
        ld.lil ix,(FROM)
        .end
        .macro keep_hl TO
        ld.lil (TO),hl
        .end
        .macro keep_de TO
        ld.lil (TO),de
        .end
        .macro keep_ix TO
        ld.lil (TO),ix
        .end

        .macro own_hl VALUE
        ld.lil hl,VALUE
        .end
        .macro own_de VALUE
        ld.lil de,VALUE
        .end

        .macro narrow_bc
        ld.lil bc,0
        .end

        .macro count_bc FROM
        narrow_bc
        ld a,(FROM)
        ld c,a
        ld a,(FROM + 1)
        ld b,a
        .end

; All of the 16 MiB can be reached: C is clear.
        .macro take_address
        ld.lil hl,(payload)
        or a
        .end

        .macro below_ours
        ld a,(payload + 2)
        or a
        jr nz,_far              ; C is clear
        ld a,h
        cp hi(buffer) + 1
_far:
        .end

; In IX: what takes the bytes in changes HL.
        .macro pour_from FROM
        ld.lil ix,(FROM)
        .end
        .macro pour_d
        ld.l (ix+0),d
        ld.l a,(ix+0)
        .end
        .macro pour_on
        inc.l ix
        .end
        .macro pour_tell TO
        ld.lil (TO),ix
        .end

; How Eyelet for the Z80 reaches the memory that it is asked about: 16 bits of address. The eZ80's has more
; (firmware/ez80+z80/reach.asm). A place is an address in a register pair or in RAM.

PLACE = 2                       ; bytes of a place

        .macro cpu_name
        .byte "Z80"
        .end

; The next instruction takes its registers as wide as a place.
        .macro wide
        .end

; A place between RAM and a pair.
        .macro take_hl FROM
        ld hl,(FROM)
        .end
        .macro take_de FROM
        ld de,(FROM)
        .end
        .macro take_ix FROM
        ld ix,(FROM)
        .end
        .macro keep_hl TO
        ld (TO),hl
        .end
        .macro keep_de TO
        ld (TO),de
        .end
        .macro keep_ix TO
        ld (TO),ix
        .end

; Addresses of our own as places.
        .macro own_hl VALUE
        ld hl,VALUE
        .end
        .macro own_de VALUE
        ld de,VALUE
        .end

; What BC is wider than 16 bits becomes 0.
        .macro narrow_bc
        .end

; A count of 16 bits to BC, its high byte to A, too.
        .macro count_bc FROM
        ld bc,(FROM)
        ld a,b
        .end

; The address in the payload goes to HL. C set, with the code in A: it cannot be reached.
        .macro take_address
        ld hl,(payload)
        ld a,(payload + 2)
        cp 1
        ccf
        ld a,RANGE
        .end

; C set: HL lies below what may be written.
        .macro below_ours
        ld a,h
        cp hi(buffer) + 1
        .end

; A pour: where the next byte goes. pour_d stores D there, and what is there then goes to A; pour_tell is given A as 0.
        .macro pour_from FROM
        ld hl,(FROM)
        .end
        .macro pour_d
        ld (hl),d
        ld a,(hl)
        .end
        .macro pour_on
        inc hl
        .end
        .macro pour_tell TO
        ld (TO),hl
        ld (TO + 2),a
        .end

; Eyelet's checksums for the 6800; part of eyelet.asm.

; CRC-32 of each of a row of blocks, or with quick FCS-16.
quick:  ldaa #2
        bra sums_of
sums:   ldaa #4
sums_of:
        staa width
        jsr address
        bcs _done
        ldaa payload + 5
        staa blocks
        beq _range
        cmpa #(PAYLOAD - 1) / 4 + 1
        bcc _range
        ldaa payload + 3
        staa span + 1
        ldaa payload + 4
        staa span
        ldx span
        beq _range
        ldx #payload + 1
        stx into
_block: ldx span
        stx left
        ldaa width
        cmpa #2
        bne _long
        bsr fast
        ldx #crc + 2
        bra _sum
_long:  bsr sum
        ldx #crc + 4
_sum:   stx from
        ldab width
_store: ldx from                ; turned over, the lowest first
        dex
        ldaa 0,x
        stx from
        coma
        ldx into
        staa 0,x
        inx
        stx into
        decb
        bne _store
        ldaa length
        adda width
        staa length
        dec blocks
        bne _block
        clra
_done:  rts
_range: jmp range

; crc: FCS-16 over left bytes from place on, which then is behind them.
fast:   ldaa #$FF               ; low, in A
        staa crc                ; high
_byte:  ldx place               ; 4
        eora 0,x                ; 5
        inx                     ; 4
        stx place               ; 5
        staa low_at + 1         ; 4
        staa high_at + 1        ; 4
        ldx low_at              ; 4
        ldaa 0,x                ; 5
        eora crc                ; 3
        ldx high_at             ; 4
        ldab 0,x                ; 5
        stab crc                ; 4
        ldx left                ; 4
        dex                     ; 4
        stx left                ; 5
        bne _byte               ; 4
        staa crc + 1
        rts

; crc: the checksum of left bytes from place on, which then is behind them.
sum:    ldx #$FFFF
        stx crc
        stx crc + 2
_byte:  ldx place
        ldaa 0,x
        inx
        stx place
        eora crc + 3
        staa crc + 3
        bsr nibble
        bsr nibble
        ldx left
        dex
        stx left
        bne _byte
        rts

; crc = crc >> 4 ^ the table's entry for the four bits that fall out
nibble: ldab crc + 3
        andb #15
        aslb
        aslb
        ldx #crc_table
        jsr plus_b
        ldab #4
_shift: lsr crc
        ror crc + 1
        ror crc + 2
        ror crc + 3
        decb
        bne _shift
        ldaa crc
        eora 0,x
        staa crc
        ldaa crc + 1
        eora 1,x
        staa crc + 1
        ldaa crc + 2
        eora 2,x
        staa crc + 2
        ldaa crc + 3
        eora 3,x
        staa crc + 3
        rts

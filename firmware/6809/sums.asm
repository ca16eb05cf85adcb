; Eyelet's checksums for the 6809; part of eyelet.asm.

; CRC-32 of each of a row of blocks, or with quick FCS-16.
        .if POURS
quick:  lda #2
        bra sums_of
        .end
sums:   lda #4
sums_of:
        sta width
        lbsr address
        bcs _done
        stx place
        lda payload + 5
        sta blocks
        lbeq range
        cmpa #(PAYLOAD - 1) / 4 + 1
        lbhs range
        ldb payload + 3
        lda payload + 4
        std span
        lbeq range
        ldx #payload + 1
        stx into
_block: ldy #crc + 2
        lda width
        .if POURS
        cmpa #2
        bne _long
        bsr fast_sum
        ldy #crc + 2
        bra _sum
        .end
_long:  lbsr sum
        ldy #crc + 4
_sum:   ldx into
        ldb width
_store: lda ,-y                 ; turned over, the lowest first
        coma
        sta ,x+
        decb
        bne _store
        stx into
        lda length
        adda width
        sta length
        dec blocks
        bne _block
        clra
_done:  rts

        .if POURS
; crc: FCS-16 over span bytes from place on, which then is behind them. Its two bytes change places at each byte.
fast_sum:
        ldd span
        andb #15
        stb count
        ldd span
        andb #$F0
        addd place
        std scratch             ; where the sixteens end
        ldd #$FFFF              ; high in A, low in B
        ldx place
        ldy #fcs_low + 128
        ldu #fcs_high + 128
        bra _there
_more:  .repeat 8
        eorb ,x+                ; 6
        eora b,y                ; 5
        ldb b,u                 ; 5
        eora ,x+                ; 6
        eorb a,y                ; 5
        lda a,u                 ; 5
        .end
_there:
        cmpx scratch            ; 6
        bne _more              ; 3
_rest:  dec count
        bmi _over
        eorb ,x+
        eora b,y
        ldb b,u
        exg a,b
        bra _rest
_over:  std crc
        stx place
        rts
        .end

; crc: the checksum of span bytes from place on, which then is behind them.
sum:    ldd #$FFFF
        std crc
        std crc + 2
        ldx place
        ldy span
_byte:  lda ,x+
        eora crc + 3
        sta crc + 3
        bsr nibble
        bsr nibble
        leay -1,y
        bne _byte
        stx place
        rts

; crc = crc >> 4 ^ the table's entry for the four bits that fall out
nibble: lda crc + 3
        anda #15
        asla
        asla
        ldu #crc_table
        leau a,u
        ldb #4
_shift: lsr crc
        ror crc + 1
        ror crc + 2
        ror crc + 3
        decb
        bne _shift
        pulu d
        eora crc
        eorb crc + 1
        std crc
        pulu d
        eora crc + 2
        eorb crc + 3
        std crc + 2
        rts

; Eyelet's checksums for the 6809; part of eyelet.asm.

; The sums of each of a row of blocks: CRC-32, or for quick the double sum of docs/link.md.
sums:   lbsr address
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
_block:
        .if POURS
        lda kind
        bita #SUMS
        bne _long
        bsr double
        bra _sum
        .end
_long:  lbsr sum
_sum:   ldy #crc + 4
        ldx into
        ldb #4
_store: lda ,-y                 ; turned over, the lowest first
        coma
        sta ,x+
        decb
        bne _store
        stx into
        lda length
        adda #4
        sta length
        dec blocks
        bne _block
        clra
_done:  rts

        .if POURS
; A word's sum, which is in D and C, goes into the sum of sums, whose carry is left for the next word's sum.
        .macro sum_up
        bcc _sums               ; 3
        addb #ROUND
        bcc _sums
        inca
        andcc #$FE              ; no carry
_sums:
        std crc + 2             ; 5
        adcb crc + 1            ; 4
        adca crc                ; 4
        std crc                 ; 5
        ldd crc + 2             ; 5
        .end

; crc: the sum of sums of span bytes from place on, which then is at their end, and their sum. Nothing between two words
; may touch the carry.
double: ldx place
        ldd span
        lsra
        rorb
        stb count
        lsra
        rorb
        tfr d,y                 ; pairs of words
        leay 1,y
        ldb count
        andb #1
        incb
        stb count               ; words before them
        ldd #$FFFF
        std crc
        ldb span + 1
        lsrb
        ldb #$FF
        bcc _ones
        adda ,x+                ; the first byte is the high one of a word
        sum_up
        bra _ones
_one:   adcb ,x+
        adca ,x+
        sum_up
_ones:  dec count
        bne _one
        bra _pairs
_pair:  .repeat 2
        adcb ,x+                ; 6
        adca ,x+                ; 6
        sum_up
        .end
_pairs: leay -1,y               ; 5
        bne _pair               ; 3
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

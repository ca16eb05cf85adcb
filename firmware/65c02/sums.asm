; Eyelet's checksums for the 65C02; part of eyelet.asm.

; CRC-32 of each of a row of blocks, or with quick FCS-16.
quick:  lda #2
        bra sums_of
sums:   lda #4
sums_of:
        sta width
        jsr address
        bcs _done
        lda payload + 5
        sta blocks
        beq _range
        cmp #(PAYLOAD - 1) / 4 + 1
        bcs _range
        lda payload + 3
        sta scratch             ; bytes in a block
        lda payload + 4
        sta scratch + 1
        ora scratch
        beq _range
_block: lda scratch
        sta count
        lda scratch + 1
        sta count + 1
        jsr any_sum
        ldy length
        ldx #0
_store: lda crc,x
        eor #$FF
        sta payload,y
        iny
        inx
        cpx width
        bne _store
        sty length
        dec blocks
        bne _block
        lda #GOOD
_done:  rts
_range: lda #RANGE
        rts

any_sum:
        lda #$FF
        sta crc
        sta crc + 1
        sta crc + 2
        sta crc + 3
        lda width
        cmp #4
        beq sum

; FCS-16 over count bytes from pointer on; both end where they end. Whole pages go faster.
fast:   lda pointer
        bne _single
        lda count + 1
        beq _last
        lda crc
_page:  eor_at pointer
        tax
        lda fcs_low,x
        eor crc + 1
        ldy fcs_high,x
        sty crc + 1
        inc pointer
        bne _page
        sta crc
        inc pointer + 1
        dec count + 1
        bra fast
_last:  lda count
        beq _over
_single:
        lda_at pointer
        eor crc
        tax
        lda fcs_low,x
        eor crc + 1
        sta crc
        lda fcs_high,x
        sta crc + 1
        jsr onward
        bne fast
_over:  rts

; The next byte: pointer and count. Z set: that was the last.
onward: inc pointer
        bne _same
        inc pointer + 1
_same:  lda count
        bne _low
        dec count + 1
_low:   dec count
        bne _rest
        lda count + 1
_rest:  rts

; Runs over count bytes from pointer on; both end where they end.
sum:    lda_at pointer
        eor crc
        sta crc
        jsr nibble
        jsr nibble
        jsr onward
        bne sum
        rts

; crc = crc >> 4 ^ the table's entry for the four bits that fell out
nibble: lda crc
        and #15
        asl a
        asl a
        tax
        ldy #4
_shift: lsr crc + 3
        ror crc + 2
        ror crc + 1
        ror crc
        dey
        bne _shift
_mix:   lda crc_table,x
        eor crc,y
        sta crc,y
        inx
        iny
        cpy #4
        bne _mix
        rts

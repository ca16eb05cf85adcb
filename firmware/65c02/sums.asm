; Eyelet's checksums for the 65C02; part of eyelet.asm.

; The sums of each of a row of blocks: CRC-32, or for quick the double sum of docs/link.md.
sums:
        jsr address
        bcs _done
        lda payload + 5
        sta blocks
        beq range
        cmp #(PAYLOAD - 1) / 4 + 1
        bcs range
        lda payload + 3
        sta scratch             ; bytes in a block
        lda payload + 4
        sta scratch + 1
        ora scratch
        beq range
_block: lda scratch
        sta count
        lda scratch + 1
        sta count + 1
        jsr any_sum
        ldy length
        ldx #$100 - 4           ; up to 0, in page zero
_store: lda (crc + 4) & $FF,x
        eor #$FF
        sta payload,y
        iny
        inx
        bne _store
        sty length
        dec blocks
        bne _block
        lda #GOOD
_done:  rts

any_sum:
        lda #$FF
        ldx #4
_start: sta crc - 1,x
        dex
        bne _start
        lda kind
        and #SUMS
        bne sum

; The double sum of count bytes from pointer on, which then is at their end: in crc the sum, then the sum of sums. The
; carry of each goes into the other, so nothing between may touch it.
double: ldy #0
        lsr count + 1
        ror count               ; words
        ldx count
        bcc _whole
        inx                     ; the first byte is the high one of a word
        iny
        lda pointer
        bne _low
        dec pointer + 1
_low:   dec pointer
        inc count + 1
        clc
        bcc _high
_whole: txa
        beq _word
        inc count + 1
_word:  lda (pointer),y         ; 5
        adc crc                 ; 3
        sta crc                 ; 3
        iny                     ; 2
_high:  lda (pointer),y         ; 5
        adc crc + 1             ; 3
        sta crc + 1             ; 3
        lda crc                 ; 3
        bcc _sums               ; 3
        adc #ROUND - 1          ; C is set
        sta crc
        bcc _sums
        inc crc + 1
        clc
_sums:  adc crc + 2             ; 3
        sta crc + 2             ; 3
        lda crc + 1             ; 3
        adc crc + 3             ; 3
        sta crc + 3             ; 3
        iny                     ; 2
        bne _page               ; 3
        inc pointer + 1
_page:  dex                     ; 2
        bne _word               ; 3
        dec count + 1
        bne _word
        tya
        clc
        adc pointer
        sta pointer
        bcc _over
        inc pointer + 1
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
out:    rts

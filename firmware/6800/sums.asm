; Eyelet's checksums for the 6800; part of eyelet.asm.

; The sums of each of a row of blocks: CRC-32, or for quick the double sum of docs/link.md.
sums:   jsr address
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
        ldx #$FFFF
        stx crc
        stx crc + 2
        ldaa kind
        bita #SUMS
        bne _long
        bsr double
        bra _sum
_long:  jsr sum
_sum:   ldx #crc + 4
        stx from
        ldab #4
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
        adda #4
        staa length
        dec blocks
        bne _block
        clra
_done:  rts
_range: jmp range

; crc: the sum of sums of left bytes from place on, which then is at their end, and their sum. The carry of each goes
; into the other, so nothing between may touch it.
double: lsr left
        ror left + 1            ; words
        bcc _whole
        ldx left                ; the first byte is the high one of a word
        inx
        stx left
_whole: ldaa left + 1
        beq _pages
        inc left
_pages: ldx place
        ldaa #$FF
        tab
        bcc _word
        dex
        clc
        bra _high
_word:  adcb 0,x                ; 5
_high:  adca 1,x                ; 5
        bcc _sums               ; 4
        addb #ROUND
        bcc _sums
        inca
        clc
_sums:
        stab crc + 3            ; 4
        staa crc + 2            ; 4
        adcb crc + 1            ; 3
        stab crc + 1            ; 4
        adca crc                ; 3
        staa crc                ; 4
        ldaa crc + 2            ; 3
        ldab crc + 3            ; 3
        inx                     ; 4
        inx                     ; 4
        dec left + 1            ; 6
        bne _word               ; 4
        dec left
        bne _word
        stx place
        rts

; crc: the checksum of left bytes from place on, which then is behind them.
sum:    ldx place
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
        bne sum
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

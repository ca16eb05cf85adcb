; The message store: texts, tides and lights, and a program that tests the messages before it trusts them.
        .place messages
first:  .text "Keeper: lamp trimmed, wick cut", 13 ending 0
second: .text "Keeper: horn silent, fog lifting", 13 ending 0
third:  .text "Keeper: supply boat at the second tide", 13 ending 0
behind:

        .place tides
; hour and height in decimetres, twelve tides
        .repeat 12, N
        .byte N * 6 mod 24, 20 + sine(N, 6, 15)
        .end

        .place lights
; seconds on and off: two short flashes every six seconds
        .byte 1, 1, 1, 3, 0

total = $10

        .place program
start:  stz total
        stz total + 1
        ldx #0
_next:  clc
        lda first,x
        adc total
        sta total
        bcc _same
        inc total + 1
_same:  inx
        cpx #behind - first
        bne _next
        lda total
        cmp sum
        bne damaged
        lda total + 1
        cmp sum + 1
        bne damaged
good:   bra good
damaged:
        bra damaged

sum:    .checksum sum16, first, behind - 1
name:   .text "message store ", board.version ending 0
        .vector reset, start

; The message store: texts, tides and lights, and a program that walks the messages.
        .place messages
first:  .text "Keeper: lamp trimmed, wick cut", 13 ending 0
second: .text "Keeper: horn silent, fog lifting", 13 ending 0
third:  .text "Keeper: supply boat at the second tide", 13 ending 0

        .place tides
; hour and height in decimetres, twelve tides
        .repeat 12, N
        .byte N * 6 mod 24, 20 + sine(N, 6, 15)
        .endrepeat

        .place lights
; seconds on and off: two short flashes every six seconds
        .byte 1, 1, 1, 3, 0

        .place program
start:  ldx #0
next:   lda first,x
        beq start
        inx
        bra next
        .vector reset, start

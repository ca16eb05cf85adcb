; The keeper's lantern: a message in Morse code, over and over. A dot is a unit of a tenth of a second, a dash three;
; between marks the lantern is dark for one unit, between letters for three, between words for seven.
;
; A letter is one byte: from the top, a mark a bit (1 a dash), then a 1 and zeros to the end of the byte.
; Who includes this has said .use "out/eyelet.sym" as eyelet and where it is to be placed.

LIT  = %11111111
DARK = %00000000

blink:  ldx #message
_letter:
        lda ,x+
        beq _again              ; the end
        cmpa #' '
        beq _space
        suba #'A'
        ldu #marks
        ldb a,u
        bsr letter
        bra _letter
_space: lda #4                  ; three units have passed already
        bsr units
        bra _letter
_again: lda #14
        bsr units
        bra blink

; The marks in B, and the pause after a letter.
letter: lda #1
        aslb
        bcc _short
        lda #3
_short: tstb                    ; the 1 alone has gone: that was the end
        beq _end
        pshs b
        ldb #LIT
        stb board.lantern.data
        bsr units
        ldb #DARK
        stb board.lantern.data
        lda #1
        bsr units
        puls b
        bra letter
_end:   lda #2                  ; one unit has passed already
; A units of time, listening to the line all the while: turns of 31 cycles.
TURNS = board.clock / 10 / 31
units:  pshs a,x
_unit:  ldx #TURNS
_turn:  jsr eyelet.poll         ; 8, then 5 + 2 + 3 + 5
        leax -1,x               ; 5
        bne _turn               ; 3
        dec ,s
        bne _unit
        puls a,x,pc

marks:  .byte %01100000, %10001000, %10101000, %10010000, %01000000, %00101000, %11010000       ; A to G
        .byte %00001000, %00100000, %01111000, %10110000, %01001000, %11100000, %10100000       ; H to N
        .byte %11110000, %01101000, %11011000, %01010000, %00010000, %11000000, %00110000       ; O to U
        .byte %00011000, %01110000, %10011000, %10111000, %11001000                             ; V to Z

message:
        .text "FOG AT DAWN" ending 0

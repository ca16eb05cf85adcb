; What the disk starts: the heights of a made-up tide on the lamps, hour by hour, and a line for
; whoever is at the terminal.

HOUR    = 200           ; how long the lamps show one, about a fifth of a second

        .place program
        .entry start
start:  ld a,%00011111          ; 19,200 baud, 8 bits
        out (board.serial.control),a
        ld a,%00001011
        out (board.serial.command),a
        ld hl,greeting
_say:   ld a,(hl)
        or a
        jr z,tide
        call say
        inc hl
        jr _say

tide:   ld hl,heights
        ld b,12
_hour:  ld a,(hl)
        out (board.lamps.data),a
        inc hl
        ld d,HOUR
_wait:  dec e
        jr nz,_wait
        dec d
        jr nz,_wait
        djnz _hour
        jr tide

say:    push af
_full:  in a,(board.serial.status)
        and %00010000
        jr z,_full
        pop af
        out (board.serial.data),a
        ret

heights:
        .byte 1, 3, 7, 15, 31, 63, 127, 63, 31, 15, 7, 3
greeting:
        .text "Skerry, from disk: tide by the hour\r\n" ending 0

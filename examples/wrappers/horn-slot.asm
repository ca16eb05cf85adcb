; An image for the fog horn's slot: 8 KiB at $A000 that the horn's board looks into at power-on.

SLOT = $A000
SIZE = $2000

        .org SLOT
        .byte "HORN"                    ; the mark that the board looks for
        .word on_power, on_fog          ; where it goes
        .text "fog horn 3" marked       ; what it shows, the last character marked

on_power:
        stz $8011
        rts

on_fog: ldy #3
_blast: lda #1
        sta $8011
        jsr pause
        stz $8011
        jsr pause
        dey
        bne _blast
        rts

pause:  ldx #0
_wait:  dex
        bne _wait
        rts

        .fill SLOT + SIZE - 2 - here, $FF
        .word SLOT ^ $FFFF              ; the last word proves that all of the slot is there

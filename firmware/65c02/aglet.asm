; Aglet for the 65C02: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            aglet_zero  a few bytes of page zero
;   devices  serial      a 6551 kind of serial interface

        .include "<common/rate>"

        .place aglet_zero
row:    .reserve 4              ; the header from its end: check, count, address
sum:    .reserve 1
check   = row
count   = row + 1
address = row + 2

        .place aglet
        .entry start
start:  lda #%00010000 | RATE   ; 8 bits, 1 stop, internal clock
        sta board.serial.control
        lda #%00001011          ; receiver on, no interrupts
        sta board.serial.command

reject: stz sum
header: ldx #3
_next:  jsr take
        sta row,x
        jsr answer
        dex
        bpl _next
        lda sum
        bne reject
        ldy count
        beq run
        ldy #0
_row:   jsr take
        sta (address),y
        lda (address),y         ; what memory keeps is what is answered
        jsr answer
        iny
        dec count
        bne _row
        bra header

run:    jmp (address)

take:   lda board.serial.status
        and #%00001000          ; received
        beq take
        lda board.serial.data
        rts

answer: clc
        adc sum
        sta sum
        sta board.serial.data   ; free: nothing is sent before this is answered
        rts
last:
        .assert last - start <= 80, "Aglet is larger than 80 bytes"

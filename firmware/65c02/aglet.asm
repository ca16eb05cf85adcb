; Aglet for the 65C02, and through <6502/aglet> for the NMOS 6502: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            aglet_zero  a few bytes of page zero
;   devices  serial      a serial interface: docs/serial.md

        .include "<serial>"
        .if defined(NMOS)
        .include "<6502/ways>"
        .else
        .include "<65c02/ways>"
        .end

        .place aglet_zero
row:    .reserve 4              ; the header from its end: check, count, address
sum:    .reserve 1
check   = row
count   = row + 1
address = row + 2

        .place aglet
        .entry start
start:
        .if defined(NMOS)
        cld                     ; it comes up as chance has it
        .end
        serial_begin

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

take:   serial_ready
        beq take
        serial_get
        rts

answer: clc
        adc sum
        sta sum
        serial_put              ; free: nothing is sent before this is answered
        rts
        serial_code
last:
        .assert last - start <= 240, "Aglet is larger than 240 bytes"

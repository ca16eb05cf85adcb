; Aglet for the 6809: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            aglet_zero  four bytes of RAM in the page at 0: the direct page after a reset
;            stack       RAM for the stack; it begins at the upper end
;   devices  serial      a serial interface: docs/serial.md

        .include "<serial>"

STACK = area.stack.last + 1 & $FFFF

        .place aglet_zero
address: .reserve 2
count:   .reserve 1
byte:    .reserve 1

        .place aglet
        .entry start
start:  serial_begin
        lds #STACK

reject: clrb                    ; the sum
header: bsr get
        sta address
        bsr get
        sta address + 1
        bsr get
        sta count
        bsr get
        tstb
        bne reject
        ldx address
        tst count
        beq run
row:    bsr take
        sta ,x
        lda ,x+                 ; what memory keeps is what is answered
        bsr answer
        dec count
        bne row
        bra header

run:    jmp ,x

get:    bsr take
answer: sta byte
        addb byte
        serial_put_b            ; free: nothing is sent before this is answered
        rts

take:   serial_ready
        beq take
        serial_get
        rts
        serial_code
last:
        .assert last - start <= 240, "Aglet is larger than 240 bytes"

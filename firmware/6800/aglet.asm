; Aglet for the 6800: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            aglet_zero  three bytes of RAM in the page at 0
;            stack       RAM for the stack; it begins at the upper end
;   devices  serial      a serial interface: docs/serial.md

        .include "<serial>"

        .place aglet_zero
address: .reserve 2
count:   .reserve 1

        .place aglet
        .entry start
start:  serial_begin
        lds #area.stack.last

reject: clrb                    ; the sum
header: bsr get
        staa address
        bsr get
        staa address + 1
        bsr get
        staa count
        bsr get
        ldx address
        tstb
        bne reject
        tst count
        beq run
row:    bsr take
        staa 0,x
        ldaa 0,x                ; what memory keeps is what is answered
        bsr answer
        inx
        dec count
        bne row
        bra header

run:    jmp 0,x

get:    bsr take
answer: psha
        aba
        tab
        serial_put              ; free: nothing is sent before this is answered
        pula
        rts

take:   serial_ready
        beq take
        serial_get
        rts
        serial_code
last:
        .assert last - start <= 240, "Aglet is larger than 240 bytes"

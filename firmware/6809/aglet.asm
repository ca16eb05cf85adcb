; Aglet for the 6809: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            aglet_zero  four bytes of RAM in the page at 0: the direct page after a reset
;            stack       RAM for the stack; it begins at the upper end
;   devices  serial      a 6551 kind of serial interface

        .include "<common/rate>"

STACK = area.stack.last + 1 & $FFFF

        .place aglet_zero
address: .reserve 2
count:   .reserve 1
byte:    .reserve 1

        .place aglet
        .entry start
start:  lda #%00010000 | RATE   ; 8 bits, 1 stop, internal clock
        sta board.serial.control
        lda #%00001011          ; receiver on, no interrupts
        sta board.serial.command
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
        stb board.serial.data   ; free: nothing is sent before this is answered
        rts

take:   lda board.serial.status
        bita #%00001000         ; received
        beq take
        lda board.serial.data
        rts
last:
        .assert last - start <= 80, "Aglet is larger than 80 bytes"

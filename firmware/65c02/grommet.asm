; Grommet for the 65C02: a loader for a parallel port with an interrupt. docs/parallel.md.
;
; What it needs of the bench file:
;   areas    grommet       where it lies, RAM
;            grommet_zero  four bytes of page zero
;   devices  port          an 8-bit port with strobe and ready (port-8)

FULL = %10000000                ; of the port's control register; read
WAKE = %00000001                ; written: a byte interrupts

        .place grommet_zero
address: .reserve 2
count:   .reserve 1
sum:     .reserve 1

        .place grommet
        .entry start
start:  sei                     ; WAI goes on without a routine, then
        lda #WAKE
        sta board.port.control

row:    stz sum
        jsr take
        sta address + 1
        jsr take
        sta address
        jsr take
        sta count
        tax
        beq _start
        ldy #0
_next:  jsr fetch
        sta (address),y
        lda (address),y         ; what memory keeps is what is added up
        jsr add
        iny
        dec count
        bne _next
        jsr check
        bra row
_start: jsr check
        lda address
        ora address + 1
        beq row                 ; only an end
        jmp (address)

; Stands still when the sum of a row is wrong: then nothing more is taken.
check:  jsr take
        lda sum
        beq _good
        stp
_good:  rts

take:   jsr fetch
add:    pha
        clc
        adc sum
        sta sum
        pla
        rts

fetch:  wai
        bit board.port.control
        bpl fetch
        lda board.port.data
        rts
last:
        .assert last - start <= 96, "Grommet is larger than 96 bytes"

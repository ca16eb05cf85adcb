; Aglet for the Z80: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            stack       RAM for the stack; it begins at the upper end
;   devices  serial      a serial interface: docs/serial.md

        .include "<serial>"

STACK = area.stack.last + 1 & $FFFF

        .place aglet
        .entry start
start:  serial_begin
        ld sp,STACK

reject: ld c,0                  ; the sum
header: call get
        ld h,a                  ; the address
        call get
        ld l,a
        call get
        ld b,a                  ; the count
        call get
        ld a,c
        or a
        jr nz,reject
        or b
        jr z,run
row:    call take
        ld (hl),a
        ld a,(hl)               ; what memory keeps is what is answered
        call answer
        inc hl
        djnz row
        jr header

run:    jp (hl)

get:    call take
answer: ld d,a
        add a,c
        ld c,a
        serial_put              ; free: nothing is sent before this is answered
        ld a,d
        ret

take:   serial_ready
        jr z,take
        serial_get
        ret
        serial_code
last:
        .assert last - start <= 240, "Aglet is larger than 240 bytes"

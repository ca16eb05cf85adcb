; Aglet for the Z80: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
;
; What it needs of the bench file:
;   areas    aglet       where it lies, RAM
;            stack       RAM for the stack; it begins at the upper end
;   devices  serial      a 6551 kind of serial interface, in the I/O space

        .include "<common/rate>"

STACK = area.stack.last + 1 & $FFFF

        .place aglet
        .entry start
start:  ld a,%00010000 | RATE   ; 8 bits, 1 stop, internal clock
        out (board.serial.control),a
        ld a,%00001011          ; receiver on, no interrupts
        out (board.serial.command),a
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
        out (board.serial.data),a ; free: nothing is sent before this is answered
        ld a,d
        ret

take:   in a,(board.serial.status)
        and %00001000           ; received
        jr z,take
        in a,(board.serial.data)
        ret
last:
        .assert last - start <= 80, "Aglet is larger than 80 bytes"

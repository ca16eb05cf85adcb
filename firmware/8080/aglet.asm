; Aglet for the 8080 and 8085: the first thing in a bare machine, to be toggled or typed in. docs/aglet.md.
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
        lxi sp,STACK

reject: mvi c,0                 ; the sum
header: call get
        mov h,a                 ; the address
        call get
        mov l,a
        call get
        mov b,a                 ; the count
        call get
        mov a,c
        ora a
        jnz reject
        ora b
        jz run
row:    call take
        mov m,a
        mov a,m                 ; what memory keeps is what is answered
        call answer
        inx h
        dcr b
        jnz row
        jmp header

run:    pchl

get:    call take
answer: mov d,a
        add c
        mov c,a
        serial_put              ; free: nothing is sent before this is answered
        mov a,d
        ret

take:   serial_ready
        jz take
        serial_get
        ret
        serial_code
last:
        .assert last - start <= 240, "Aglet is larger than 240 bytes"

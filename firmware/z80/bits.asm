; How a Z80 times the bits of the line itself, as <z80/serial> does it with a chip: docs/serial.md.

LEAST = 312
MOST  = 3000
        .include "<serial/bit-times>"

; So many cycles, at least 34. Changes D and flags.
        .macro serial_pass CYCLES
        ld d,(CYCLES - 2) / 16
_turn:  dec d
        jr nz,_turn
        .repeat (CYCLES - 2) mod 16 / 4
        nop
        .end
        .end

        .macro serial_load REGISTER
        .if AT_PORT
        in a,(REGISTER)
        .else
        ld a,(REGISTER)
        .end
        .end
        .macro serial_store REGISTER
        .if AT_PORT
        out (REGISTER),a
        .else
        ld (REGISTER),a
        .end
        .end

; The line rests high.
        .macro serial_begin
        serial_load SERIAL_OUT
        or OUT_BIT
        serial_store SERIAL_OUT
        .if defined(board.serial.tx_direction)
        serial_load board.serial.tx_direction
        or OUT_BIT
        serial_store board.serial.tx_direction
        .end
        .end

; Has a start bit begun? Z is clear when one has, carry in any case; then serial_get must follow within 80 cycles. Changes A.
        .macro serial_ready
        serial_load SERIAL_IN
        cpl
        and IN_BIT
        .end

        .macro serial_get
        call serial_hear
        .end
        .macro serial_put
        call serial_say
        .end
        .macro serial_send
        call serial_say
        .end

        .macro serial_code
; A as start bit, eight bits, stop bit. Keeps all registers and the flags.
serial_say:
        push af
        push bc
        push de
        ld c,a
        ld b,10
        or a                    ; the start bit
_bit:   serial_load SERIAL_OUT
        jr c,_one
        and ~OUT_BIT & $FF
        jr _put
_one:   or OUT_BIT
        nop
        nop
_put:   serial_store SERIAL_OUT
        serial_pass BIT_CYCLES - 74
        scf                     ; the stop bit comes in behind the others
        rr c
        djnz _bit
        pop de
        pop bc
        pop af
        ret

; The byte whose start bit was just seen, into A. Keeps the others and the flags.
serial_hear:
        push bc
        push de
        push af
        serial_pass BIT_CYCLES * 3 / 2 - 115    ; to the middle of the first bit
        ld b,8
_bit:   serial_load SERIAL_IN
        and IN_BIT
        add a,$FF               ; carry is set unless it was 0
        rr c
        dec b
        jr z,_stop
        serial_pass BIT_CYCLES - 56
        jr _bit
_stop:  serial_load SERIAL_IN   ; to the stop bit, unless the line is held
        and IN_BIT
        jr nz,_over
        djnz _stop
_over:  pop de
        ld d,c                  ; the byte, with the flags as they were
        push de
        pop af
        pop de
        pop bc
        ret
        .end

; How an 8080, or through <8085/bits> an 8085, times the bits of the line itself, as <8080/serial> does it with a chip:
; docs/serial.md. The 8085 takes less time for some instructions.

        .if defined(IS_8085)
TURN_CYCLES = 14                ; of the loop below, and what it has before and behind
TURN_MORE   = 4
SAY_CYCLES  = 75
HEAR_CYCLES = 57
LEAST       = 341
        .else
TURN_CYCLES = 15
TURN_MORE   = 7
SAY_CYCLES  = 80
HEAR_CYCLES = 63
LEAST       = 334
        .end

MOST  = 3000
        .include "<serial/bit-times>"

; So many cycles, at least 30. Changes D and flags.
        .macro serial_pass CYCLES
        mvi d,(CYCLES - TURN_MORE) / TURN_CYCLES
_turn:  dcr d
        jnz _turn
        .repeat (CYCLES - TURN_MORE) mod TURN_CYCLES / 4
        nop
        .end
        .end

        .macro serial_load REGISTER
        .if AT_PORT
        in REGISTER
        .else
        lda REGISTER
        .end
        .end
        .macro serial_store REGISTER
        .if AT_PORT
        out REGISTER
        .else
        sta REGISTER
        .end
        .end

; The line rests high.
        .macro serial_begin
        serial_load SERIAL_OUT
        ori OUT_BIT
        serial_store SERIAL_OUT
        .if defined(board.serial.tx_direction)
        serial_load board.serial.tx_direction
        ori OUT_BIT
        serial_store board.serial.tx_direction
        .end
        .end

; Has a start bit begun? Z is clear when one has, carry in any case; then serial_get must follow within 80 cycles. Changes A.
        .macro serial_ready
        serial_load SERIAL_IN
        cma
        ani IN_BIT
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
        push psw
        push b
        push d
        mov c,a
        mvi b,10
        ora a                   ; the start bit
_bit:   serial_load SERIAL_OUT
        jc _one
        ani ~OUT_BIT & $FF
        jmp _put
_one:   ori OUT_BIT
        jmp _put
_put:   serial_store SERIAL_OUT
        serial_pass BIT_CYCLES - SAY_CYCLES
        stc                     ; the stop bit comes in behind the others
        mov a,c
        rar
        mov c,a
        dcr b
        jnz _bit
        pop d
        pop b
        pop psw
        ret

; The byte whose start bit was just seen, into A. Keeps the others and the flags.
serial_hear:
        push b
        push d
        push psw
        serial_pass BIT_CYCLES * 3 / 2 - 119    ; to the middle of the first bit
        mvi b,8
_bit:   serial_load SERIAL_IN
        ani IN_BIT
        adi $FF                 ; carry is set unless it was 0
        mov a,c
        rar
        mov c,a
        dcr b
        jz _stop
        serial_pass BIT_CYCLES - HEAR_CYCLES
        jmp _bit
_stop:  serial_load SERIAL_IN   ; to the stop bit, unless the line is held
        ani IN_BIT
        jnz _over
        dcr b
        jnz _stop
_over:  pop d
        mov d,c                 ; the byte, with the flags as they were
        push d
        pop psw
        pop d
        pop b
        ret
        .end

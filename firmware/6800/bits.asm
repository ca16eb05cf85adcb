; How a 6800 times the bits of the line itself, as <6800/serial> does it with a chip: docs/serial.md.

LEAST = 125
MOST  = 800
        .include "<serial/bit-times>"

        .place serial_zero
serial_byte: .reserve 1

; So many cycles, at least 15. Changes A and flags, but not carry.
        .macro serial_pass CYCLES
        .if (CYCLES - 2) mod 6 == 1
        ldaa #(CYCLES - 2) / 6 - 1
        .else
        ldaa #(CYCLES - 2) / 6
        .end
_turn:  deca
        bne _turn
        .if (CYCLES - 2) mod 6 == 1
        nop
        nop
        ldaa <serial_byte
        .elseif (CYCLES - 2) mod 6 == 2
        nop
        .elseif (CYCLES - 2) mod 6 == 3
        ldaa <serial_byte
        .elseif (CYCLES - 2) mod 6 == 4
        nop
        nop
        .elseif (CYCLES - 2) mod 6 == 5
        nop
        ldaa <serial_byte
        .end
        .end

; The line rests high.
        .macro serial_begin
        ldaa SERIAL_OUT
        oraa #OUT_BIT
        staa SERIAL_OUT
        .if defined(board.serial.tx_direction)
        ldaa board.serial.tx_direction
        oraa #OUT_BIT
        staa board.serial.tx_direction
        .end
        .end

; Has a start bit begun? Z is clear when one has; then serial_get must follow within 40 cycles. Changes A.
        .macro serial_ready
        ldaa SERIAL_IN
        eora #$FF
        anda #IN_BIT
        .end

        .macro serial_get
        jsr serial_hear
        .end
        .macro serial_get_b
        jsr serial_hear
        tab
        .end
        .macro serial_put
        jsr serial_say
        .end
        .macro serial_send
        jsr serial_say
        .end

        .macro serial_code
; A as start bit, eight bits, stop bit. Keeps all registers.
serial_say:
        psha
        pshb
        staa serial_byte
        ldab #10
        clc
_bit:   ldaa SERIAL_OUT
        anda #~OUT_BIT & $FF
        bcc _low
        oraa #OUT_BIT
_low:   staa SERIAL_OUT
        serial_pass BIT_CYCLES - 30
        sec                     ; the stop bit comes in behind the others
        ror serial_byte
        decb
        bne _bit
        pulb
        pula
        rts

; The byte whose start bit was just seen, into A. Keeps the others.
serial_hear:
        pshb
        serial_pass BIT_CYCLES * 3 / 2 - 47     ; to the middle of the first bit
        ldab #8
_bit:   ldaa SERIAL_IN
        anda #IN_BIT
        nega                    ; carry is set unless it is 0
        ror serial_byte
        decb
        beq _stop
        serial_pass BIT_CYCLES - 24
        bra _bit
_stop:  ldaa SERIAL_IN          ; to the stop bit, unless the line is held
        anda #IN_BIT
        bne _over
        decb
        bne _stop
_over:  ldaa serial_byte
        pulb
        rts
        .end

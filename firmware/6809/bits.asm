; How a 6809 times the bits of the line itself, as <6809/serial> does it with a chip: docs/serial.md.

LEAST = 125
MOST  = 800
        .include "<serial/bit-times>"

        .place serial_zero
serial_byte: .reserve 1

; So many cycles, at least 8. Changes A and flags, but not carry.
        .macro serial_pass CYCLES
        .if (CYCLES - 2) mod 5 == 1
        lda #(CYCLES - 2) / 5 - 1
        .else
        lda #(CYCLES - 2) / 5
        .end
_turn:  deca
        bne _turn
        .if (CYCLES - 2) mod 5 == 1
        nop
        nop
        nop
        .elseif (CYCLES - 2) mod 5 == 2
        nop
        .elseif (CYCLES - 2) mod 5 == 3
        brn _turn
        .elseif (CYCLES - 2) mod 5 == 4
        nop
        nop
        .end
        .end

; The line rests high.
        .macro serial_begin
        lda SERIAL_OUT
        ora #OUT_BIT
        sta SERIAL_OUT
        .if defined(board.serial.tx_direction)
        lda board.serial.tx_direction
        ora #OUT_BIT
        sta board.serial.tx_direction
        .end
        .end

; Has a start bit begun? Z is clear when one has; then serial_get must follow within 40 cycles. Changes A.
        .macro serial_ready
        lda SERIAL_IN
        eora #$FF
        anda #IN_BIT
        .end

        .macro serial_get
        jsr serial_hear
        .end
        .macro serial_get_b
        jsr serial_hear
        tfr a,b
        .end
        .macro serial_put
        jsr serial_say
        .end
        .macro serial_put_b
        exg a,b
        jsr serial_say
        exg a,b
        .end
        .macro serial_send
        jsr serial_say
        .end

        .macro serial_code
; A as start bit, eight bits, stop bit. Keeps all registers.
serial_say:
        pshs a,b
        sta >serial_byte
        ldb #10
        andcc #$FE
_bit:   lda SERIAL_OUT
        anda #~OUT_BIT & $FF
        bcc _low
        ora #OUT_BIT
_low:   sta SERIAL_OUT
        serial_pass BIT_CYCLES - 31
        orcc #1                 ; the stop bit comes in behind the others
        ror >serial_byte
        decb
        bne _bit
        puls a,b,pc

; The byte whose start bit was just seen, into A. Keeps the others.
serial_hear:
        pshs b
        serial_pass BIT_CYCLES * 3 / 2 - 48     ; to the middle of the first bit
        ldb #8
_bit:   lda SERIAL_IN
        anda #IN_BIT
        nega                    ; carry is set unless it is 0
        ror >serial_byte
        decb
        beq _stop
        serial_pass BIT_CYCLES - 24
        bra _bit
_stop:  lda SERIAL_IN           ; to the stop bit, unless the line is held
        anda #IN_BIT
        bne _over
        decb
        bne _stop
_over:  lda >serial_byte
        puls b,pc
        .end

; How a 65C02 or 6502 times the bits of the line itself, as <65c02/serial> does it with a chip: docs/serial.md.

LEAST = defined(NMOS) ? 114 : 104
MOST  = 800
        .include "<serial/bit-times>"

        .place serial_zero
serial_byte: .reserve 1
serial_x:    .reserve 1
serial_y:    .reserve 1

; So many cycles, at least 8. Changes Y and flags.
        .macro serial_pass CYCLES
        .if (CYCLES - 1) mod 5 == 1
        ldy #(CYCLES - 1) / 5 - 1
        .else
        ldy #(CYCLES - 1) / 5
        .end
_turn:  dey
        bne _turn
        .if (CYCLES - 1) mod 5 == 1
        nop
        nop
        nop
        .elseif (CYCLES - 1) mod 5 == 2
        nop
        .elseif (CYCLES - 1) mod 5 == 3
        bit serial_byte
        .elseif (CYCLES - 1) mod 5 == 4
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
        eor #$FF
        and #IN_BIT
        .end

        .macro serial_get
        jsr serial_hear
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
        sta serial_byte
        stx serial_x
        sty serial_y
        pha
        ldx #10
        clc
_bit:   lda SERIAL_OUT
        and #~OUT_BIT & $FF
        bcc _low
        ora #OUT_BIT
_low:   sta SERIAL_OUT
        serial_pass BIT_CYCLES - 26
        sec                     ; the stop bit comes in behind the others
        ror serial_byte
        dex
        bne _bit
        pla
        ldx serial_x
        ldy serial_y
        rts

; The byte whose start bit was just seen, into A. Keeps the others.
serial_hear:
        stx serial_x
        sty serial_y
        serial_pass BIT_CYCLES * 3 / 2 - 43     ; to the middle of the first bit
        ldx #8
_bit:   lda SERIAL_IN
        and #IN_BIT
        cmp #1
        ror serial_byte
        dex
        beq _stop
        serial_pass BIT_CYCLES - 20
        jmp _bit
_stop:  lda SERIAL_IN           ; to the stop bit, unless the line is held
        and #IN_BIT
        bne _over
        dex
        bne _stop
_over:  lda serial_byte
        ldx serial_x
        ldy serial_y
        rts
        .end

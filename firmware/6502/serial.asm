; How a 6502 reaches the serial interface, whose driver says the rest: docs/serial.md.

; Writes a byte into a register. Changes A.
        .macro serial_set REGISTER, BYTE
        lda #BYTE
        sta REGISTER
        .end

; Has a byte come? Z is clear when one has. Changes A.
        .macro serial_ready
        lda board.serial.status
        and #RECEIVED
        .end

; The byte that has come, into A.
        .macro serial_get
        lda board.serial.data
        .end

; Sends A at once: for whoever knows that nothing is being sent.
        .macro serial_put
        sta board.serial.data
        .end

; Sends A as soon as the interface takes it. Keeps A.
        .macro serial_send
        pha
_busy:  lda board.serial.status
        and #EMPTY
        beq _busy
        pla
        serial_put
        .end

; What has to lie somewhere: nothing, with a chip.
        .macro serial_code
        .end

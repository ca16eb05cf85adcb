; How a 6809 reaches the serial interface, whose driver says the rest: docs/serial.md.

; Writes a byte into a register. Changes A.
        .macro serial_set REGISTER, BYTE
        lda #BYTE
        sta REGISTER
        .end

; Has a byte come? Z is clear when one has. Changes A.
        .macro serial_ready
        lda board.serial.status
        bita #RECEIVED
        .end

; The byte that has come, into A; into B.
        .macro serial_get
        lda board.serial.data
        .end
        .macro serial_get_b
        ldb board.serial.data
        .end

; Sends A, or B, at once: for whoever knows that nothing is being sent.
        .macro serial_put
        sta board.serial.data
        .end
        .macro serial_put_b
        stb board.serial.data
        .end

; Sends A as soon as the interface takes it. Keeps A and B.
        .macro serial_send
        pshs b
_busy:  ldb board.serial.status
        bitb #EMPTY
        beq _busy
        serial_put
        puls b
        .end

; What has to lie somewhere: nothing, with a chip.
        .macro serial_code
        .end

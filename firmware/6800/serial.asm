; How a 6800 reaches the serial interface, whose driver says the rest: docs/serial.md.

; Writes a byte into a register. Changes A.
        .macro serial_set REGISTER, BYTE
        ldaa #BYTE
        staa REGISTER
        .end

; Has a byte come? Z is clear when one has. Changes A.
        .macro serial_ready
        ldaa board.serial.status
        bita #RECEIVED
        .end

; The byte that has come, into A; into B.
        .macro serial_get
        ldaa board.serial.data
        .end
        .macro serial_get_b
        ldab board.serial.data
        .end

; Sends A, or B, at once: for whoever knows that nothing is being sent.
        .macro serial_put
        staa board.serial.data
        .end
        .macro serial_put_b
        stab board.serial.data
        .end

; Sends A as soon as the interface takes it. Keeps A and B.
        .macro serial_send
        pshb
_busy:  ldab board.serial.status
        bitb #EMPTY
        beq _busy
        serial_put
        pulb
        .end

; What has to lie somewhere: nothing, with a chip.
        .macro serial_code
        .end

; How a Z80 reaches the serial interface, whose driver says the rest: docs/serial.md.

; Writes a byte into a register. Changes A.
        .macro serial_set REGISTER, BYTE
        ld a,BYTE
        serial_store REGISTER
        .end

; A register to A, and A to a register, at ports or in memory.
        .if board.serial.at_port
        .macro serial_load REGISTER
        in a,(REGISTER)
        .end
        .macro serial_store REGISTER
        out (REGISTER),a
        .end
        .else
        .macro serial_load REGISTER
        ld a,(REGISTER)
        .end
        .macro serial_store REGISTER
        ld (REGISTER),a
        .end
        .end

; Has a byte come? Z is clear when one has, carry in any case. Changes A.
        .macro serial_ready
        serial_load board.serial.status
        and RECEIVED
        .end

; The byte that has come, into A. Keeps the flags.
        .macro serial_get
        serial_load board.serial.data
        .end

; Sends A at once: for whoever knows that nothing is being sent. Keeps A and the flags.
        .macro serial_put
        serial_store board.serial.data
        .end

; Sends A as soon as the interface takes it. Keeps A and the flags.
        .macro serial_send
        push af
_busy:  serial_load board.serial.status
        and EMPTY
        jr z,_busy
        pop af
        serial_put
        .end

; What has to lie somewhere: nothing, with a chip.
        .macro serial_code
        .end

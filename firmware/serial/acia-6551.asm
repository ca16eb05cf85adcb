; Driver of the 6551 kind of serial interface; its rates come from a crystal of 1.8432 MHz.

RECEIVED = %00001000            ; bits of the status register
EMPTY    = %00010000

        .include "<common/rate>"

        .macro serial_begin
        serial_set board.serial.control, %00010000 | RATE       ; 8 bits, 1 stop, internal clock
        serial_set board.serial.command, %00001011      ; receiver on, no interrupts
        .end

; Driver of channel A of the Z80 family's serial pair: its clock is 16, 32 or 64 times the rate.

RECEIVED = %00000001            ; bits of read register 0
EMPTY    = %00000100

        .include "<serial/divided>"
        .assert DIVIDER != 0, "the channel makes its clock divided by 16, 32 or 64: give 'serial' a clock of so many times the rate of 'link'"

        .macro serial_begin
        serial_clock
        serial_set board.serial.control, %00011000      ; channel reset
        serial_set board.serial.control, 4
        serial_set board.serial.control, %00000100 | (DIVIDER == 16 ? %01000000 : DIVIDER == 32 ? %10000000 : %11000000) ; 1 stop
        serial_set board.serial.control, 3
        serial_set board.serial.control, %11000001      ; 8 bits, receiver on
        serial_set board.serial.control, 5
        serial_set board.serial.control, %11101010      ; 8 bits, transmitter on, DTR, RTS
        serial_set board.serial.control, 1
        serial_set board.serial.control, 0      ; no interrupts
        .end

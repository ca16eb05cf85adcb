; Driver of the 8251 kind of serial interface: its clock is 16 or 64 times the rate.

RECEIVED = %00000010            ; bits of the status
EMPTY    = %00000001

        .include "<serial/divided>"
        .assert DIVIDER == 16 || DIVIDER == 64, "an 8251 makes its clock divided by 16 or 64: give 'serial' a clock of so many times the rate of 'link'"

; Whatever it was told before: three zeros end any mode, then a reset is understood.
        .macro serial_begin
        serial_clock
        serial_set board.serial.control, 0
        serial_set board.serial.control, 0
        serial_set board.serial.control, 0
        serial_set board.serial.control, %01000000
        serial_set board.serial.control, DIVIDER == 64 ? %01001111 : %01001110  ; 8 bits, 1 stop
        serial_set board.serial.control, %00110111     ; both ways on, DTR, RTS, errors forgotten
        .end

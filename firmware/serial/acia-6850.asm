; Driver of the 6850 kind of serial interface: its clock is 16 or 64 times the rate.

RECEIVED = %00000001            ; bits of the status register
EMPTY    = %00000010

        .include "<serial/divided>"
        .assert DIVIDER == 16 || DIVIDER == 64, "a 6850 makes its clock divided by 16 or 64: give 'serial' a clock of so many times the rate of 'link'"

        .macro serial_begin
        serial_clock
        serial_set board.serial.control, %00000011      ; master reset
        serial_set board.serial.control, DIVIDER == 64 ? %00010110 : %00010101  ; 8 bits, 1 stop, no interrupts
        .end

; The clock of the serial interface is made by a channel of the Z80 family's timer: CLOCK_REGISTER is its address or port,
; CLOCK_COUNTED the clock that it counts, or 0: then it divides that of the CPU by 16. Host and bench file say them.

        .assert CLOCK_AT_PORT == board.serial.at_port, "'serial' and the timer of its clock are both at ports, or both in memory"

CLOCK_RATE  = CLOCK_COUNTED ? CLOCK_COUNTED : board.clock / 16
CLOCK_COUNT = (CLOCK_RATE + board.serial.clock / 2) / board.serial.clock
        .assert CLOCK_COUNT >= 1 && CLOCK_COUNT <= 256, "the timer cannot make the clock of 'serial': it divides by 1 to 256"
        .assert CLOCK_RATE * 50 > CLOCK_COUNT * board.serial.clock * 49 && CLOCK_RATE * 50 < CLOCK_COUNT * board.serial.clock * 51, "the timer makes no clock within 2 % of that of 'serial'"

        .macro serial_clock
        serial_set CLOCK_REGISTER, CLOCK_COUNTED ? %01000111 : %00000111        ; reset; counter or timer; a constant follows
        serial_set CLOCK_REGISTER, CLOCK_COUNT & $FF
        .end

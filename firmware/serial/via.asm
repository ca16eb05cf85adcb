; The clock of the serial interface is PB7 of a 6522: its first timer runs freely and turns it over at each end.

        .assert CLOCK_AT_PORT == board.serial.at_port, "'serial' and the timer of its clock are both at ports, or both in memory"

CLOCK_TURN = (board.clock / 2 + board.serial.clock / 2) / board.serial.clock ; cycles of half a period
        .assert CLOCK_TURN >= 2 && CLOCK_TURN <= $10001, "the timer cannot make the clock of 'serial': half a period is 2 cycles at least"
        .assert board.clock / 2 * 50 > CLOCK_TURN * board.serial.clock * 49 && board.clock / 2 * 50 < CLOCK_TURN * board.serial.clock * 51, "the timer makes no clock within 2 % of that of 'serial'"

        .macro serial_clock
        serial_set CLOCK_AUXILIARY, %11000000   ; free running, PB7 is its output
        serial_set CLOCK_LOW, lo(CLOCK_TURN - 2)
        serial_set CLOCK_HIGH, hi(CLOCK_TURN - 2)
        .end

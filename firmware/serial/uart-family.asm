; What the drivers of the 8250 family have alike: a divisor of 16 bits. FIFO: what goes into the FIFO control register.

RECEIVED = %00000001            ; bits of the line status
EMPTY    = %00100000

DIVISOR = (board.serial.clock + board.link.baud * 8) / (board.link.baud * 16)
        .assert DIVISOR > 0 && DIVISOR < $10000, "the clock of 'serial' gives no such rate: it is at least 16 times the rate of 'link'"
        .assert board.serial.clock * 50 > DIVISOR * 16 * board.link.baud * 49 && board.serial.clock * 50 < DIVISOR * 16 * board.link.baud * 51, "the clock of 'serial' divided by 16, and by a whole number, gives no rate within 2 % of that of 'link'"

        .macro serial_begin
        serial_clock
        serial_set board.serial.format, %10000000       ; the divisor
        serial_set board.serial.divisor_low, lo(DIVISOR)
        serial_set board.serial.divisor_high, hi(DIVISOR)
        serial_set board.serial.format, %00000011       ; 8 bits, 1 stop
        serial_set board.serial.enable, 0       ; no interrupts
        serial_set board.serial.fifo, FIFO
        .end

; The serial interface's code for the line's rate.
RATE = board.link.baud == 19200 ? 15 : board.link.baud == 9600 ? 14 : board.link.baud == 4800 ? 12 : board.link.baud == 2400 ? 10 : board.link.baud == 1200 ? 8 : board.link.baud == 300 ? 6 : 0
        .assert RATE != 0, "the serial interface knows 300, 1200, 2400, 4800, 9600 and 19200 baud"

; By how much an interface divides its clock: of 16, 32 and 64 the one that gives the line's rate within 2 %; 0: none does.

DIVIDER = (board.serial.clock * 50 > board.link.baud * 16 * 49 && board.serial.clock * 50 < board.link.baud * 16 * 51) ? 16 : (board.serial.clock * 50 > board.link.baud * 32 * 49 && board.serial.clock * 50 < board.link.baud * 32 * 51) ? 32 : (board.serial.clock * 50 > board.link.baud * 64 * 49 && board.serial.clock * 50 < board.link.baud * 64 * 51) ? 64 : 0

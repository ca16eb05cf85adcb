; Can bits of BIT_CYCLES be timed? From LEAST on, in which Eyelet does what it has to between two bytes, to MOST.

        .if BIT_CYCLES < LEAST
        .fail "the line is too fast for this clock: at most ", board.clock / LEAST, " baud can be timed"
        .end
        .if BIT_CYCLES > MOST
        .fail "the line is too slow for this clock: at least ", board.clock / MOST + 1, " baud can be timed"
        .end

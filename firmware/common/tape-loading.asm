; Half cycles are counted in turns of TURN clocks; what is done between them takes about FEWER turns.
LOW_TURNS  = board.clock / 2 / board.tape.low_hz / TURN
HIGH_TURNS = board.clock / 2 / board.tape.high_hz / TURN
LIMIT      = (LOW_TURNS + HIGH_TURNS) / 2 - FEWER ; from here on it is a half cycle of a 0
        .assert LOW_TURNS < 200 && HIGH_TURNS > 5, "the clock is too fast or too slow for these tones"
        .assert board.tape.low_hz < board.tape.high_hz, "a 0 must be the lower tone"

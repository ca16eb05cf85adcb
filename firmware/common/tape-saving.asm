; Half a cycle is so many turns of TURN clocks, and BETWEEN more; the check of a byte takes about CHECKING turns.
LOW_TURNS  = (board.clock / 2 / board.tape.low_hz - BETWEEN) / TURN
HIGH_TURNS = (board.clock / 2 / board.tape.high_hz - BETWEEN) / TURN
        .assert LOW_TURNS < 256 && HIGH_TURNS > 2, "the clock is too fast or too slow for these tones"
        .assert LOW_TURNS > CHECKING && board.tape.low_halves > 1, "the clock is too slow for this rate"
LEADER     = 5 * board.tape.high_hz / 128     ; of 256 half cycles each: 5 seconds

; Blocks on tape, docs/tape.md.
MARK_1  = $E1
MARK_2  = $5B
PLAIN   = 2             ; kinds
END     = 4
STARTS  = 2             ; flags in the data of an end
NO_CRC  = 4

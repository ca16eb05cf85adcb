; The winch: counts to its limit, and halts.

        .place program
        .entry winch
winch:  do clr
_turn:  add step
        io 0o05, 1              ; the winch goes on by a tooth
        sto count
        cnt limit
        go _turn
        halt
count:  .word 0
step:   .word 1
limit:  .word 0o1750
table:  .word 0o7300, 0o1205, 0o4521, 0o0017, 0o7402
        .fill 40, 0

FAST = board.clock > 1500000
        .if FAST
delay = 200
        .elseif defined(SLOW_LAMP)
delay = 50
        .else
delay = 100
        .end
        ldx #delay

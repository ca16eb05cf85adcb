        .macro wait TENTHS, COUNTER = $20
        lda #TENTHS
        sta COUNTER
_loop:  dec COUNTER
        bne _loop
        .end

        .macro table NAME, FIRST, REST...
NAME:   .byte FIRST
        .word REST
        .end

        .macro count_down N
        .if N > 0
        .byte N
        count_down N - 1
        .end
        .end

signal: wait 4
        wait 46, $21
        table steps, 2, $1111, $2222
        count_down 3

; The last two keys, on two digits that share their segments.
        .use "out/eyelet.sym" as eyelet
        .place program
        .entry start
start:  mvi a,$FF
        sta held
        lxi h,0                 ; H the key before, L the last
loop:   call eyelet.poll
        mov a,h
        mvi c,%01001111         ; its common is high: left
        call digit
        mov a,l
        mvi c,%10001111
        call digit
        call scan               ; E: the key, $FF: none
        lda held
        cmp e
        jz loop
        mov a,e
        sta held
        inr e
        jz loop                 ; it was let go
        dcr e
        mov h,l
        mov l,e
        jmp loop
; Shows A on the digit that C selects, for a while.
digit:  push h
        mov e,a
        mvi d,0
        lxi h,shapes
        dad d
        mov a,m
        cma                     ; low is lit
        mov e,a
        mvi a,%00001111         ; dark while it changes
        out board.rows.data
        mov a,e
        out board.segments.data
        mov a,c
        out board.rows.data
        mvi b,200
hold:   dcr b
        jnz hold
        pop h
        ret
; The first key that is down, in E: a row is low, its columns are read.
scan:   mvi e,0
        mvi c,%11111110
row:    mov a,c
        ani %00001111
        out board.rows.data
        in board.columns.data
        mvi b,4
column: rrc
        jnc found
        inr e
        dcr b
        jnz column
        mov a,c
        rlc
        mov c,a
        mov a,e
        cpi 16
        jnz row
        mvi e,$FF
found:  ret
held:   .reserve 1              ; the key that is held, $FF: none
shapes: .byte $3F, $06, $5B, $4F, $66, $6D, $7D, $07, $7F, $6F, $77, $7C, $39, $5E, $79, $71

; Skerry's tide staff: a column of eight lamps, one for each half metre of water over the sill. An hour of the tide
; table is shown for two tenths of a second, so that a whole day passes in five seconds.
;
; Who includes this has said .use "out/eyelet.sym" as eyelet and where it is to be placed.

HOUR = 2                        ; tenths of a second

staff:  lxi h,heights
        mvi b,heights_end - heights
_hour:  mov a,m
        call column
        out board.staff.data
        inx h
        mvi c,HOUR
_hold:  call tenth
        dcr c
        jnz _hold
        dcr b
        jnz _hour
        jmp staff

; As many lamps from the bottom as A has half metres, at most eight. Changes D.
column: mvi d,0
_lamp:  sui 5                   ; decimetres
        jc _done
        inr d
        jmp _lamp
_done:  xra a
_more:  dcr d
        rm
        stc
        ral
        jmp _more

; A tenth of a second, listening to the line all the while: turns of 71 cycles.
TURNS = board.clock / 10 / 71
tenth:  lxi d,TURNS
_turn:  call eyelet.poll        ; 18, then 10 + 7 + 12
        dcx d                   ; 6
        mov a,d                 ; 4
        ora e                   ; 4
        jnz _turn               ; 10
        ret

; The water over the sill at each hour of a day, in decimetres.
heights:
        .byte 4, 9, 17, 26, 34, 39, 40, 37, 30, 21, 13, 7, 4
        .byte 6, 12, 20, 29, 36, 40, 40, 35, 27, 18, 10, 5
heights_end:

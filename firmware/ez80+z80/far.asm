; Programs in 24-bit mode under Eyelet for the eZ80; part of eyelet.asm.

FAR_STACK = (area.stack.first + area.stack.last + 1) / 2 ; theirs; Eyelet has the upper half

; Starts the program at place, beyond 64 KiB, with fresh stacks. It may end with RET.L.
launch_far:
        ld sp,STACK
        ld hl,0
        ld (waiting),hl
        ld.lil sp,FAR_STACK
        ld.lil hl,(place)
        call.il _there
        jp monitor
_there: .byte $E9               ; JP (HL), in 24-bit mode

; For programs in 24-bit mode, by CALL.IS: polls, and brings all of their registers back but A and the flags.
far_poll:
        serial_ready
        jr z,_nothing
        push.l bc
        push.l de
        push.l hl
        push.l ix
        push.l iy
        exx
        push.l bc
        push.l de
        push.l hl
        exx
        call poll
        exx
        pop.l hl
        pop.l de
        pop.l bc
        exx
        pop.l iy
        pop.l ix
        pop.l hl
        pop.l de
        pop.l bc
_nothing:
        ret.l

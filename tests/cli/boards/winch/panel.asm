; How often the button was pressed, on the display, whose busy flag is asked.
        .use "out/eyelet.sym" as eyelet
        .place program
        .entry start
start:  call clear
        ld d,'0'
show:   ld a,$80
        call command
        ld a,d
        call letter
up:     call quiet
        jr z,up
down:   call quiet
        jr nz,down
        inc d
        jr show
; Z clear: the button is up. It has been as it is for 5 ms.
quiet:  call eyelet.poll
        ld b,6
again:  ld c,0
wait:   dec c
        jr nz,wait
        in a,(board.go.out)
        and board.go.out_mask
        ld hl,was
        cp (hl)
        ld (hl),a
        jr nz,quiet
        djnz again
        or a
        ret
was:    .reserve 1
        .include "glass.asm"

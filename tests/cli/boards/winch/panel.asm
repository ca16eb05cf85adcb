; How often the button was pressed, on the display, whose busy flag is asked.
        .use "out/eyelet.sym" as eyelet
        .place program
        .entry start
OUT    = %10000010               ; A and C out, B in
INTO   = %10010010               ; A and B in, C out
RS     = board.glass.rs_mask
RW     = board.glass.rw_mask
STROBE = board.glass.e_mask
start:  ld a,$38
        call command
        ld a,$0C
        call command
        ld a,1
        call command
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
command:
        ld l,0
        jr either
letter: ld l,RS
either: ld h,a
        ld a,INTO
        out (board.ports.control),a
_busy:  ld a,RW
        out (board.glass.e),a
        ld a,RW | STROBE
        out (board.glass.e),a
        in a,(board.glass.d7)
        ld e,a
        ld a,RW
        out (board.glass.e),a
        bit 7,e
        jr nz,_busy
        ld a,OUT
        out (board.ports.control),a
        ld a,h
        out (board.glass.d0),a
        ld a,l
        out (board.glass.e),a
        or STROBE
        out (board.glass.e),a
        and ~STROBE & $FF
        out (board.glass.e),a
        ret

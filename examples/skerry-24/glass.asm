; A display of 8 bits at an 8255, whose busy flag is asked. It changes A, E, H and L.

OUT    = %10000010              ; A and C out, B in
INTO   = %10010010              ; A and B in, C out
RS     = board.glass.rs_mask
RW     = board.glass.rw_mask
STROBE = board.glass.e_mask

clear:  ld a,$38                ; 8 bits, two lines
        call command
        ld a,$0C                ; on, no cursor
        call command
        ld a,$01
command:
        ld l,0
        jr to_glass
letter: ld l,RS
to_glass:
        ld h,a
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

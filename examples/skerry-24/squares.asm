; The squares of 0 to 4095 in a table beyond 64 KiB, three bytes each; the button goes to the next power of two. The
; display shows the number and its square in hexadecimal.

        .use "out/loader-rom.sym" as loader
        .place program
        .entry loader.start
        .include "header.asm"

        .byte "CHART", HEADER_VERSION
        .triple area.far.first, body_end - body, begin
        .checksum sum16, body, body_end - 1

body:   .cpu ez80
        .runat area.far.first
rest  = area.far.first + $3F00  ; three bytes outside of what is sent and summed
table = area.far.first + $4000

; The next square is the last one and twice the number and one.
begin:  ld hl,0
        ld de,1
        ld iy,table
        ld bc,4096
_fill:  ld (iy+0),hl
        lea iy,iy+3
        add hl,de
        inc de
        inc de
        dec bc
        ld (rest),bc
        ld a,(rest)
        or b
        jr nz,_fill

        ld bc,1
show:   ld a,$80
        call.is loader.far_command
        ld a,b
        call byte
        ld a,c
        call byte
        ld a,' '
        call.is loader.far_letter
        ld iy,table
        add iy,bc
        add iy,bc
        add iy,bc
        ld a,(iy+2)
        call byte
        ld a,(iy+1)
        call byte
        ld a,(iy+0)
        call byte
_up:    call quiet
        jr z,_up
_down:  call quiet
        jr nz,_down
        sla c
        rl b
        bit 4,b
        jr z,show
        ld bc,1
        jr show

byte:   push af
        rrca
        rrca
        rrca
        rrca
        call digit
        pop af
digit:  and $0F
        cp 10
        jr c,_low
        add a,'A' - 10 - '0'
_low:   add a,'0'
        call.is loader.far_letter
        ret

; Z clear: the button is up. It has been as it is for 5 ms.
quiet:  call.is loader.far_poll
        ld e,20
_again: ld d,0
_wait:  dec d
        jr nz,_wait
        in a,(board.go.out)
        and board.go.out_mask
        ld hl,was
        cp (hl)
        ld (hl),a
        jr nz,quiet
        dec e
        jr nz,_again
        or a
        ret

was:    .byte 0
        .end runat
body_end:

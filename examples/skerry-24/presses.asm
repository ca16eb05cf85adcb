; Sent to where it runs, beyond 64 KiB, without a header: the display shows how often the button was pressed, in
; hexadecimal.

        .use "out/eyelet.sym" as eyelet
        .use "out/loader-rom.sym" as loader
        .cpu ez80
        .place far
        .entry begin

begin:  ld a,1                  ; clears the display
        call.is loader.far_command
        ld b,0
_show:  ld a,$80
        call.is loader.far_command
        ld a,b
        rrca
        rrca
        rrca
        rrca
        call digit
        ld a,b
        call digit
_up:    call held
        jr nz,_up
_down:  call held
        jr z,_down
        inc b
        jr _show

digit:  and $0F
        cp 10
        jr c,_low
        add a,'A' - 10 - '0'
_low:   add a,'0'
        call.is loader.far_letter
        ret

; Z clear: the button is held. It has been as it is for some milliseconds.
held:   call.is eyelet.far_poll
        call look
        ld c,a
        ld de,5000
_again: call look
        cp c
        jr nz,held
        dec e
        jr nz,_again
        dec d
        jr nz,_again
        or a
        ret
look:   in a,(board.go.out)
        cpl
        and board.go.out_mask   ; a button that is held pulls its pin low
        ret

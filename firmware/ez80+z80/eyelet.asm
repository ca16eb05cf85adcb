; Eyelet for the eZ80 in its Z80 mode: that of the Z80 where its area has 2 KiB; from 2,304 bytes on it reaches all of
; the 24 bits of address, and starts programs in 24-bit mode.
;
; A program in 24-bit mode is called with SPL at the middle of the area 'stack'; RET.L brings it back to the prompt. It polls by
; CALL.IS to far_poll.

        .if area.eyelet.last - area.eyelet.first >= $8FF
        .include "<ez80+z80/reach>"
        .end
        .include "<z80/eyelet>"

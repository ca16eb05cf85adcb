; How Eyelet takes a pour on the Z80; part of eyelet.asm.

; Bytes in one long row, stored as they come, each read back. The answer says that they may come; then they do, in the
; clothes of a frame's payload, with FCS-16 and a flag at the end; a second answer says what became of them.
pour:   call address
        ret c
        below_ours
        jp c,range
        keep_hl place
        count_bc payload + 3
        or c
        jp z,range
        wide
        dec bc                  ; would it run over the end of memory?
        wide
        add hl,bc
        jp c,range
        inc bc
        push bc
        xor a
        call answer
        ld a,POURED
        ld (kind),a
        ld a,1
        ld (length),a
        ld hl,$FFFF
        ld (fcs),hl
        pop bc                  ; still to come
        pour_from place
        xor a
_clean: ld (escaped),a
_next:  push bc
        ld c,IDLE
        call wait
        pop bc
        jr c,_bad               ; it broke off
        serial_get
        cp FLAG
        jr z,_end
        cp ESCAPE
        ld d,a
        ld a,FLIP
        jr z,_clean
        ld a,(escaped)
        xor d
        push af
        call add_fcs
        xor a
        ld (escaped),a
        pop de                  ; D: the byte
        ld a,b
        or c
        jr z,_next              ; the FCS itself
        pour_d
        cp d
        jr nz,_wrong
_on:    pour_on
        dec bc
        jr _next
_wrong: ld e,a                  ; the first is told
        ld a,(length)
        dec a
        jr nz,_on
        pour_tell payload + 1
        ld a,d
        ld (payload + 4),a
        ld a,e
        ld (payload + 5),a
        ld a,6
        ld (length),a
        jr _on
_end:   ld a,b
        or c
        jr nz,_drain
        call fcs_is_good
        jr nz,_drain
        ld a,(length)
        dec a
        ret z                   ; A is GOOD
        ld a,DIFFERS
        ret
; A flag that noise has made may not be the end: what still comes is let go by.
_drain: ld c,IDLE
        call wait
        serial_get
        jr nc,_drain
_bad:   ld a,1
        ld (length),a
        ld a,MALFORMED
        ret

; The registers of a program that waits, for the Z80; part of eyelet.asm.

BREAK = $F7                     ; RST $30
SAVED = 24                      ; bytes that a program that waits has on its stack

; The byte that is a breakpoint, then all registers and the next code of the program that waits, if one does.
registers:
        ld a,BREAK
        ld (payload + 1),a
        ld a,2
        ld (length),a
        ld hl,(waiting)
        ld a,h
        or l
        ret z                   ; A is GOOD
        ld bc,SAVED - 1
        add hl,bc
        ld de,payload + 2
        ld b,14                 ; PC A F B C D E H L IX IY
        call _down
        push hl
        ld hl,(waiting)
        ld bc,SAVED
        add hl,bc
        ex de,hl
        ld (hl),d               ; SP
        inc hl
        ld (hl),e
        inc hl
        ex de,hl
        pop hl
        ld b,10                 ; I R A' F' B' C' D' E' H' L'
        call _down
        ld a,TELLS + 2
        .if POURS
        ld hl,(payload + 2)     ; PC, turned round
        ld c,h
        ld h,l
        ld l,c
        ld bc,CODE
        ldir
        ld a,TELLS + 2 + CODE
        .end
        ld (length),a
        xor a
        ret
_down:  ld a,(hl)
        ld (de),a
        dec hl
        inc de
        djnz _down
        ret

no_request:
        ld a,UNKNOWN
        ret

; All of them but the stack pointer, which must be as it is.
set_registers:
        ld hl,(waiting)
        ld a,h
        or l
        jp z,range
        ld bc,SAVED
        add hl,bc
        ld a,(payload + 14)
        cp h
        jp nz,range
        ld a,(payload + 15)
        cp l
        jp nz,range
        dec hl
        ld de,payload
        ld b,14
        call _up
        inc de
        inc de
        ld b,10
        call _up
        xor a
        ret
_up:    ld a,(de)
        ld (hl),a
        inc de
        dec hl
        djnz _up
        ret

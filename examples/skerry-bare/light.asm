; Skerry's harbour light: two short flashes every six seconds, all eight lamps together.
;
; A light character is a list of steps: what the lamps show, and for how many tenths of a second.
; Who includes this has said .use "out/eyelet.sym" as eyelet and where it is to be placed.

ON  = %11111111
OFF = %00000000

TENTH = board.clock / 10                ; cycles

light:  ldx #0
_step:  lda character,x
        sta board.lamps.data
        ldy character + 1,x
_hold:  phx
        phy
        jsr tenth
        ply
        plx
        dey
        bne _hold
        inx
        inx
        cpx #character_end - character
        bne _step
        bra light

; A tenth of a second, listening to the line all the while: 256 inner turns of 26 cycles.
INNER = 256 * 26
tenth:  ldy #TENTH / INNER
_outer: ldx #0
_inner: jsr eyelet.poll                 ; 21 there and back
        dex                             ; 2
        bne _inner                      ; 3
        dey
        bne _outer
        rts

character:
        .byte ON,  4
        .byte OFF, 6
        .byte ON,  4
        .byte OFF, 46
character_end:

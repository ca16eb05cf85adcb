; The loader in ROM. It starts at power-on, and whenever a program is sent: it asks for the program's header, adds up its
; bytes, copies it beyond 64 KiB and begins it in 24-bit mode. When something is wrong the display says what.

        .use "out/eyelet.sym" as eyelet
        .include "header.asm"
        .assert area.rom.first == eyelet.autostart, "the ROM begins with the address to start"
        .place rom
        .word start

FOUND = area.program.first

start:  ld.lil sp,area.far.last + 1
        call clear
        ld hl,FOUND
        ld de,name
        ld b,5
_name:  ld a,(de)
        cp (hl)
        jr nz,no_program
        inc hl
        inc de
        djnz _name
        ld a,(hl)
        cp HEADER_VERSION
        jr nz,no_program
        call.il copy            ; carry: the sum is not what the header says
        jr c,wrong_sum
        ld hl,0
        ld.lil hl,(FOUND + header.ENTRY)
        jp.lil (hl)

no_program:
        ld bc,without
        jr say
wrong_sum:
        ld bc,damaged
say:    ld a,(bc)
        or a
        jr z,idle
        call letter
        inc bc
        jr say
idle:   call eyelet.poll
        jr idle

name:    .text "CHART"
without: .text "no program" ending 0
damaged: .text "wrong sum" ending 0

        .include "glass.asm"

; For programs in 24-bit mode: `call.is loader.far_letter` and so on. They come back by RET.L.
far_letter:
        call letter
        ret.l
far_command:
        call command
        ret.l
far_poll:
        call eyelet.poll
        ret.l

        .cpu ez80
; Adds up what stands behind the header and copies it to where it runs. Carry: it is not what the header says.
copy:   ld bc,(FOUND + header.LENGTH)
        ld hl,area.program.size - header.SIZE
        or a
        sbc hl,bc
        ret.l c                 ; longer than what can have come
        ld ix,0
        ld de,0
        ld hl,FOUND + header.SIZE
_add:   ld e,(hl)
        add ix,de
        cpi
        jp pe,_add              ; until BC is 0
        ld hl,FOUND + header.SUM
        ld a,ixl
        cp (hl)
        jr nz,_wrong
        inc hl
        ld a,ixh
        cp (hl)
        jr nz,_wrong
        ld bc,(FOUND + header.LENGTH)
        ld de,(FOUND + header.PLACE)
        ld hl,FOUND + header.SIZE
        ldir
        or a
        ret.l
_wrong: scf
        ret.l

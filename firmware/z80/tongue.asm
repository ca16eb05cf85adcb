; Tongue for the Z80: words for a person at Eyelet's prompt, and what programs can show of themselves. docs/tongue.md.
;
; What it needs of the bench file, besides what Eyelet does:
;   areas    tongue  ROM; Eyelet, which is built before it, looks for it there

        .use "<eyelet.sym>" as eyelet
        .include "<serial>"
        .include "<common/tongue>"

line    = eyelet.buffer
first   = eyelet.buffer + 246   ; behind the frame
last    = eyelet.buffer + 248
at      = eyelet.buffer + 250   ; where in the line

        .place tongue

; Eyelet knows these two places.
        jp key
        jp power_up

; A key at Eyelet's prompt, in A: it begins a line.
key:    ld hl,line
        jp _have
_next:  call eyelet.take_slowly
_have:  cp $7E
        jp z,eyelet.frame       ; the PC has something to say
        cp 13
        jp z,_end
        cp 8
        jp z,_back
        cp 127
        jp z,_back
        cp ' '
        jp c,_next
        ld c,a
        ld a,l
        cp lo(line + LONGEST)
        jp z,_next
        ld (hl),c
        inc hl
        ld a,c
        call eyelet.put
        jp _next
_back:  ld a,l
        cp lo(line)
        jp z,_next
        dec hl
        ld a,8
        call eyelet.put
        call blank
        ld a,8
        call eyelet.put
        jp _next
_end:   ld (hl),0
        ld hl,line
        ld (at),hl
        call skip
        jp z,done
        and $5F                 ; either case
        ld b,a
_word:  call next               ; the rest of the word
        cp 'A'
        jp nc,_word
        call back
        ld a,b
        cp 'S'
        jp z,show
        cp 'C'
        jp z,change
        cp 'F'
        jp z,fill
        cp 'R'
        jp z,run
        ld hl,words
tell:   call eyelet.say
done:   jp eyelet.monitor
refuse: ld hl,odd
        jp tell
unkept: ld hl,lost
        jp tell

run:    call number
        jp nc,eyelet.launch
        call eyelet.start_rom   ; comes back when there is none
        jp eyelet.monitor

; Without a place on from the last; without an end some rows.
show:   call number
        jp c,_on
        ld (first),hl
_on:    call number
        jp nc,_rows
        ld hl,(first)
        ld bc,SHOWN - 1
        add hl,bc
        jp nc,_rows
        ld hl,$FFFF
_rows:  ld (last),hl
        call rows
        ld hl,(first)           ; for the next time
        inc hl
        ld (first),hl
        jp eyelet.monitor

fill:   call free_place
        call number
        jp c,refuse
        ld (last),hl
        call byte_value
_next:  ld hl,(first)
        ld (hl),c
        ld a,(hl)
        cp c
        jp nz,unkept
        call onward
        jp c,_next
        jp eyelet.monitor

change: call free_place
        call byte_value
_next:  ld hl,(first)
        ld (hl),c
        ld a,(hl)
        cp c
        jp nz,unkept
        inc hl
        ld (first),hl
        call number
        jp c,eyelet.monitor
        call small
        jp _next

; The place that is to be changed. As Eyelet itself: nothing below the page after its own.
free_place:
        call number
        jp c,_none
        ld (first),hl
        ld a,hi(line)
        cp h
        ret c
        jp unkept
_none:  jp refuse

; A byte, in C.
byte_value:
        call number
        jp nc,small
        jp refuse
small:  ld c,l
        ld a,h
        or a
        ret z
        jp refuse

; first goes on by one while it is below last: C set then.
onward: ld hl,(last)
        ex de,hl
        ld hl,(first)
        ld a,l
        sub e
        ld a,h
        sbc a,d
        ret nc
        inc hl
        ld (first),hl
        scf
        ret

; ---- the line ----

; Its next character, in A; 0 at its end.
next:   ld hl,(at)
        ld a,(hl)
        inc hl
        ld (at),hl
        or a
        ret
back:   ld hl,(at)
        dec hl
        ld (at),hl
        ret

; The next character that is no blank, in A. Z set: the line is over.
skip:   call next
        cp ' '
        jp z,skip
        or a
        ret

; A number from the line, in HL. C set: there is none. What is no number ends the whole line: the prompt begins the stack
; anew.
number: call skip
        jp z,_none
        ld de,0
_digit: cp '9' + 1
        jp c,_plain
        and $5F                 ; either case
        cp 'A'
        jp c,_odd
        sub 7
_plain: sub '0'
        cp 1 << BITS
        jp nc,_odd
        ld h,d
        ld l,e
        .repeat BITS
        add hl,hl
        .end
        ld e,a
        ld d,0
        add hl,de
        ex de,hl
        call next
        jp z,_end
        cp ' '
        jp nz,_digit
_end:   call back
        ex de,hl
        or a
        ret
_none:  call back
        scf
        ret
_odd:   jp refuse

; ---- printing ----

blank:  ld a,' '
        jp eyelet.put
crlf:   ld a,13
        call eyelet.put
        ld a,10
        jp eyelet.put

; A as a byte, or HL as a word, in the machine's radix. Uses B, D, E, HL.
byte:   ld h,a
        ld b,BYTE_FIRST
        ld d,BYTE_DIGITS
        jp digits
word:   ld b,WORD_FIRST
        ld d,WORD_DIGITS
digits: ld e,0
_bit:   ld a,e
        add hl,hl
        rla
        ld e,a
        dec b
        jp nz,_bit
        cp 10
        jp c,_plain
        add a,7
_plain: add a,'0'
        call eyelet.put
        ld b,BITS
        dec d
        jp nz,digits
        ret

; From first to last, each row with its characters. A key ends it.
rows:   call crlf
        ld hl,(first)
        push hl                 ; for the characters
        call word
        ld c,0
_byte:  call blank
        ld hl,(first)
        ld a,(hl)
        call byte
        inc c
        call onward
        jp nc,_over
        ld a,c
        cp ROW
        jp nz,_byte
        pop hl
        call characters
        serial_ready
        jp z,rows
        ret
_over:  pop hl
; C of them from HL on.
characters:
        call blank
_next:  ld a,(hl)
        cp ' '
        jp c,_dot
        cp 127
        jp c,_put
_dot:   ld a,'.'
_put:   call eyelet.put
        inc hl
        dec c
        jp nz,_next
        ret

; What Eyelet does at power-on when nobody has spoken up: the program that is kept starts, or else the ROM's.
power_up:
        .if defined(board.hold.data)
        in a,(board.hold.data)
        and 1
        .if defined(HOLD_LOW)
        jp nz,_free
        .else
        jp z,_free
        .end
        jp eyelet.monitor      ; the button is held: nothing starts
_free:
        .end
        .if defined(area.stored.first)
        ld hl,(area.stored_head.first)
        ld bc,$FFFF - area.stored.size
        add hl,bc
        jp c,_rom               ; longer than can be: nothing is kept
        ld hl,$FFFF
        ld (eyelet.fcs),hl
        ld hl,area.stored_head.first
        ld bc,4
        call sum_up
        ld hl,(area.stored_head.first)
        ld b,h
        ld c,l
        ld hl,area.stored.first
        call sum_up
        ld hl,area.stored_head.first + 4
        ld bc,2
        call sum_up
        call eyelet.fcs_is_good
        jp nz,_rom
        ld hl,(area.stored_head.first + 2)
        jp eyelet.launch
_rom:
        .end
        jp eyelet.start_rom

        .if defined(area.stored.first)
; Adds BC bytes from HL on to the checksum.
sum_up: ld a,b
        or c
        ret z
        ld a,(hl)
        call eyelet.add_fcs
        inc hl
        dec bc
        jp sum_up
        .end

; ---- for programs: nothing of theirs is changed ----

; Prints all registers, and where it was called.
registers:
        push af
        push bc
        push de
        push hl
        call crlf
        ld hl,8
        add hl,sp
        ld e,(hl)               ; behind the call
        inc hl
        ld d,(hl)
        inc hl
        push hl                 ; the stack pointer before it
        ld hl,$10000 - 3
        add hl,de
        ld de,pc_name
        call named
        ld hl,8
        add hl,sp
        ld de,af_name
        call stacked
        ld hl,6
        add hl,sp
        ld de,bc_name
        call stacked
        ld hl,4
        add hl,sp
        ld de,de_name
        call stacked
        ld hl,2
        add hl,sp
        ld de,hl_name
        call stacked
        push ix
        pop hl
        ld de,ix_name
        call named
        push iy
        pop hl
        ld de,iy_name
        call named
        pop hl
        ld de,sp_name
        call named
restore:
        pop hl
        pop de
        pop bc
        pop af
        ret

; The name at DE and the word at HL, or HL itself.
stacked:
        ld a,(hl)
        inc hl
        ld h,(hl)
        ld l,a
named:  push hl
        ex de,hl
        call eyelet.say
        pop hl
        jp word

pc_name: .text "PC " ending 0
af_name: .text "  AF " ending 0
bc_name: .text "  BC " ending 0
de_name: .text "  DE " ending 0
hl_name: .text "  HL " ending 0
ix_name: .text "  IX " ending 0
iy_name: .text "  IY " ending 0
sp_name: .text "  SP " ending 0

; Prints the range whose first and last address stand behind the call.
range:  ex (sp),hl
        push af
        push bc
        push de
        ld e,(hl)
        inc hl
        ld d,(hl)
        inc hl
        ld a,(hl)
        inc hl
        push hl
        ld h,(hl)
        ld l,a
        ld (last),hl
        ex de,hl
        ld (first),hl
        call rows
        pop hl
        inc hl
        pop de
        pop bc
        pop af
        ex (sp),hl
        ret

        .include "<common/tongue-texts>"
end_of_tongue:

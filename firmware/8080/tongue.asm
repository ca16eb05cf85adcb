; Tongue for the 8080 and the 8085: words for a person at Eyelet's prompt, and what programs can show of themselves. docs/tongue.md.
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
        jmp key
        jmp power_up

; A key at Eyelet's prompt, in A: it begins a line.
key:    lxi h,line
        jmp _have
_next:  call eyelet.take_slowly
_have:  cpi $7E
        jz eyelet.frame         ; the PC has something to say
        cpi 13
        jz _end
        cpi 8
        jz _back
        cpi 127
        jz _back
        cpi ' '
        jc _next
        mov c,a
        mov a,l
        cpi lo(line + LONGEST)
        jz _next
        mov m,c
        inx h
        mov a,c
        call eyelet.put
        jmp _next
_back:  mov a,l
        cpi lo(line)
        jz _next
        dcx h
        mvi a,8
        call eyelet.put
        call blank
        mvi a,8
        call eyelet.put
        jmp _next
_end:   mvi m,0
        lxi h,line
        shld at
        call skip
        jz done
        ani $5F                 ; either case
        mov b,a
_word:  call next               ; the rest of the word
        cpi 'A'
        jnc _word
        call back
        mov a,b
        cpi 'S'
        jz show
        cpi 'C'
        jz change
        cpi 'F'
        jz fill
        cpi 'R'
        jz run
        lxi h,words
tell:   call eyelet.say
done:   jmp eyelet.monitor
refuse: lxi h,odd
        jmp tell
unkept: lxi h,lost
        jmp tell

run:    call number
        jnc eyelet.launch
        call eyelet.start_rom   ; comes back when there is none
        jmp eyelet.monitor

; Without a place on from the last; without an end some rows.
show:   call number
        jc _on
        shld first
_on:    call number
        jnc _rows
        lhld first
        lxi b,SHOWN - 1
        dad b
        jnc _rows
        lxi h,$FFFF
_rows:  shld last
        call rows
        lhld first              ; for the next time
        inx h
        shld first
        jmp eyelet.monitor

fill:   call free_place
        call number
        jc refuse
        shld last
        call byte_value
_next:  lhld first
        mov m,c
        mov a,m
        cmp c
        jnz unkept
        call onward
        jc _next
        jmp eyelet.monitor

change: call free_place
        call byte_value
_next:  lhld first
        mov m,c
        mov a,m
        cmp c
        jnz unkept
        inx h
        shld first
        call number
        jc eyelet.monitor
        call small
        jmp _next

; The place that is to be changed. As Eyelet itself: nothing below the page after its own.
free_place:
        call number
        jc _none
        shld first
        mvi a,hi(line)
        cmp h
        rc
        jmp unkept
_none:  jmp refuse

; A byte, in C.
byte_value:
        call number
        jnc small
        jmp refuse
small:  mov c,l
        mov a,h
        ora a
        rz
        jmp refuse

; first goes on by one while it is below last: C set then.
onward: lhld last
        xchg
        lhld first
        mov a,l
        sub e
        mov a,h
        sbb d
        rnc
        inx h
        shld first
        stc
        ret

; ---- the line ----

; Its next character, in A; 0 at its end.
next:   lhld at
        mov a,m
        inx h
        shld at
        ora a
        ret
back:   lhld at
        dcx h
        shld at
        ret

; The next character that is no blank, in A. Z set: the line is over.
skip:   call next
        cpi ' '
        jz skip
        ora a
        ret

; A number from the line, in HL. C set: there is none. What is no number ends the whole line: the prompt begins the stack
; anew.
number: call skip
        jz _none
        lxi d,0
_digit: cpi '9' + 1
        jc _plain
        ani $5F                 ; either case
        cpi 'A'
        jc _odd
        sui 7
_plain: sui '0'
        cpi 1 << BITS
        jnc _odd
        mov h,d
        mov l,e
        .repeat BITS
        dad h
        .end
        mov e,a
        mvi d,0
        dad d
        xchg
        call next
        jz _end
        cpi ' '
        jnz _digit
_end:   call back
        xchg
        ora a
        ret
_none:  call back
        stc
        ret
_odd:   jmp refuse

; ---- printing ----

blank:  mvi a,' '
        jmp eyelet.put
crlf:   mvi a,13
        call eyelet.put
        mvi a,10
        jmp eyelet.put

; A as a byte, or HL as a word, in the machine's radix. Uses B, D, E, HL.
byte:   mov h,a
        mvi b,BYTE_FIRST
        mvi d,BYTE_DIGITS
        jmp digits
word:   mvi b,WORD_FIRST
        mvi d,WORD_DIGITS
digits: mvi e,0
_bit:   mov a,e
        dad h
        ral
        mov e,a
        dcr b
        jnz _bit
        cpi 10
        jc _plain
        adi 7
_plain: adi '0'
        call eyelet.put
        mvi b,BITS
        dcr d
        jnz digits
        ret

; From first to last, each row with its characters. A key ends it.
rows:   call crlf
        lhld first
        push h                  ; for the characters
        call word
        mvi c,0
_byte:  call blank
        lhld first
        mov a,m
        call byte
        inr c
        call onward
        jnc _over
        mov a,c
        cpi ROW
        jnz _byte
        pop h
        call characters
        serial_ready
        jz rows
        ret
_over:  pop h
; C of them from HL on.
characters:
        call blank
_next:  mov a,m
        cpi ' '
        jc _dot
        cpi 127
        jc _put
_dot:   mvi a,'.'
_put:   call eyelet.put
        inx h
        dcr c
        jnz _next
        ret

; What Eyelet does at power-on when nobody has spoken up: the program that is kept starts, or else the ROM's.
power_up:
        .if defined(board.hold.data)
        in board.hold.data
        ani 1
        .if defined(HOLD_LOW)
        jnz _free
        .else
        jz _free
        .end
        jmp eyelet.monitor      ; the button is held: nothing starts
_free:
        .end
        .if defined(area.stored.first)
        lhld area.stored_head.first
        lxi b,$FFFF - area.stored.size
        dad b
        jc _rom                 ; longer than can be: nothing is kept
        lxi h,$FFFF
        shld eyelet.fcs
        lxi h,area.stored_head.first
        lxi b,4
        call sum_up
        lhld area.stored_head.first
        mov b,h
        mov c,l
        lxi h,area.stored.first
        call sum_up
        lxi h,area.stored_head.first + 4
        lxi b,2
        call sum_up
        call eyelet.fcs_is_good
        jnz _rom
        lhld area.stored_head.first + 2
        jmp eyelet.launch
_rom:
        .end
        jmp eyelet.start_rom

        .if defined(area.stored.first)
; Adds BC bytes from HL on to the checksum.
sum_up: mov a,b
        ora c
        rz
        mov a,m
        call eyelet.add_fcs
        inx h
        dcx b
        jmp sum_up
        .end

; ---- for programs: nothing of theirs is changed ----

; Prints all registers, and where it was called.
registers:
        push psw
        push b
        push d
        push h
        call crlf
        lxi h,8
        dad sp
        mov e,m                 ; behind the call
        inx h
        mov d,m
        inx h
        push h                  ; the stack pointer before it
        lxi h,$10000 - 3
        dad d
        lxi d,pc_name
        call named
        lxi h,8
        dad sp
        lxi d,af_name
        call stacked
        lxi h,6
        dad sp
        lxi d,bc_name
        call stacked
        lxi h,4
        dad sp
        lxi d,de_name
        call stacked
        lxi h,2
        dad sp
        lxi d,hl_name
        call stacked
        pop h
        lxi d,sp_name
        call named
restore:
        pop h
        pop d
        pop b
        pop psw
        ret

; The name at DE and the word at HL, or HL itself.
stacked:
        mov a,m
        inx h
        mov h,m
        mov l,a
named:  push h
        xchg
        call eyelet.say
        pop h
        jmp word

pc_name: .text "PC " ending 0
af_name: .text "  AF " ending 0
bc_name: .text "  BC " ending 0
de_name: .text "  DE " ending 0
hl_name: .text "  HL " ending 0
sp_name: .text "  SP " ending 0

; Prints the range whose first and last address stand behind the call.
range:  xthl
        push psw
        push b
        push d
        mov e,m
        inx h
        mov d,m
        inx h
        mov a,m
        inx h
        push h
        mov h,m
        mov l,a
        shld last
        xchg
        shld first
        call rows
        pop h
        inx h
        pop d
        pop b
        pop psw
        xthl
        ret

        .include "<common/tongue-texts>"
end_of_tongue:

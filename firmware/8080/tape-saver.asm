; Saves memory to tape in blocks, on 8080 and 8085. docs/tape.md.
;
; What it needs of the bench file:
;   areas    saver       where it lies, RAM or ROM
;            saver_data  bytes of RAM
;   devices  cassette    the recorder's output, bit 0, in the I/O space
;   tape                 the keying
; Set these first, then call it:
;   save_first   (2 bytes)  the first address
;   save_last    (2 bytes)  the last address
;   save_number             of the program
; Data blocks and an end that says how many there are, and that there is no CRC-32 of the whole.

        .include "<common/tape-blocks>"

        .place saver_data
kind:   .reserve 1      ; what a block says of itself, in this order
save_number: .reserve 1
index:  .reserve 2
count:  .reserve 1      ; bytes of the block; 0: 256
save_first:  .reserve 2
end_of_label:
save_last:   .reserve 2
crc:    .reserve 2
size:   .reserve 2
unsaved: .reserve 2

TURN     = 15
BETWEEN  = 47
CHECKING = 32
        .include "<common/tape-saving>"

        .place saver
        .entry start
start:  mvi c,0                 ; the level
        lxi h,1
        shld index
        lhld save_first
        xchg
        lhld save_last
        mov a,l
        sub e
        mov l,a
        mov a,h
        sbb d
        mov h,a
        inx h
        shld size
        shld unsaved
        mvi a,LEADER
        call rest
_block: lhld unsaved
        mov a,h
        ora a
        jz _part
        dcr h                   ; 256 of them
        xra a
        jmp _some
_part:  mov a,l
        ora a
        jz _end
        mvi l,0
_some:  shld unsaved
        sta count
        mvi a,PLAIN
        call label
        lhld save_first
_data:  mov a,m
        call put
        inx h
        lda count
        dcr a
        sta count
        jnz _data
        shld save_first
        call check
        lhld index
        inx h
        shld index
        jmp _block

_end:   mvi a,13
        sta count
        mvi a,END
        call label
        mvi a,1                 ; version
        call put
        xra a                   ; a program
        call put
        mvi a,NO_CRC
        call put
        lhld index              ; how many blocks
        dcx h
        call two
        lhld size
        call two
        mvi h,6
_zero:  xra a
        call put
        dcr h
        jnz _zero

; The check of a block, and a pause behind it.
check:  lhld crc
        mov a,h
        call put
        mov a,l
        call put
        mvi a,LEADER / 40
; The tone of rest: A times 256 half cycles.
rest:   push psw
        mvi d,0
        mvi e,HIGH_TURNS
        call half
        pop psw
        dcr a
        jnz rest
        ret

two:    mov a,l
        call put
        mov a,h
        jmp put

; What a block of a kind, A, says of itself.
label:  sta kind
        mvi a,MARK_1
        call put
        mvi a,MARK_2
        call put
        lxi h,0
        shld crc
        lxi h,kind
_next:  mov a,m
        call put
        inx h
        mov a,l
        cpi lo(end_of_label)
        jnz _next
        ret

; A byte, added to the check and sent: a start bit, eight bits, two stop bits. HL stays.
put:    push h
        push psw
        lhld crc
        xra h
        mov h,a
        mvi b,8
_check: dad h
        jnc _no
        mov a,h
        xri $10
        mov h,a
        mov a,l
        xri $21
        mov l,a
_no:    dcr b
        jnz _check
        shld crc
        mvi d,1                 ; the start bit; its first half began with the check
        mvi e,LOW_TURNS - CHECKING
        call half
        mvi d,board.tape.low_halves - 1
        mvi e,LOW_TURNS
        call half
        pop psw
        mov h,a
        mvi l,8
_bit:   mov a,h
        rrc
        mov h,a
        call bit
        dcr l
        jnz _bit
        stc                     ; two stop bits
        call bit
        pop h
        stc

; A bit: the carry.
bit:    mvi d,board.tape.low_halves
        mvi e,LOW_TURNS
        jnc half
        mvi d,board.tape.high_halves
        mvi e,HIGH_TURNS
; D half cycles of E turns.
half:   mov b,e
_turn:  dcr b
        jnz _turn
        mov a,c
        xri 1
        mov c,a
        out board.cassette.data
        dcr d
        jnz half
        ret

; Saves memory to tape in blocks, on the Z80. docs/tape.md.
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

TURN     = 14
BETWEEN  = 43
CHECKING = 32
        .include "<common/tape-saving>"

        .place saver
        .entry start
start:  ld c,0                  ; the level
        ld hl,1
        ld (index),hl
        ld hl,(save_first)
        ex de,hl
        ld hl,(save_last)
        ld a,l
        sub e
        ld l,a
        ld a,h
        sbc a,d
        ld h,a
        inc hl
        ld (size),hl
        ld (unsaved),hl
        ld a,LEADER
        call rest
_block: ld hl,(unsaved)
        ld a,h
        or a
        jp z,_part
        dec h                   ; 256 of them
        xor a
        jp _some
_part:  ld a,l
        or a
        jp z,_end
        ld l,0
_some:  ld (unsaved),hl
        ld (count),a
        ld a,PLAIN
        call label
        ld hl,(save_first)
_data:  ld a,(hl)
        call put
        inc hl
        ld a,(count)
        dec a
        ld (count),a
        jp nz,_data
        ld (save_first),hl
        call check
        ld hl,(index)
        inc hl
        ld (index),hl
        jp _block

_end:   ld a,13
        ld (count),a
        ld a,END
        call label
        ld a,1                  ; version
        call put
        xor a                   ; a program
        call put
        ld a,NO_CRC
        call put
        ld hl,(index)           ; how many blocks
        dec hl
        call two
        ld hl,(size)
        call two
        ld h,6
_zero:  xor a
        call put
        dec h
        jp nz,_zero

; The check of a block, and a pause behind it.
check:  ld hl,(crc)
        ld a,h
        call put
        ld a,l
        call put
        ld a,LEADER / 40
; The tone of rest: A times 256 half cycles.
rest:   push af
        ld d,0
        ld e,HIGH_TURNS
        call half
        pop af
        dec a
        jp nz,rest
        ret

two:    ld a,l
        call put
        ld a,h
        jp put

; What a block of a kind, A, says of itself.
label:  ld (kind),a
        ld a,MARK_1
        call put
        ld a,MARK_2
        call put
        ld hl,0
        ld (crc),hl
        ld hl,kind
_next:  ld a,(hl)
        call put
        inc hl
        ld a,l
        cp lo(end_of_label)
        jp nz,_next
        ret

; A byte, added to the check and sent: a start bit, eight bits, two stop bits. HL stays.
put:    push hl
        push af
        ld hl,(crc)
        xor h
        ld h,a
        ld b,8
_check: add hl,hl
        jp nc,_no
        ld a,h
        xor $10
        ld h,a
        ld a,l
        xor $21
        ld l,a
_no:    dec b
        jp nz,_check
        ld (crc),hl
        ld d,1                  ; the start bit; its first half began with the check
        ld e,LOW_TURNS - CHECKING
        call half
        ld d,board.tape.low_halves - 1
        ld e,LOW_TURNS
        call half
        pop af
        ld h,a
        ld l,8
_bit:   ld a,h
        rrca
        ld h,a
        call bit
        dec l
        jp nz,_bit
        scf                     ; two stop bits
        call bit
        pop hl
        scf

; A bit: the carry.
bit:    ld d,board.tape.low_halves
        ld e,LOW_TURNS
        jp nc,half
        ld d,board.tape.high_halves
        ld e,HIGH_TURNS
; D half cycles of E turns.
half:   ld b,e
_turn:  dec b
        jp nz,_turn
        ld a,c
        xor 1
        ld c,a
        out (board.cassette.data),a
        dec d
        jp nz,half
        ret

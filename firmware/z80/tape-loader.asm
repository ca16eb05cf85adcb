; Loads blocks from tape, on the Z80: the first stage of a staged tape. docs/tape.md.
;
; What it needs of the bench file:
;   areas    loader       where it lies, RAM or ROM
;            loader_page  263 bytes of RAM
;            loader_data  bytes of RAM
;            stack        RAM for the stack; it begins at the upper end
;   devices  cassette     the recorder's input bit; or else serial, a UART behind a modem
;            lamps        (may be missing) shows how many blocks were good, or $FF; without them a
;                         serial interface says '.' for a good block, '?' for a bad one
;                         all in the I/O space
;   tape                  the keying
; With the constant UNPACKS it knows packed blocks. A block is looked at when all of it
; is there, so nothing that is damaged gets into memory. When one was bad or missing the tape is
; played again: what was good stays. After a program that is not to be started it waits for the next.

        .include "<common/tape-blocks>"
        .if defined(board.serial.driver) && defined(board.link.baud)
        .include "<serial>"
        .end

STACK = area.stack.last + 1 & $FFFF

        .place loader_data
crc:    .reserve 2
next:   .reserve 1      ; the index that must come, its low byte
bad:    .reserve 1      ; not 0: a block was not good, or missing

        .place loader_page
label:  .reserve 7      ; of the block: kind, number, index, count, address
index   = label + 2
count   = label + 4
to      = label + 5
page:   .reserve 256    ; its data

        .place loader
        .entry start
start:  ld hl,0
        ld (next),hl            ; and bad

block:  ld sp,STACK             ; whoever called
        call get
_mark:  cp MARK_1
        jp nz,block
        call get
        cp MARK_2
        jp nz,_mark
        ld hl,0
        ld (crc),hl
        ld hl,label
_label: call take
        ld (hl),e
        inc hl
        ld a,l
        cp lo(page)
        jp nz,_label
_data:  call take
        ld (hl),e
        inc hl
        ld a,(count)
        add a,lo(page)
        cp l
        jp nz,_data
        .if defined(UNPACKS)
        ld (last_of),hl
        .end
        call take
        call take
        ld hl,(crc)
        ld a,h
        or l
        jp z,good

        ld a,$FF
        ld (bad),a
        .if defined(board.lamps.data)
        out (board.lamps.data),a
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        ld a,'?'
        serial_put
        .end
        jp block

end:    ld a,(bad)
        or a
        jp nz,start
        ld a,(page+2)
        and STARTS
        jp z,start              ; the next one
        ex de,hl
        jp (hl)

good:   ld hl,next              ; is it the one that follows?
        ld a,(index)
        ld b,a
        xor (hl)
        inc b
        ld (hl),b
        inc hl
        or (hl)
        ld (hl),a
        .if defined(board.lamps.data)
        jp z,_show
        ld a,$FF
_show:  dec b
        or b
        out (board.lamps.data),a
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        ld a,'.'
        serial_put
        .end
        ld hl,(to)
        ex de,hl
        ld hl,page
        ld a,(label)            ; 1 head, 2 plain, 3 packed, 4 end
        dec a
        jp z,block
        sub 3
        jp z,end

        .if !defined(UNPACKS)
        ld a,(count)
        ld b,a
_copy:  ld a,(hl)
        ld (de),a
        inc hl
        inc de
        dec b
        jp nz,_copy
        jp block
        .else
        ld b,0                  ; bits that are left of a byte, and a 1 behind them
token:  ld a,(label)
        rra
        jp nc,_byte             ; plain
        call bit
        jp c,_byte
        call bit
        jp nc,_again
        call gamma
        dec c
        ld a,c
        ld (far+1),a
        call fetch
        ld (far),a
        call gamma
        inc c                   ; one more; 0: 256
        jp _copy
_again: call gamma
_copy:  push hl
        ld hl,(far)
        ld a,e                  ; from DE - far - 1
        scf
        sbc a,l
        ld l,a
        ld a,d
        sbc a,h
        ld h,a
_each:  ld a,(hl)
        ld (de),a
        inc hl
        inc de
        dec c
        jp nz,_each
        pop hl
        jp token
_byte:  call fetch
        ld (de),a
        inc de
        jp token

; The next byte of the block. There is none: the block is done, whoever called.
fetch:  ld a,(last_of)
        cp l
        jp nz,_one
        ld a,(last_of+1)
        cp h
        jp z,block
_one:   ld a,(hl)
        inc hl
        ret

; The next bit, into C.
bit:    ld a,b
        add a,a
        ld b,a
        ret nz
        call fetch
        scf
        rla
        ld b,a
        ret

; A number of 1 to 255, into register C.
gamma:  ld c,1
_more:  call bit
        ret c
        call bit
        ld a,c
        rla
        ld c,a
        jp _more

        .place loader_data
far:    .reserve 2              ; the distance, less 1
last_of: .reserve 2             ; behind the block's last byte
        .place loader
        .end

; A byte, added to the check; it is in E.
take:   call get
        push hl
        ld hl,(crc)
        xor h
        ld h,a
        ld b,8
_bit:   add hl,hl
        jp nc,_next
        ld a,h
        xor $10
        ld h,a
        ld a,l
        xor $21
        ld l,a
_next:  dec b
        jp nz,_bit
        ld (crc),hl
        pop hl
        ret

        .if defined(board.cassette.data)
TURN  = 29
FEWER = 1
        .include "<common/tape-loading>"

; A byte from the tape: waits for a start bit. If none comes for six bits the block has ended, too
; early if it is one: its number tells that it is missing. C has the level of the input.
get:    ld d,6 * board.tape.high_halves
_wait:  call half
        jp nc,_start
        dec d
        jp nz,_wait
        jp block
_bit:   call half
        ld a,e
        rra
        ld e,a
        push af
        or a
        ld d,board.tape.high_halves - 1
        jp m,_keep
_low:   ld d,board.tape.low_halves - 1
_keep:  call skip
        pop af
        jp nc,_bit              ; the 1 that was put in is not out yet
        ld a,e
        ret
_start: ld e,$80
        push af                 ; no carry: it goes on
        jp _low

; The rest of a bit.
skip:   .if board.tape.low_halves == 1
        inc d
        dec d
        ret z
        .end
_half:  call half
        dec d
        jp nz,_half
        ret

; Waits for the end of half a cycle. C flag: it was a short one.
half:   ld b,0
_wait:  inc b
        in a,(board.cassette.data)
        xor c
        jp p,_wait
        xor c
        ld c,a
        ld a,b
        cp LIMIT
        ret
        .else
get:    serial_ready
        jp z,get
        serial_get
        ld e,a
        ret
        .end
        .if defined(board.serial.driver) && defined(board.link.baud)
        serial_code
        .end
last:
        .if defined(UNPACKS)
        .assert last - start <= 384, "the loader is larger than 384 bytes"
        .else
        .assert last - start <= 256, "the loader is larger than 256 bytes"
        .end

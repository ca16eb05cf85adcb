; Loads blocks from tape, on 8080 and 8085: the first stage of a staged tape. docs/tape.md.
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
start:  lxi h,0
        shld next               ; and bad

block:  lxi sp,STACK            ; whoever called
        call get
_mark:  cpi MARK_1
        jnz block
        call get
        cpi MARK_2
        jnz _mark
        lxi h,0
        shld crc
        lxi h,label
_label: call take
        mov m,e
        inx h
        mov a,l
        cpi lo(page)
        jnz _label
_data:  call take
        mov m,e
        inx h
        lda count
        adi lo(page)
        cmp l
        jnz _data
        .if defined(UNPACKS)
        shld last_of
        .end
        call take
        call take
        lhld crc
        mov a,h
        ora l
        jz good

        mvi a,$FF
        sta bad
        .if defined(board.lamps.data)
        out board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        mvi a,'?'
        serial_put
        .end
        jmp block

end:    lda bad
        ora a
        jnz start
        lda page+2
        ani STARTS
        jz start                ; the next one
        xchg
        pchl

good:   lxi h,next              ; is it the one that follows?
        lda index
        mov b,a
        xra m
        inr b
        mov m,b
        inx h
        ora m
        mov m,a
        .if defined(board.lamps.data)
        jz _show
        mvi a,$FF
_show:  dcr b
        ora b
        out board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        mvi a,'.'
        serial_put
        .end
        lhld to
        xchg
        lxi h,page
        lda label               ; 1 head, 2 plain, 3 packed, 4 end
        dcr a
        jz block
        sui 3
        jz end

        .if !defined(UNPACKS)
        lda count
        mov b,a
_copy:  mov a,m
        stax d
        inx h
        inx d
        dcr b
        jnz _copy
        jmp block
        .else
        mvi b,0                 ; bits that are left of a byte, and a 1 behind them
token:  lda label
        rar
        jnc _byte               ; plain
        call bit
        jc _byte
        call bit
        jnc _again
        call gamma
        dcr c
        mov a,c
        sta far+1
        call fetch
        sta far
        call gamma
        inr c                   ; one more; 0: 256
        jmp _copy
_again: call gamma
_copy:  push h
        lhld far
        mov a,e                 ; from DE - far - 1
        stc
        sbb l
        mov l,a
        mov a,d
        sbb h
        mov h,a
_each:  mov a,m
        stax d
        inx h
        inx d
        dcr c
        jnz _each
        pop h
        jmp token
_byte:  call fetch
        stax d
        inx d
        jmp token

; The next byte of the block. There is none: the block is done, whoever called.
fetch:  lda last_of
        cmp l
        jnz _one
        lda last_of+1
        cmp h
        jz block
_one:   mov a,m
        inx h
        ret

; The next bit, into C.
bit:    mov a,b
        add a
        mov b,a
        rnz
        call fetch
        stc
        ral
        mov b,a
        ret

; A number of 1 to 255, into register C.
gamma:  mvi c,1
_more:  call bit
        rc
        call bit
        mov a,c
        ral
        mov c,a
        jmp _more

        .place loader_data
far:    .reserve 2              ; the distance, less 1
last_of: .reserve 2             ; behind the block's last byte
        .place loader
        .end

; A byte, added to the check; it is in E.
take:   call get
        push h
        lhld crc
        xra h
        mov h,a
        mvi b,8
_bit:   dad h
        jnc _next
        mov a,h
        xri $10
        mov h,a
        mov a,l
        xri $21
        mov l,a
_next:  dcr b
        jnz _bit
        shld crc
        pop h
        ret

        .if defined(board.cassette.data)
TURN  = 29
FEWER = 1
        .include "<common/tape-loading>"

; A byte from the tape: waits for a start bit. If none comes for six bits the block has ended, too
; early if it is one: its number tells that it is missing. C has the level of the input.
get:    mvi d,6 * board.tape.high_halves
_wait:  call half
        jnc _start
        dcr d
        jnz _wait
        jmp block
_bit:   call half
        mov a,e
        rar
        mov e,a
        push psw
        ora a
        mvi d,board.tape.high_halves - 1
        jm _keep
_low:   mvi d,board.tape.low_halves - 1
_keep:  call skip
        pop psw
        jnc _bit                ; the 1 that was put in is not out yet
        mov a,e
        ret
_start: mvi e,$80
        push psw                ; no carry: it goes on
        jmp _low

; The rest of a bit.
skip:   .if board.tape.low_halves == 1
        inr d
        dcr d
        rz
        .end
_half:  call half
        dcr d
        jnz _half
        ret

; Waits for the end of half a cycle. C flag: it was a short one.
half:   mvi b,0
_wait:  inr b
        in board.cassette.data
        xra c
        jp _wait
        xra c
        mov c,a
        mov a,b
        cpi LIMIT
        ret
        .else
get:    serial_ready
        jz get
        serial_get
        mov e,a
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

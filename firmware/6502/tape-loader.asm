; Loads blocks from tape, on 65C02 and 6502: the first stage of a staged tape. docs/tape.md.
;
; What it needs of the bench file:
;   areas    loader       where it lies, RAM or ROM
;            loader_page  256 bytes of RAM
;            loader_zero  bytes of page zero
;   devices  cassette     the recorder's input bit; or else serial, a UART behind a modem
;            lamps        (may be missing) shows how many blocks were good, or $FF; without them a
;                         serial interface says '.' for a good block, '?' for a bad one
;   tape                  the keying
; With the constant UNPACKS it knows packed blocks. A block is looked at when all of it is there, so
; nothing that is damaged gets into memory. When one was bad or missing the tape is played again:
; what was good stays.

        .include "<common/tape-blocks>"
        .if defined(board.serial.driver) && defined(board.link.baud)
        .include "<serial>"
        .end

        .place loader_zero
label:  .reserve 7      ; of the block: kind, number, index, count, address
index   = label + 2
count   = label + 4
to      = label + 5
level:  .reserve 1      ; of the input, in bit 7
byte:   .reserve 1
crc:    .reserve 2      ; high byte first
at:     .reserve 1      ; in the block
next:   .reserve 1      ; the index that must come, its low byte
bad:    .reserve 1      ; not 0: a block was not good, or missing
stack:  .reserve 1      ; as it is between blocks

        .place loader_page
page:   .reserve 256

        .place loader
        .entry start
start:  cld                     ; after a reset it may be set
        lda #0
        sta next
        sta bad
        beq block

end:    lda bad
        bne start               ; once more
        lda page+2
        and #STARTS
        beq _back
        jmp (to)
_back:  rts

wrong:  lda #$FF
        sta bad
        .if defined(board.lamps.data)
        sta board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        lda #'?'
        serial_put
        .end

again:  ldx stack               ; whoever called
        txs
block:  tsx
        stx stack
        jsr get
_mark:  cmp #MARK_1
        bne again
        jsr get
        cmp #MARK_2
        bne _mark
        lda #0
        sta crc
        sta crc+1
        sta at
_label: jsr take
        ldx at
        sta label,x
        inc at
        cpx #6
        bne _label
        ldx #0
        stx at
_data:  jsr take
        ldy at
        sta page,y
        inc at
        lda at
        cmp count
        bne _data
        jsr take
        jsr take
        lda crc
        ora crc+1
        bne wrong
        lda index               ; the one that follows?
        tax
        inx
        eor next
        stx next
        ora bad
        sta bad
        .if defined(board.lamps.data)
        beq _show
        lda #$FF
_show:  ora index
        sta board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        lda #'.'
        serial_put
        .end
        lda label               ; 1 head, 2 plain, 3 packed, 4 end
        lsr a
        beq block
        lsr a
        beq data
        bne end

; A byte, added to the check.
take:   jsr get
        pha
        eor crc
        sta crc
        ldx #8
_bit:   asl crc+1
        rol crc
        bcc _next
        lda crc
        eor #$10
        sta crc
        lda crc+1
        eor #$21
        sta crc+1
_next:  dex
        bne _bit
        pla
        rts

        .if defined(board.cassette.data)
TURN  = 12
FEWER = 2
        .include "<common/tape-loading>"

; A byte from the tape: waits for a start bit. If none comes for six bits the block has ended, too
; early if it is one: its number tells that it is missing.
get:    ldy #6 * board.tape.high_halves
_wait:  jsr half
        bcs _start
        dey
        bne _wait
        jmp again
_start: ldy #board.tape.low_halves - 1
        jsr skip
        lda #$80
        sta byte
_bit:   jsr half
        ldy #board.tape.low_halves - 1
        bcs _keep
        ldy #board.tape.high_halves - 1
_keep:  ror byte                ; its complement
        php
        jsr skip
        plp
        bcc _bit                ; the 1 that was put in is not out yet
        lda byte
        eor #$FF
        rts

; The rest of a bit.
skip:   .if board.tape.low_halves == 1
        tya
        beq _end
        .end
_half:  jsr half
        dey
        bne _half
_end:   rts

; Waits for the end of half a cycle. C: it was a long one.
half:   ldx #0
_wait:  inx
        lda board.cassette.data
        eor level
        bpl _wait
        eor level
        sta level
        cpx #LIMIT
        rts
        .else
get:    serial_ready
        beq get
        serial_get
        rts
        .end

        .if !defined(UNPACKS)
data:   ldy #0
_copy:  lda page,y
        sta (to),y
        iny
        cpy count
        bne _copy
        jmp block
        .else
        .place loader_zero
bits:   .reserve 1              ; those left of a byte, and a 1 behind them
far:    .reserve 2              ; the distance, less 1
number: .reserve 1
from:   .reserve 2
full:   .reserve 1              ; the last place that a byte was taken from
        .place loader

data:   ldx #0
        stx bits
        stx full
        stx at
token:  lda label
        lsr a
        bcc _byte               ; plain
        jsr bit
        bcs _byte
        jsr bit
        bcc _again
        jsr gamma
        ldx number
        dex
        stx far+1
        jsr fetch
        sta far
        jsr gamma
        inc number              ; one more; 0: 256
        bcs _copy               ; as gamma leaves it
_again: jsr gamma
_copy:  clc                     ; from = to - far - 1
        lda to
        sbc far
        sta from
        lda to+1
        sbc far+1
        sta from+1
_each:  lda (from),y
        jsr store
        inc from
        bne _left
        inc from+1
_left:  dec number
        bne _each
        beq token
_byte:  jsr fetch
        jsr store
        jmp token

store:  sta (to),y              ; Y is 0 since the first bit
        inc to
        bne _end
        inc to+1
_end:   rts

; The next byte of the block. There is none: data is done, whoever called.
fetch:  ldy at
        cpy count
        bne _one
        tya
        ora full                ; of 256 the count is 0, as the begin is
        beq _one
        jmp again
_one:   sty full
        lda page,y
        inc at
        ldy #0
        rts

; The next bit, into C.
bit:    asl bits
        bne _end
        jsr fetch
        sec
        rol a
        sta bits
_end:   rts

; A number of 1 to 255; leaves C 1.
gamma:  lda #1
        sta number
_more:  jsr bit
        bcs _end
        jsr bit
        rol number
        bcc _more
_end:   rts
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

; Loads blocks from tape, on the 6809: the first stage of a staged tape. docs/tape.md.
;
; What it needs of the bench file:
;   areas    loader       where it lies, RAM or ROM
;            loader_page  256 bytes of RAM
;            loader_zero  bytes of page zero
;            stack        RAM for the stack; it begins at the upper end
;   devices  cassette     the recorder's input bit; or else serial, a UART behind a modem
;            lamps        (may be missing) shows how many blocks were good, or $FF; without them a
;                         serial interface says '.' for a good block, '?' for a bad one
;   tape                  the keying
; With the constant UNPACKS it knows packed blocks. A block is looked at when all of it is there, so
; nothing that is damaged gets into memory. When one was bad or missing the tape is played again:
; what was good stays. After a program that is not to be started it waits for the next.

        .include "<common/tape-blocks>"
        .if defined(board.serial.driver) && defined(board.link.baud)
        .include "<serial>"
        .end

        .place loader_zero
label:  .reserve 7      ; of the block: kind, number, index, count, address
index   = label + 2     ; its low byte comes first
count   = label + 4
to:     .reserve 2      ; the address, high byte first
level:  .reserve 1      ; of the input, in bit 7
byte:   .reserve 1
crc:    .reserve 2
left:   .reserve 1
turns:  .reserve 1
next:   .reserve 1      ; the index that must come, its low byte
bad:    .reserve 1      ; not 0: a block was not good, or missing
from:   .reserve 2      ; in the page

        .place loader_page
page:   .reserve 256

        .place loader
        .entry start
start:  ldx #0
        stx next                ; and bad

block:  lds #area.stack.last    ; whoever called
        jsr get
_mark:  cmpa #MARK_1
        bne block
        jsr get
        cmpa #MARK_2
        bne _mark
        ldx #0
        stx crc
        ldx #label
_label: bsr take
        sta 0,x
        leax 1,x
        cmpx #label + 7
        bne _label
        lda count
        sta left
        ldx #page
_data:  bsr take
        sta 0,x
        leax 1,x
        dec left
        bne _data
        .if defined(UNPACKS)
        stx end_of
        .end
        bsr take
        bsr take
        ldx crc
        beq good

        lda #$FF
        sta bad
        .if defined(board.lamps.data)
        sta board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        lda #'?'
        serial_put
        .end
        bra block

end:    lda bad
        bne start
        lda page+2
        anda #STARTS
        beq start               ; the next one
        ldx to
        jmp 0,x

; A byte, added to the check.
take:   bsr get
        eora crc
        ldb #8
        stb turns
        ldb crc+1
_bit:   aslb
        rola
        bcc _next
        eora #$10
        eorb #$21
_next:  dec turns
        bne _bit
        sta crc
        stb crc+1
        lda byte
        rts

good:   lda label+6            ; the address, as this CPU has it
        ldb label+5
        sta to
        stb to+1
        lda index              ; is it the one that follows?
        tfr a,b
        eora next
        incb
        stb next
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
        ldx #page
        stx from
        lda label              ; 1 head, 2 plain, 3 packed, 4 end
        deca
        beq again
        suba #3
        beq end

        .if !defined(UNPACKS)
_copy:  ldx from
        lda 0,x
        leax 1,x
        stx from
        ldx to
        sta 0,x
        leax 1,x
        stx to
        dec count
        bne _copy
        .else
        bra unpack
        .end
again:  jmp block

        .if defined(board.cassette.data)
TURN  = 14
FEWER = 2
        .include "<common/tape-loading>"

; A byte from the tape: waits for a start bit. If none comes for six bits the block has ended, too
; early if it is one: its number tells that it is missing.
get:    lda #6 * board.tape.high_halves
        sta turns
_wait:  bsr half
        bcc _start
        dec turns
        bne _wait
        bra again
_bit:   bsr half
        ror byte
        pshs cc
        lda #board.tape.high_halves - 1
        tst byte
        bmi _keep
_low:   lda #board.tape.low_halves - 1
_keep:  sta turns
        .if board.tape.low_halves == 1
        beq _whole
        .end
_half:  bsr half
        dec turns
        bne _half
_whole: puls cc
        bcc _bit                ; the 1 that was put in is not out yet
        lda byte
        rts
_start: lda #$80
        sta byte
        pshs cc                     ; no carry: it goes on
        bra _low

; Waits for the end of half a cycle. C: it was a short one.
half:   clrb
_wait:  incb
        lda board.cassette.data
        eora level
        bpl _wait
        eora level
        sta level
        cmpb #LIMIT
        rts
        .else
get:    serial_ready
        beq get
        serial_get
        sta byte
        rts
        .end

        .if defined(UNPACKS)
        .place loader_zero
bits:   .reserve 1              ; those left of a byte, and a 1 behind them
far:    .reserve 2              ; the distance, less 1
source: .reserve 2
end_of: .reserve 2              ; behind the block's last byte
        .place loader

unpack: clr bits
token:  lda label
        lsra
        bcc _byte               ; plain
        bsr bit
        bcs _byte
        bsr bit
        bcc _again
        bsr gamma
        decb
        stb far
        bsr fetch
        sta far+1
        bsr gamma
        incb                    ; one more; 0: 256
        bra _copy
_again: bsr gamma
_copy:  stb left
        lda to+1               ; source = to - far - 1
        ldb to
        orcc #1
        sbca far+1
        sbcb far
        sta source+1
        stb source
_each:  ldx source
        lda 0,x
        leax 1,x
        stx source
        bsr store
        dec left
        bne _each
        bra token
_byte:  bsr fetch
        bsr store
        bra token

store:  ldx to
        sta 0,x
        leax 1,x
        stx to
        rts

; The next byte of the block. There is none: the block is done, whoever called.
fetch:  ldx from
        cmpx end_of
        bne _one
        jmp block
_one:   lda 0,x
        leax 1,x
        stx from
        rts

; The next bit, into C.
bit:    asl bits
        bne _end
        bsr fetch
        orcc #1
        rola
        sta bits
_end:   rts

; A number of 1 to 255, into B.
gamma:  ldb #1
_more:  bsr bit
        bcs _end
        bsr bit
        rolb
        bra _more
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

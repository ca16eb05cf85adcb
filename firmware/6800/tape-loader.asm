; Loads blocks from tape, on the 6800: the first stage of a staged tape. docs/tape.md.
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
        staa 0,x
        inx
        cpx #label + 7
        bne _label
        ldaa count
        staa left
        ldx #page
_data:  bsr take
        staa 0,x
        inx
        dec left
        bne _data
        .if defined(UNPACKS)
        stx end_of
        .end
        bsr take
        bsr take
        ldx crc
        beq good

        ldaa #$FF
        staa bad
        .if defined(board.lamps.data)
        staa board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        ldaa #'?'
        serial_put
        .end
        bra block

end:    ldaa bad
        bne start
        ldaa page+2
        anda #STARTS
        beq start               ; the next one
        ldx to
        jmp 0,x

; A byte, added to the check.
take:   bsr get
        eora crc
        ldab #8
        stab turns
        ldab crc+1
_bit:   aslb
        rola
        bcc _next
        eora #$10
        eorb #$21
_next:  dec turns
        bne _bit
        staa crc
        stab crc+1
        ldaa byte
        rts

good:   ldaa label+6            ; the address, as this CPU has it
        ldab label+5
        staa to
        stab to+1
        ldaa index              ; is it the one that follows?
        tab
        eora next
        incb
        stab next
        oraa bad
        staa bad
        .if defined(board.lamps.data)
        beq _show
        ldaa #$FF
_show:  oraa index
        staa board.lamps.data
        .elseif defined(board.serial.driver) && defined(board.link.baud) && defined(board.cassette.data)
        ldaa #'.'
        serial_put
        .end
        ldx #page
        stx from
        ldaa label              ; 1 head, 2 plain, 3 packed, 4 end
        deca
        beq again
        suba #3
        beq end

        .if !defined(UNPACKS)
_copy:  ldx from
        ldaa 0,x
        inx
        stx from
        ldx to
        staa 0,x
        inx
        stx to
        dec count
        bne _copy
        .else
        bra unpack
        .end
again:  jmp block

        .if defined(board.cassette.data)
TURN  = 13
FEWER = 2
        .include "<common/tape-loading>"

; A byte from the tape: waits for a start bit. If none comes for six bits the block has ended, too
; early if it is one: its number tells that it is missing.
get:    ldaa #6 * board.tape.high_halves
        staa turns
_wait:  bsr half
        bcc _start
        dec turns
        bne _wait
        bra again
_bit:   bsr half
        ror byte
        tpa
        psha
        ldaa #board.tape.high_halves - 1
        tst byte
        bmi _keep
_low:   ldaa #board.tape.low_halves - 1
_keep:  staa turns
        .if board.tape.low_halves == 1
        beq _whole
        .end
_half:  bsr half
        dec turns
        bne _half
_whole: pula
        tap
        bcc _bit                ; the 1 that was put in is not out yet
        ldaa byte
        rts
_start: ldaa #$80
        staa byte
        tpa                     ; no carry: it goes on
        psha
        bra _low

; Waits for the end of half a cycle. C: it was a short one.
half:   clrb
_wait:  incb
        ldaa board.cassette.data
        eora level
        bpl _wait
        eora level
        staa level
        cmpb #LIMIT
        rts
        .else
get:    serial_ready
        beq get
        serial_get
        staa byte
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
token:  ldaa label
        lsra
        bcc _byte               ; plain
        bsr bit
        bcs _byte
        bsr bit
        bcc _again
        bsr gamma
        decb
        stab far
        bsr fetch
        staa far+1
        bsr gamma
        incb                    ; one more; 0: 256
        bra _copy
_again: bsr gamma
_copy:  stab left
        ldaa to+1               ; source = to - far - 1
        ldab to
        sec
        sbca far+1
        sbcb far
        staa source+1
        stab source
_each:  ldx source
        ldaa 0,x
        inx
        stx source
        bsr store
        dec left
        bne _each
        bra token
_byte:  bsr fetch
        bsr store
        bra token

store:  ldx to
        staa 0,x
        inx
        stx to
        rts

; The next byte of the block. There is none: the block is done, whoever called.
fetch:  ldx from
        cpx end_of
        bne _one
        jmp block
_one:   ldaa 0,x
        inx
        stx from
        rts

; The next bit, into C.
bit:    asl bits
        bne _end
        bsr fetch
        sec
        rola
        staa bits
_end:   rts

; A number of 1 to 255, into B.
gamma:  ldab #1
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

; Saves memory to tape in blocks, on 65C02 and 6502. docs/tape.md.
;
; What it needs of the bench file:
;   areas    saver       where it lies, RAM or ROM
;            saver_zero  bytes of page zero
;   devices  cassette    the recorder's output, bit 0
;   tape                 the keying
; Set these first, then call it:
;   save_first   (2 bytes)  the first address
;   save_last    (2 bytes)  the last address
;   save_number             of the program
; Data blocks and an end that says how many there are, and that there is no CRC-32 of the whole.

        .include "<common/tape-blocks>"

        .place saver_zero
save_first:  .reserve 2
save_last:   .reserve 2
save_number: .reserve 1
kind:   .reserve 1
index:  .reserve 2
count:  .reserve 1      ; bytes of the block; 0: 256
crc:    .reserve 2      ; high byte first
byte:   .reserve 1
turns:  .reserve 1
size:   .reserve 2
level:  .reserve 1      ; of the output

TURN     = 5
BETWEEN  = 24
CHECKING = 42
        .include "<common/tape-saving>"

        .place saver
        .entry start
start:  cld
        lda #1
        sta index
        lda #0
        sta index+1
        sec
        lda save_last
        sbc save_first
        sta size
        lda save_last+1
        sbc save_first+1
        sta size+1
        inc size                ; one more
        bne _lead
        inc size+1
_lead:  lda #LEADER
        jsr rest
_block: sec                     ; how many are left, less 1
        lda save_last
        sbc save_first
        tax
        lda save_last+1
        sbc save_first+1
        bcc _end                ; none
        bne _full
        cpx #255
        beq _full
        inx
        bne _some               ; always
_full:  ldx #0
_some:  lda #PLAIN
        jsr label
_data:  ldy #0
        lda (save_first),y
        jsr put
        inc save_first
        bne _next
        inc save_first+1
_next:  dec count
        bne _data
        jsr check
        inc index
        bne _block
        inc index+1
        bne _block

_end:   ldx #13
        lda #END
        jsr label
        lda #1                  ; version
        jsr put
        lda #0                  ; a program
        jsr put
        lda #NO_CRC
        jsr put
        ldx index               ; how many blocks
        bne _low
        dec index+1
_low:   dex
        txa
        jsr put
        lda index+1
        jsr put
        lda size
        jsr put
        lda size+1
        jsr put
        lda #6
        sta count
_zero:  lda #0
        jsr put
        dec count
        bne _zero

; The check of a block, and a pause behind it.
check:  lda crc+1
        pha
        lda crc
        jsr put
        pla
        jsr put
        lda #LEADER / 40
; The tone of rest: A times 256 half cycles.
rest:   pha
        ldx #0
        ldy #HIGH_TURNS
        jsr half
        pla
        sec
        sbc #1
        bne rest
        rts

; What a block of a kind, A, with X bytes says of itself.
label:  sta kind
        stx count
        lda #MARK_1
        jsr put
        lda #MARK_2
        jsr put
        ldx #0
        stx crc
        stx crc+1
        lda kind
        jsr put
        lda save_number
        jsr put
        lda index
        jsr put
        lda index+1
        jsr put
        lda count
        jsr put
        lda save_first
        jsr put
        lda save_first+1
; A byte, added to the check and sent: a start bit, eight bits, two stop bits.
put:    sta byte
        eor crc
        sta crc
        ldx #8
_check: asl crc+1
        rol crc
        bcc _no
        lda crc
        eor #$10
        sta crc
        lda crc+1
        eor #$21
        sta crc+1
_no:    dex
        bne _check
        ldx #1                  ; the start bit; its first half began with the check
        ldy #LOW_TURNS - CHECKING
        jsr half
        ldx #board.tape.low_halves - 1
        ldy #LOW_TURNS
        jsr half
        sec                     ; a 1 behind the last bit
        ror byte
_bit:   jsr bit
        lsr byte
        bne _bit
        sec                     ; two stop bits
        jsr bit
        sec

; A bit: C.
bit:    ldx #board.tape.low_halves
        ldy #LOW_TURNS
        bcc half
        ldx #board.tape.high_halves
        ldy #HIGH_TURNS
; X half cycles of Y turns.
half:   sty turns
_half:  ldy turns
_turn:  dey
        bne _turn
        lda level
        eor #1
        sta level
        sta board.cassette.data
        dex
        bne _half
        rts

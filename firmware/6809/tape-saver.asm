; Saves memory to tape in blocks, on the 6809. docs/tape.md.
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
index:  .reserve 2      ; high byte first, as all of these
size:   .reserve 2
unsaved: .reserve 2
count:  .reserve 1      ; bytes of the block; 0: 256
crc:    .reserve 2
byte:   .reserve 1
left:   .reserve 1
halves: .reserve 1
turns:  .reserve 1
level:  .reserve 1      ; of the output

TURN     = 5
BETWEEN  = 34
CHECKING = 42
        .include "<common/tape-saving>"

        .place saver
        .entry start
start:  ldx #1
        stx index
        lda save_last+1
        ldb save_last
        suba save_first+1
        sbcb save_first
        adda #1
        adcb #0
        sta size+1
        stb size
        sta unsaved+1
        stb unsaved
        lda #LEADER
        jsr rest
_block: lda unsaved
        beq _part
        deca                    ; 256 of them
        sta unsaved
        clra
        bra _some
_part:  lda unsaved+1
        beq _end
        ldb #0
        stb unsaved+1
_some:  sta count
        lda #PLAIN
        jsr label
        ldx save_first
_data:  lda 0,x
        jsr put
        leax 1,x
        dec count
        bne _data
        stx save_first
        bsr check
        ldx index
        leax 1,x
        stx index
        bra _block

_end:   lda #13
        sta count
        lda #END
        jsr label
        lda #1                 ; version
        jsr put
        clra                    ; a program
        jsr put
        lda #NO_CRC
        jsr put
        ldx index               ; how many blocks
        leax -1,x
        stx index
        ldx #index
        bsr two
        ldx #size
        bsr two
        ldx #6
_zero:  clra
        jsr put
        leax -1,x
        bne _zero

; The check of a block, and a pause behind it.
check:  lda crc+1
        pshs a
        lda crc
        jsr put
        puls a
        jsr put
        lda #LEADER / 40
; The tone of rest: A times 256 half cycles.
rest:   pshs a
        clra
        ldb #HIGH_TURNS
        jsr sound
        puls a
        deca
        bne rest
        rts

; Two bytes at X, the low one first.
two:    lda 1,x
        jsr put
        lda 0,x
        jmp put

; What a block of a kind, A, says of itself.
label:  pshs a
        lda #MARK_1
        jsr put
        lda #MARK_2
        jsr put
        ldx #0
        stx crc
        puls a
        jsr put
        lda save_number
        jsr put
        ldx #index
        bsr two
        lda count
        jsr put
        ldx #save_first
        bra two

; A byte, added to the check and sent: a start bit, eight bits, two stop bits. X stays.
put:    sta byte
        eora crc
        ldb #8
        stb left
        ldb crc+1
_check: aslb
        rola
        bcc _no
        eora #$10
        eorb #$21
_no:    dec left
        bne _check
        sta crc
        stb crc+1
        lda #1                 ; the start bit; its first half began with the check
        ldb #LOW_TURNS - CHECKING
        bsr sound
        lda #board.tape.low_halves - 1
        ldb #LOW_TURNS
        bsr sound
        lda #8
        sta left
_bit:   lsr byte
        bsr bit
        dec left
        bne _bit
        orcc #1                     ; two stop bits
        bsr bit
        orcc #1

; A bit: the carry.
bit:    lda #board.tape.low_halves
        ldb #LOW_TURNS
        bcc sound
        lda #board.tape.high_halves
        ldb #HIGH_TURNS
; A half cycles of B turns.
sound:  sta halves
        stb turns
_half:  ldb turns
_turn:  decb
        bne _turn
        lda level
        eora #1
        sta level
        sta board.cassette.data
        dec halves
        bne _half
        rts

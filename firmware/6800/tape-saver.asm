; Saves memory to tape in blocks, on the 6800. docs/tape.md.
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

TURN     = 6
BETWEEN  = 31
CHECKING = 36
        .include "<common/tape-saving>"

        .place saver
        .entry start
start:  ldx #1
        stx index
        ldaa save_last+1
        ldab save_last
        suba save_first+1
        sbcb save_first
        adda #1
        adcb #0
        staa size+1
        stab size
        staa unsaved+1
        stab unsaved
        ldaa #LEADER
        jsr rest
_block: ldaa unsaved
        beq _part
        deca                    ; 256 of them
        staa unsaved
        clra
        bra _some
_part:  ldaa unsaved+1
        beq _end
        ldab #0
        stab unsaved+1
_some:  staa count
        ldaa #PLAIN
        jsr label
        ldx save_first
_data:  ldaa 0,x
        jsr put
        inx
        dec count
        bne _data
        stx save_first
        bsr check
        ldx index
        inx
        stx index
        bra _block

_end:   ldaa #13
        staa count
        ldaa #END
        jsr label
        ldaa #1                 ; version
        jsr put
        clra                    ; a program
        jsr put
        ldaa #NO_CRC
        jsr put
        ldx index               ; how many blocks
        dex
        stx index
        ldx #index
        bsr two
        ldx #size
        bsr two
        ldx #6
_zero:  clra
        jsr put
        dex
        bne _zero

; The check of a block, and a pause behind it.
check:  ldaa crc+1
        psha
        ldaa crc
        jsr put
        pula
        jsr put
        ldaa #LEADER / 40
; The tone of rest: A times 256 half cycles.
rest:   psha
        clra
        ldab #HIGH_TURNS
        jsr sound
        pula
        deca
        bne rest
        rts

; Two bytes at X, the low one first.
two:    ldaa 1,x
        jsr put
        ldaa 0,x
        jmp put

; What a block of a kind, A, says of itself.
label:  psha
        ldaa #MARK_1
        jsr put
        ldaa #MARK_2
        jsr put
        ldx #0
        stx crc
        pula
        jsr put
        ldaa save_number
        jsr put
        ldx #index
        bsr two
        ldaa count
        jsr put
        ldx #save_first
        bra two

; A byte, added to the check and sent: a start bit, eight bits, two stop bits. X stays.
put:    staa byte
        eora crc
        ldab #8
        stab left
        ldab crc+1
_check: aslb
        rola
        bcc _no
        eora #$10
        eorb #$21
_no:    dec left
        bne _check
        staa crc
        stab crc+1
        ldaa #1                 ; the start bit; its first half began with the check
        ldab #LOW_TURNS - CHECKING
        bsr sound
        ldaa #board.tape.low_halves - 1
        ldab #LOW_TURNS
        bsr sound
        ldaa #8
        staa left
_bit:   lsr byte
        bsr bit
        dec left
        bne _bit
        sec                     ; two stop bits
        bsr bit
        sec

; A bit: the carry.
bit:    ldaa #board.tape.low_halves
        ldab #LOW_TURNS
        bcc sound
        ldaa #board.tape.high_halves
        ldab #HIGH_TURNS
; A half cycles of B turns.
sound:  staa halves
        stab turns
_half:  ldab turns
_turn:  decb
        bne _turn
        ldaa level
        eora #1
        staa level
        staa board.cassette.data
        dec halves
        bne _half
        rts

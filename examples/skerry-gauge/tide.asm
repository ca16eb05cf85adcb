; The tide gauge: two buttons set the height in decimetres, the display shows it, and a lamp warns from 20 on.
; Who includes this has said .use "out/eyelet.sym" as eyelet and where it is to be placed. The pins of display, buttons and
; lamp come from the bench file: board.glass.e is the port that E is wired to, board.glass.e_mask its bit.

height  = $10
wanted  = $11                   ; what the buttons are to have been for 5 ms
turns   = $12
rs      = $13                   ; as the display's RS is to be

        .assert board.glass.rs_mask == 1 && board.glass.d4_mask == $10 && board.glass.d7_mask == $80, "the display's data is the upper half of its port"

BUTTONS = board.up.out_mask | board.down.out_mask

tide:   stz height
        lda #$FF                ; the display's port: outputs
        sta board.glass.e_direction
        stz board.glass.e
        lda #board.alarm.plus_mask
        sta board.alarm.plus_direction
        stz board.alarm.plus
        jsr set_up
_show:  jsr show
_wait:  jsr eyelet.poll
        jsr buttons             ; until one is pressed
        beq _wait
        bit #board.up.out_mask
        beq _down
        inc height
        bra _held
_down:  lda height
        beq _held
        dec height
_held:  jsr eyelet.poll
        jsr buttons             ; until it is let go
        bne _held
        bra _show

; The buttons that are pressed, in A, when they have been the same for 5 ms: contacts bounce.
buttons:
        lda #5
        sta turns
        jsr look
        sta wanted
_again: lda #board.clock / 1000 / 1280
        jsr pause
        jsr look
        cmp wanted
        bne buttons
        dec turns
        bne _again
        and #BUTTONS
        rts
look:   lda board.up.out
        eor #$FF                ; a button that is pressed pulls its pin low
        and #BUTTONS
        rts

; Height as metres, and the lamp.
show:   lda #$80
        jsr command
        ldx #0
_text:  lda text,x
        beq _number
        jsr letter
        inx
        bra _text
_number:
        lda height
        ldx #'0' - 1
_tens:  inx
        sec
        sbc #10
        bcs _tens
        adc #10 + '0'
        pha
        txa
        jsr letter
        lda #'.'
        jsr letter
        pla
        jsr letter
        lda #'m'
        jsr letter
        lda #20 - 1
        cmp height
        lda #0
        bcs _lamp
        lda #board.alarm.plus_mask
_lamp:  sta board.alarm.plus
        rts

text:   .text "Tide " ending 0

; ---- the display, four bits at a time ----

set_up: lda #20                 ; it takes its time after power-on
        jsr milliseconds
        ldx #3
_eight: lda #$30
        jsr nibble
        lda #5
        jsr milliseconds
        dex
        bne _eight
        lda #$20
        jsr nibble
        lda #%00101000          ; 4 bits, 2 lines
        jsr command
        lda #%00001100          ; on
        jsr command
        lda #%00000001          ; clear
        jsr command
        lda #2
        jmp milliseconds

; A byte in A, its upper half first: as a command, or as a letter. RS tells which.
command:
        stz rs
        bra send
letter: pha
        lda #board.glass.rs_mask
        sta rs
        pla
send:   pha
        jsr half
        pla
        asl a
        asl a
        asl a
        asl a
half:   and #$F0
        ora rs
; A half of a byte in the upper four bits; the display takes it when E falls.
nibble: sta board.glass.e
        ora #board.glass.e_mask
        sta board.glass.e
        and #~board.glass.e_mask
        sta board.glass.e
        lda #1                  ; 40 us
        ; falls through

; A times 256 turns of 5 cycles.
pause:  phx
        ldx #0
_turn:  dex
        bne _turn
        dec a
        bne _turn
        plx
        rts

milliseconds:
        pha
        lda #board.clock / 1000 / 1280 + 1
        jsr pause
        pla
        dec a
        bne milliseconds
        rts

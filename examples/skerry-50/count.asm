; How often the button was pressed, on the digit. Who includes this has said .use "out/eyelet.sym" as eyelet and where it
; is to be placed. The pins of digit and button come from the bench file.

presses = $10
was     = $11                   ; the button, when it was last looked at
count:  lda #$7F
        sta board.count.a_direction
        lda #0
        sta presses
show:   ldx presses
        lda shapes,x
        sta board.count.a
up:     jsr quiet               ; until it is let go
        beq up
down:   jsr quiet               ; until it is pressed
        bne down
        inc presses
        lda presses
        cmp #10
        bcc show
        lda #0
        sta presses
        beq show
; Z clear: the button is up. It has been as it is for 5 ms.
quiet:  jsr eyelet.poll
        ldy #4
again:  ldx #0
wait:   dex
        bne wait
        lda board.go.out
        and #board.go.out_mask
        cmp was
        beq same
        sta was
        jmp quiet
same:   dey
        bne again
        cmp #0
        rts
shapes: .byte $3F, $06, $5B, $4F, $66, $6D, $7D, $07, $7F, $6F

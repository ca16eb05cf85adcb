; Tongue for the 65C02: words for a person at Eyelet's prompt, and what programs can show of themselves. docs/tongue.md.
;
; What it needs of the bench file, besides what Eyelet does:
;   areas    tongue  ROM; Eyelet, which is built before it, looks for it there

        .use "<eyelet.sym>" as eyelet
        .include "<serial>"
        .include "<common/tongue>"

value = eyelet.count            ; what is borrowed of Eyelet's page zero between frames
first = eyelet.crc
last  = eyelet.crc + 2
at    = eyelet.escaped          ; where in the line
shown = eyelet.scratch          ; a number that is printed
digit = eyelet.blocks
line  = eyelet.buffer

        .place tongue
        .assert first + 2 == last, "the range lies in a row"

; Eyelet knows these two places.
        jmp key
        jmp power_up

; A key at Eyelet's prompt, in A: it begins a line.
key:    ldx #0
        bra _have
_next:  jsr eyelet.take_slowly
_have:  cmp #$7E
        beq _frame              ; the PC has something to say
        cmp #13
        beq _end
        cmp #8
        beq _back
        cmp #127
        beq _back
        cmp #' '
        bcc _next
        cpx #LONGEST
        bcs _next
        sta line,x
        inx
        jsr eyelet.put
        bra _next
_back:  cpx #0
        beq _next
        dex
        lda #8
        jsr eyelet.put
        jsr blank
        lda #8
        jsr eyelet.put
        bra _next
_frame: jmp eyelet.frame
_end:   stz line,x
        stz at
        jsr skip
        beq done
        and #$5F                ; either case
        pha
_word:  jsr next                ; the rest of the word
        cmp #'A'
        bcs _word
        dec at
        pla
        ldx #0
_look:  cmp letters,x
        bne _other
        jmp (letters + 1,x)
_other: inx
        inx
        inx
        cpx #letters_end - letters
        bne _look
        lda #<words
        ldx #>words
tell:   jsr eyelet.say
done:   jmp eyelet.monitor

letters:
        .byte 'S'
        .word show
        .byte 'C'
        .word change
        .byte 'F'
        .word fill
        .byte 'R'
        .word run
letters_end:

run:    jsr number
        bcs _rom
        lda value
        sta eyelet.pointer
        lda value + 1
        sta eyelet.pointer + 1
        jmp eyelet.launch
_rom:   jsr eyelet.start_rom    ; comes back when there is none
        jmp eyelet.monitor

; Without a place on from the last; without an end some rows.
show:   jsr number
        bcs _on
        jsr take_first
_on:    jsr number
        bcs _some
        jsr take_last
        bra _rows
_some:  clc
        lda first
        adc #SHOWN - 1
        sta last
        lda first + 1
        adc #0
        sta last + 1
        bcc _rows
        lda #$FF
        sta last
        sta last + 1
_rows:  jsr rows
        jsr further             ; for the next time
        jmp eyelet.monitor

fill:   jsr take_free
        jsr number
        bcs refuse
        jsr take_last
        jsr byte_value
_next:  lda value
        sta (first)
        cmp (first)
        bne unkept
        jsr onward
        bcc _next
        jmp eyelet.monitor

refuse: lda #<odd
        ldx #>odd
        jmp tell
unkept: lda #<lost
        ldx #>lost
        jmp tell

change: jsr take_free
        jsr byte_value
_next:  lda value
        sta (first)
        cmp (first)
        bne unkept
        jsr further
        jsr number
        bcs _end
        jsr small
        bra _next
_end:   jmp eyelet.monitor

byte_value:
        jsr number
        bcs refuse
small:  lda value + 1
        bne refuse
        rts


; The place that is to be changed. As Eyelet itself: nothing below the page after its own.
take_free:
        jsr number
        bcs refuse
        lda #hi(line)
        cmp value + 1
        bcc take_first
        jmp unkept
take_first:
        lda value
        sta first
        lda value + 1
        sta first + 1
        rts
take_last:
        lda value
        sta last
        lda value + 1
        sta last + 1
        rts

; first goes on by one. C set: it was last, or beyond.
onward: lda first
        cmp last
        lda first + 1
        sbc last + 1
        bcs _over
        jsr further
        clc
_over:  rts

further:
        inc first
        bne _same
        inc first + 1
_same:  rts

; ---- the line ----

next:   phx
        ldx at
        inc at
        lda line,x
        plx
        cmp #0
        rts

; The next character that is no blank, in A. Z set: the line is over.
skip:   jsr next
        cmp #' '
        beq skip
        cmp #0
        rts

; A number from the line, in value. C set: there is none. What is no number ends the whole line: the prompt begins the
; stack anew.
number: jsr skip
        beq _none
        stz value
        stz value + 1
_digit: cmp #'9' + 1
        bcc _plain
        and #$5F                ; either case
        cmp #'A'
        bcc _odd
        sbc #7
_plain: cmp #'0'
        bcc _odd
        sbc #'0'
        cmp #1 << BITS
        bcs _odd
        pha
        ldy #BITS
_shift: asl value
        rol value + 1
        dey
        bne _shift
        pla
        ora value
        sta value
        jsr next
        beq _end
        cmp #' '
        bne _digit
_end:   dec at
        clc
        rts
_none:  dec at
        sec
        rts
_odd:   jmp refuse

; ---- printing ----

blank:  lda #' '
        jmp eyelet.put
crlf:   lda #13
        jsr eyelet.put
        lda #10
        jmp eyelet.put

; A as a byte, or the word at shown, in the machine's radix. Uses X, Y.
byte:   sta shown + 1
        ldx #BYTE_FIRST
        ldy #BYTE_DIGITS
        bra digits
word:   ldx #WORD_FIRST
        ldy #WORD_DIGITS
digits: stz digit
_bit:   asl shown
        rol shown + 1
        rol digit
        dex
        bne _bit
        lda digit
        cmp #10
        bcc _plain
        adc #6                  ; and the carry
_plain: adc #'0'
        jsr eyelet.put
        ldx #BITS
        dey
        bne digits
        rts

; From first to last, each row with its characters. A key ends it.
rows:   jsr crlf
        lda first
        sta shown
        lda first + 1
        sta shown + 1
        jsr word
        lda first               ; for the characters
        sta value
        lda first + 1
        sta value + 1
        stz at
_byte:  jsr blank
        lda (first)
        jsr byte
        inc at
        jsr onward
        php
        bcs _text
        lda at
        cmp #ROW
        bcs _text
        plp
        bra _byte
_text:  jsr blank
_next:  lda (value)
        cmp #' '
        bcc _dot
        cmp #127
        bcc _put
_dot:   lda #'.'
_put:   jsr eyelet.put
        inc value
        bne _same
        inc value + 1
_same:  dec at
        bne _next
        plp
        bcs _over
        serial_ready
        beq rows
_over:  rts

; What Eyelet does at power-on when nobody has spoken up: the program that is kept starts, or else the ROM's.
power_up:
        .if defined(board.hold.data)
        lda board.hold.data
        and #1
        .if defined(HOLD_LOW)
        bne _free
        .else
        beq _free
        .end
        jmp eyelet.monitor      ; the button is held: nothing starts
_free:
        .end
        .if defined(area.stored.first)
        lda area.stored_head.first + 1
        cmp #hi(area.stored.size) + 1
        bcs _rom                ; longer than can be: nothing is kept
        lda #$FF
        sta eyelet.fcs
        sta eyelet.fcs + 1
        lda #<area.stored_head.first
        ldx #>area.stored_head.first
        ldy #4
        stz value + 1
        jsr sum_up
        lda area.stored_head.first + 1
        sta value + 1
        ldy area.stored_head.first
        lda #<area.stored.first
        ldx #>area.stored.first
        jsr sum_up
        stz value + 1
        lda #<(area.stored_head.first + 4)
        ldx #>(area.stored_head.first + 4)
        ldy #2
        jsr sum_up
        lda eyelet.fcs
        cmp #<GOOD_FCS
        bne _rom
        lda eyelet.fcs + 1
        cmp #>GOOD_FCS
        bne _rom
        lda area.stored_head.first + 2
        sta eyelet.pointer
        lda area.stored_head.first + 3
        sta eyelet.pointer + 1
        jmp eyelet.launch
_rom:
        .end
        jmp eyelet.start_rom

        .if defined(area.stored.first)
; Adds as many bytes as Y and the high byte in value say, from A (low), X (high) on, to the checksum.
sum_up: sta first
        stx first + 1
        sty value
_next:  lda value
        ora value + 1
        beq _done
        lda (first)
        jsr eyelet.add_fcs
        jsr further
        lda value
        bne _low
        dec value + 1
_low:   dec value
        bra _next
_done:  rts
        .end

; ---- for programs: nothing of theirs is changed ----

; Prints all registers, and where it was called.
registers:
        php
        pha
        phx
        phy
        cld
        jsr crlf
        tsx
        lda $0105,x             ; the call's last byte
        sec
        sbc #2
        sta shown
        lda $0106,x
        sbc #0
        sta shown + 1
        lda #'P'
        jsr eyelet.put
        lda #'C'
        jsr eyelet.put
        jsr blank
        jsr word
        tsx
        ldy $0103,x
        lda #'A'
        jsr named
        tsx
        ldy $0102,x
        lda #'X'
        jsr named
        tsx
        ldy $0101,x
        lda #'Y'
        jsr named
        tsx
        txa
        clc
        adc #6                  ; as it was before the call
        tay
        lda #'S'
        jsr named
        tsx
        ldy $0104,x
        lda #'P'
        jsr named
restore:
        ply
        plx
        pla
        plp
        rts

; Two blanks, the name in A, and the byte in Y.
named:  pha
        jsr blank
        jsr blank
        pla
        jsr eyelet.put
        jsr blank
        tya
        jmp byte

; Prints the range whose first and last address stand behind the call.
range:  php
        pha
        phx
        phy
        cld
        tsx
        lda $0105,x
        sta value
        clc
        adc #4
        sta $0105,x
        lda $0106,x
        sta value + 1
        adc #0
        sta $0106,x
        ldy #4
_take:  lda (value),y
        sta first - 1,y
        dey
        bne _take
        jsr rows
        bra restore

        .include "<common/tongue-texts>"
end_of_tongue:

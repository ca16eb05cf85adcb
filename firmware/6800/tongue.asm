; Tongue for the 6800: words for a person at Eyelet's prompt, and what programs can show of themselves. docs/tongue.md.
;
; What it needs of the bench file, besides what Eyelet does:
;   areas    tongue  ROM; Eyelet, which is built before it, looks for it there

        .use "<eyelet.sym>" as eyelet
        .include "<serial>"
        .include "<common/tongue>"

first = eyelet.crc              ; what is borrowed of Eyelet's page at 0 between frames
last  = eyelet.crc + 2
at    = eyelet.into             ; where in the line
value = eyelet.place
shown = eyelet.span             ; a number that is printed
row   = eyelet.from             ; where its characters are
digit = eyelet.blocks
left  = eyelet.escaped          ; digits
many  = eyelet.count            ; bytes in the row
kept  = eyelet.left             ; X of a program
line  = eyelet.buffer

        .place tongue

; Eyelet knows these two places.
        jmp key
        jmp power_up

; A key at Eyelet's prompt, in A: it begins a line.
key:    ldx #line
        bra _have
_next:  jsr eyelet.take_slowly
_have:  cmpa #$7E
        beq _frame              ; the PC has something to say
        cmpa #13
        beq _end
        cmpa #8
        beq _back
        cmpa #127
        beq _back
        cmpa #' '
        bcs _next
        cpx #line + LONGEST
        beq _next
        staa 0,x
        inx
        jsr eyelet.put
        bra _next
_back:  cpx #line
        beq _next
        dex
        ldaa #8
        jsr eyelet.put
        jsr blank
        ldaa #8
        jsr eyelet.put
        bra _next
_frame: jmp eyelet.frame
_end:   clr 0,x
        ldx #line
        stx at
        jsr skip
        beq done
        anda #$5F               ; either case
        tab
_word:  jsr next                ; the rest of the word
        cmpa #'A'
        bcc _word
        jsr back
        cmpb #'S'
        beq show
        cmpb #'C'
        beq change
        cmpb #'F'
        beq fill
        cmpb #'R'
        beq run
        ldx #words
tell:   jsr eyelet.say
done:   jmp eyelet.monitor
refuse: ldx #odd
        bra tell
unkept: ldx #lost
        bra tell

run:    jsr number
        bcs _rom
        ldx value
        jmp eyelet.launch
_rom:   jsr eyelet.start_rom    ; comes back when there is none
        bra done

; Without a place on from the last; without an end some rows.
show:   jsr number
        bcs _on
        ldx value
        stx first
_on:    jsr number
        ldx value
        bcc _rows
        ldab first + 1
        addb #SHOWN - 1
        stab last + 1
        ldaa first
        adca #0
        staa last
        ldx last
        bcc _rows
        ldx #$FFFF
_rows:  stx last
        jsr rows
        ldx first               ; for the next time
        inx
        stx first
        bra done

fill:   bsr free_place
        jsr number
        bcs refuse
        ldx value
        stx last
        bsr byte_value
_next:  ldx first
        stab 0,x
        cmpb 0,x
        bne unkept
        bsr onward
        bcs _next
        bra done

change: bsr free_place
        bsr byte_value
_next:  ldx first
        stab 0,x
        cmpb 0,x
        bne unkept
        inx
        stx first
        jsr number
        bcs done
        bsr small
        bra _next

; The place that is to be changed. As Eyelet itself: nothing below the page after its own.
free_place:
        jsr number
        bcs _none
        ldx value
        stx first
        ldaa value
        cmpa #hi(line) + 1
        bcs _low
        rts
_none:  jmp refuse
_low:   jmp unkept

; A byte, in B.
byte_value:
        jsr number
        bcs free_place._none
small:  ldab value + 1
        tst value
        bne free_place._none
        rts

; first goes on by one while it is below last: C set then. Keeps B.
onward: ldaa first + 1
        suba last + 1
        ldaa first
        sbca last
        bcc _over
        ldx first
        inx
        stx first
        sec
        rts
_over:  clc
        rts

; ---- the line ----

; Its next character, in A; 0 at its end. Keeps B.
next:   ldx at
        ldaa 0,x
        inx
        stx at
        tsta
        rts
back:   ldx at
        dex
        stx at
        rts

; The next character that is no blank, in A. Z set: the line is over.
skip:   bsr next
        cmpa #' '
        beq skip
        tsta
        rts

; A number from the line, in value. C set: there is none. What is no number ends the whole line: the prompt begins the
; stack anew. Keeps B unless there is one.
number: bsr skip
        beq _none
        ldx #0
        stx value
_digit: cmpa #'9' + 1
        bcs _plain
        anda #$5F               ; either case
        cmpa #'A'
        bcs _odd
        suba #7
_plain: suba #'0'
        cmpa #1 << BITS
        bcc _odd
        ldab #BITS
_shift: asl value + 1
        rol value
        decb
        bne _shift
        oraa value + 1
        staa value + 1
        bsr next
        beq _end
        cmpa #' '
        bne _digit
_end:   bsr back
        clc
        rts
_none:  bsr back
        sec
        rts
_odd:   jmp refuse

; ---- printing ----

blank:  ldaa #' '
        jmp eyelet.put
crlf:   ldaa #13
        jsr eyelet.put
        ldaa #10
        jmp eyelet.put

; A as a byte, or the word at shown, in the machine's radix. Uses A, B.
byte:   staa shown
        ldab #BYTE_DIGITS
        ldaa #BYTE_FIRST
        bra digits
word:   ldab #WORD_DIGITS
        ldaa #WORD_FIRST
digits: stab left
        tab
_digit: clra
_bit:   asl shown + 1
        rol shown
        rola
        decb
        bne _bit
        cmpa #10
        bcs _plain
        adda #7
_plain: adda #'0'
        jsr eyelet.put
        ldab #BITS
        dec left
        bne _digit
        rts

; From first to last, each row with its characters. A key ends it.
rows:   bsr crlf
        ldx first
        stx row                 ; for the characters
        stx shown
        bsr word
        clr many
_byte:  bsr blank
        ldx first
        ldaa 0,x
        bsr byte
        inc many
        jsr onward
        bcc _over
        ldaa many
        cmpa #ROW
        bne _byte
        bsr characters
        serial_ready
        beq rows
        rts
_over:
characters:
        bsr blank
        ldx row
_next:  ldaa 0,x
        cmpa #' '
        bcs _dot
        cmpa #127
        bcs _put
_dot:   ldaa #'.'
_put:   jsr eyelet.put
        inx
        dec many
        bne _next
        rts

; What Eyelet does at power-on when nobody has spoken up: the program that is kept starts, or else the ROM's.
power_up:
        .if defined(board.hold.data)
        ldaa board.hold.data
        anda #1
        .if defined(HOLD_LOW)
        bne _free
        .else
        beq _free
        .end
        jmp eyelet.monitor      ; the button is held: nothing starts
_free:
        .end
        .if defined(area.stored.first)
        ldaa area.stored_head.first
        cmpa #hi(area.stored.size) + 1
        bcc _rom                ; longer than can be: nothing is kept
        ldx #eyelet.fcs_low     ; where sums look
        stx eyelet.low_at
        ldx #eyelet.fcs_high
        stx eyelet.high_at
        ldx #$FFFF
        stx eyelet.fcs
        ldx #area.stored_head.first
        stx first
        ldx #4
        bsr sum_up
        ldx #area.stored.first
        stx first
        ldx area.stored_head.first
        bsr sum_up
        ldx #area.stored_head.first + 4
        stx first
        ldx #2
        bsr sum_up
        ldx eyelet.fcs
        cpx #GOOD_FCS
        bne _rom
        ldx area.stored_head.first + 2
        jmp eyelet.launch
_rom:
        .end
        jmp eyelet.start_rom

        .if defined(area.stored.first)
; Adds X bytes from first on to the checksum.
sum_up: stx value
        beq _done
        ldx first
        ldaa 0,x
        inx
        stx first
        jsr eyelet.add_fcs
        ldx value
        dex
        bra sum_up
_done:  rts
        .end

; ---- for programs: nothing of theirs is changed ----

; Prints all registers, and where it was called.
registers:
        psha
        tpa
        psha
        pshb
        stx kept
        tsx                     ; B CC A, and behind the call
        ldaa 4,x
        ldab 3,x
        suba #3
        sbcb #0
        staa shown + 1
        stab shown
        jsr crlf
        ldx #pc_name
        bsr named
        tsx
        ldab 2,x
        ldx #a_name
        bsr short
        tsx
        ldab 0,x
        ldx #b_name
        bsr short
        ldx kept
        stx shown
        ldx #x_name
        bsr named
        tsx
        stx shown
        ldaa shown + 1
        adda #4                 ; as it was before the call
        staa shown + 1
        bcc _same
        inc shown
_same:  ldx #sp_name
        bsr named
        tsx
        ldab 1,x
        ldx #cc_name
        bsr short
restore:
        ldx kept
        pulb
        pula
        tap
        pula
        rts

; The name at X, and the word at shown, or B.
named:  jsr eyelet.say
        jmp word
short:  jsr eyelet.say
        tba
        jmp byte

pc_name: .text "PC " ending 0
a_name:  .text "  A " ending 0
b_name:  .text "  B " ending 0
x_name:  .text "  X " ending 0
sp_name: .text "  SP " ending 0
cc_name: .text "  CC " ending 0

; Prints the range whose first and last address stand behind the call.
range:  psha
        tpa
        psha
        pshb
        stx kept
        tsx
        ldx 3,x
        ldaa 0,x
        staa first
        ldaa 1,x
        staa first + 1
        ldaa 2,x
        staa last
        ldaa 3,x
        staa last + 1
        tsx
        ldaa 4,x
        adda #4
        staa 4,x
        bcc _same
        inc 3,x
_same:  jsr rows
        bra restore

        .include "<common/tongue-texts>"
end_of_tongue:

; Tongue for the 6809: words for a person at Eyelet's prompt, and what programs can show of themselves. docs/tongue.md.
;
; What it needs of the bench file, besides what Eyelet does:
;   areas    tongue  ROM; Eyelet, which is built before it, looks for it there

        .use "<eyelet.sym>" as eyelet
        .include "<serial>"
        .include "<common/tongue>"

line    = eyelet.buffer
first   = eyelet.buffer + 246   ; behind the frame
last    = eyelet.buffer + 248
at      = eyelet.buffer + 250   ; where in the line
shown   = eyelet.buffer + 252   ; a number that is printed

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
        blo _next
        cmpx #line + LONGEST
        bhs _next
        sta ,x+
        jsr eyelet.put
        bra _next
_back:  cmpx #line
        beq _next
        leax -1,x
        lda #8
        jsr eyelet.put
        lbsr blank
        lda #8
        jsr eyelet.put
        bra _next
_frame: jmp eyelet.frame
_end:   clr ,x
        ldx #line
        stx at
        lbsr skip
        beq done
        anda #$5F               ; either case
        tfr a,b
_word:  lbsr next               ; the rest of the word
        cmpa #'A'
        bhs _word
        lbsr back
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

run:    lbsr number
        bcs _rom
        jmp eyelet.launch
_rom:   jsr eyelet.start_rom    ; comes back when there is none
        bra done

; Without a place on from the last; without an end some rows.
show:   lbsr number
        bcs _on
        stx first
_on:    lbsr number
        bcc _rows
        ldd first
        addd #SHOWN - 1
        tfr d,x
        bcc _rows
        ldx #$FFFF
_rows:  stx last
        lbsr rows
        ldx first               ; for the next time
        leax 1,x
        stx first
        bra done

fill:   bsr free_place
        lbsr number
        bcs refuse
        stx last
        bsr byte_value
_next:  stb [first]
        cmpb [first]
        bne unkept
        bsr onward
        bcs _next
        bra done

change: bsr free_place
        bsr byte_value
_next:  stb [first]
        cmpb [first]
        bne unkept
        ldx first
        leax 1,x
        stx first
        lbsr number
        bcs done
        bsr small
        bra _next

; The place that is to be changed. As Eyelet itself: nothing below the page after its own.
free_place:
        lbsr number
        lbcs refuse
        stx first
        cmpx #area.eyelet_page.last + 1
        lblo unkept
        rts

; A byte, in B.
byte_value:
        lbsr number
        lbcs refuse
small:  tfr x,d
        tsta
        lbne refuse
        rts

; first goes on by one while it is below last: C set then. Keeps B.
onward: ldx first
        cmpx last
        bhs _over
        leax 1,x
        stx first
        orcc #1
        rts
_over:  andcc #$FE
        rts

; ---- the line ----

; Its next character, in A; 0 at its end. Keeps B.
next:   ldx at
        lda ,x+
        stx at
        tsta
        rts
back:   ldx at
        leax -1,x
        stx at
        rts

; The next character that is no blank, in A. Z set: the line is over.
skip:   bsr next
        cmpa #' '
        beq skip
        tsta
        rts

; A number from the line, in X. C set: there is none. What is no number ends the whole line: the prompt begins the stack
; anew.
number: bsr skip
        beq _none
        ldy #0
_digit: cmpa #'9' + 1
        blo _plain
        anda #$5F               ; either case
        cmpa #'A'
        blo _odd
        suba #7
_plain: suba #'0'
        cmpa #1 << BITS
        bhs _odd
        sta shown
        tfr y,d
        .repeat BITS
        aslb
        rola
        .end
        orb shown
        tfr d,y
        bsr next
        beq _end
        cmpa #' '
        bne _digit
_end:   bsr back
        tfr y,x
        andcc #$FE
        rts
_none:  bsr back
        orcc #1
        rts
_odd:   lbra refuse

; ---- printing ----

blank:  lda #' '
        jmp eyelet.put
crlf:   lda #13
        jsr eyelet.put
        lda #10
        jmp eyelet.put

; A as a byte, or D as a word, in the machine's radix. Uses D and Y.
byte:   sta shown
        ldy #BYTE_DIGITS
        ldb #BYTE_FIRST
        bra digits
word:   std shown
        ldy #WORD_DIGITS
        ldb #WORD_FIRST
digits: clra
_bit:   asl shown + 1
        rol shown
        rola
        decb
        bne _bit
        cmpa #10
        blo _plain
        adda #7
_plain: adda #'0'
        jsr eyelet.put
        ldb #BITS
        leay -1,y
        bne digits
        rts

; From first to last, each row with its characters. A key ends it.
rows:   bsr crlf
        ldd first
        pshs d                  ; for the characters
        bsr word
        ldu #0
_byte:  bsr blank
        lda [first]
        bsr byte
        leau 1,u
        lbsr onward
        bcc _over
        cmpu #ROW
        bne _byte
        puls x
        bsr characters
        serial_ready
        beq rows
        rts
_over:  puls x
; U of them from X on.
characters:
        bsr blank
_next:  lda ,x+
        cmpa #' '
        blo _dot
        cmpa #127
        blo _put
_dot:   lda #'.'
_put:   jsr eyelet.put
        leau -1,u
        cmpu #0
        bne _next
        rts

; What Eyelet does at power-on when nobody has spoken up: the program that is kept starts, or else the ROM's.
power_up:
        .if defined(board.hold.data)
        lda board.hold.data
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
        ldx area.stored_head.first
        cmpx #area.stored.size + 1
        bhs _rom                ; longer than can be: nothing is kept
        lda #hi(area.eyelet_vars.first)
        tfr a,dp
        ldd #$FFFF
        std eyelet.fcs
        ldu #area.stored_head.first
        ldy #4
        bsr sum_up
        ldu #area.stored.first
        ldy area.stored_head.first
        bsr sum_up
        ldu #area.stored_head.first + 4
        ldy #2
        bsr sum_up
        clra
        tfr a,dp
        ldx eyelet.fcs
        cmpx #GOOD_FCS
        bne _rom
        ldx area.stored_head.first + 2
        jmp eyelet.launch
_rom:
        .end
        jmp eyelet.start_rom

        .if defined(area.stored.first)
; Adds Y bytes from U on to the checksum.
sum_up: cmpy #0
        beq _done
        lda ,u+
        jsr eyelet.add_fcs
        leay -1,y
        bra sum_up
_done:  rts
        .end

; ---- for programs: nothing of theirs is changed ----

; Prints all registers, and where it was called.
registers:
        pshs cc,a,b,dp,x,y,u
        leau ,s                 ; CC A B DP X Y U, and behind the call
        lbsr crlf
        ldd 10,u
        subd #3
        ldx #pc_name
        bsr named
        ldd 1,u
        ldx #d_name
        bsr named
        ldd 4,u
        ldx #x_name
        bsr named
        ldd 6,u
        ldx #y_name
        bsr named
        ldd 8,u
        ldx #u_name
        bsr named
        leax 12,u               ; as it was before the call
        tfr x,d
        ldx #s_name
        bsr named
        lda 3,u
        ldx #dp_name
        bsr short
        lda ,u
        ldx #cc_name
        bsr short
        puls cc,a,b,dp,x,y,u,pc

; The name at X, and D, or A alone.
named:  pshs d
        jsr eyelet.say
        puls d
        lbra word
short:  pshs a
        jsr eyelet.say
        puls a
        lbra byte

pc_name: .text "PC " ending 0
d_name:  .text "  D " ending 0
x_name:  .text "  X " ending 0
y_name:  .text "  Y " ending 0
u_name:  .text "  U " ending 0
s_name:  .text "  S " ending 0
dp_name: .text "  DP " ending 0
cc_name: .text "  CC " ending 0

; Prints the range whose first and last address stand behind the call.
range:  pshs cc,a,b,dp,x,y,u
        ldx 10,s
        ldd ,x++
        std first
        ldd ,x++
        std last
        stx 10,s
        lbsr rows
        puls cc,a,b,dp,x,y,u,pc

        .include "<common/tongue-texts>"
end_of_tongue:

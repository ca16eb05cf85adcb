; Eyelet for the 6809: the resident monitor.
;
; It answers the frames of docs/link.md, and shows a person at a terminal a prompt and a line of help.
; What it needs of the bench file (docs/eyelet.md):
;   areas    eyelet_vars  32 bytes of RAM in one page
;            eyelet_page  one page of RAM, for a frame
;            stack        RAM for the stack; it begins at the upper end
;            eyelet       the ROM it lives in, at the top, with the vectors
;   devices  serial       a serial interface: docs/serial.md

        .include "<common/eyelet>"

POURS = area.eyelet.last - area.eyelet.first >= $7FF    ; there is room for tables, and what they are good for

; One turn of the waiting loop takes 18 cycles.
TURN  = 18
IDLE  = (board.clock / 20 + board.clock * 50 / board.link.baud) / TURN + 1 ; 50 ms and five bytes of silence end a frame
QUIET = board.clock / TURN / 4 + 1      ; 250 ms of silence before a program starts
        .assert QUIET < 65536, "the clock is too fast for Eyelet's waiting loop"

; A program in ROM leaves its start address here; $FFFF, as in an empty chip, starts nothing.
autostart = area.eyelet.first - 2

        .place eyelet_vars
fcs:      .reserve 2            ; the high byte first
crc:      .reserve 4            ; the same
place:    .reserve 2            ; of the next byte to sum, or to write
span:     .reserve 2            ; bytes in a block
into:     .reserve 2            ; where the next sum goes
blocks:   .reserve 1            ; still to sum
count:    .reserve 1
length:   .reserve 1            ; payload bytes of the answer
escaped:  .reserve 1
scratch:  .reserve 2
irq_hook: .reserve 2            ; where interrupts go, and fast ones; a program may change them
firq_hook: .reserve 2
waiting:  .reserve 2            ; where the stack of a program stands that gave way; 0: none does

        .include "<common/frame>"

STACK = area.stack.last + 1 & $FFFF
PAGE  = hi(area.eyelet_vars.first)      ; the direct page while the monitor is at work
        .direct PAGE

        .place eyelet
        .vector reset, cold
        .vector nmi, nmi
        .vector swi, broken
        .vector irq, interrupt
        .vector firq, fast
        .vector swi2, no_interrupt
        .vector swi3, no_interrupt

; ---- from power-on ----

cold:   lds #STACK
        ldd #0
        std >waiting
        lbsr begin
        ldx #banner
        lbsr say
        ldx #QUIET              ; a key, or a frame, holds the program back
        lbsr wait
        bcc monitor_here
        .if defined(area.tongue.first)
        jsr area.tongue.first + 3
        .else
        bsr start_rom
        .end
        bra monitor             ; there was none

; Where one begins that was loaded into RAM: nothing is known of other programs there.
        .entry loaded
loaded: lds #STACK
        ldd #0
        std >waiting
        lbsr begin
        bra monitor

interrupt:
        jmp [irq_hook]
fast:   jmp [firq_hook]
no_interrupt:
        rti

; Starts the program in ROM; returns only when there is none.
start_rom:
        ldx autostart
        beq idle
        cmpx #$FFFF
        beq idle
; Starts the program at X with a fresh stack. It may end with RTS.
launch: lds #STACK
        ldd #0
        std >waiting
        jsr ,x
        bra monitor
idle:   rts

; A program calls this whenever it has time: nothing happens unless something has come down the line. Then the
; monitor takes over, and comes back when it is asked to resume. A and the flags change.
poll:   serial_ready
        beq idle
        pshs cc,a,b,dp,x,y,u    ; as an interrupt leaves it
        lda ,s
        ora #$80
        sta ,s
        sts >waiting
        bra monitor_here

; ---- a person, or the first flag of a frame ----

; Whatever runs waits from now on, as if it had polled; unless a program waits already.
nmi:    ldx >waiting
        bne monitor
        sts >waiting
monitor:
        ldx #prompt
        lbsr say
monitor_here:
        lda #PAGE
        tfr a,dp
        lds waiting             ; above what a program left on the stack
        bne _wait
        lds #STACK
_wait:  lbsr take_slowly
        cmpa #FLAG
        beq frame
        .if defined(area.tongue.first)
        jmp area.tongue.first   ; a person: docs/tongue.md
        .else
        cmpa #13
        beq monitor
        anda #$5F               ; either case
        cmpa #'R'
        beq _rom
        cmpa #'?' & $5F
        bne _wait
        ldx #help
        lbsr say
        bra monitor
_rom:   bsr start_rom
        bra monitor
        .end

; ---- frames ----

escape: lda #FLIP
        sta escaped
        bra frame_next
frame:  ldy #buffer
        clr escaped
        ldd #$FFFF
        std fcs
frame_next:
        ldx #IDLE
        lbsr wait
        bcs monitor_here        ; it broke off
        serial_get
        cmpa #FLAG
        beq _end
        cmpa #ESCAPE
        beq escape
        eora escaped
        clr escaped
        sta ,y+
        lbsr add_fcs
        cmpy #buffer + PAYLOAD + 5
        bne frame_next
        lbsr take_slowly        ; no frame is longer: only its flag may follow
        cmpa #FLAG
        bne monitor_here
_end:   tfr y,d                 ; bytes, with the checksum
        subd #buffer
        beq frame               ; two flags in a row
        subb #5
        bcs frame               ; shorter than any frame
        cmpb size               ; is it as long as it says?
        bne frame
        ldx fcs
        cmpx #GOOD_FCS
        bne frame
        bsr serve
        lbra monitor_here

; Does what the frame asks and answers.
serve:  ldb #1
        stb length              ; the code alone, unless a routine says otherwise
        lda kind
        deca
        cmpa #KINDS
        bhs unknown
        ldx #least
        ldb a,x
        cmpb size
        bhi malformed
        asla
        ldx #requests
        jsr [a,x]
answer: sta payload             ; the routine left the code in A, and length
        lda length
        sta size
        lda kind
        ora #$80
        sta kind
        lbra send
unknown:
        lda #UNKNOWN
        bra answer
malformed:
        lda #MALFORMED
        bra answer

TELLS = 14                      ; bytes of all registers
        .include "<common/requests>"

; B bytes from X to Y.
copy:   lda ,x+
        sta ,y+
        decb
        bne copy
        rts

hello:  ldx #greeting
        ldy #payload + 1
        ldb #name_end - greeting
        bsr copy
        lda #name_end - greeting + 1
        sta length
        clra                    ; GOOD
        rts

; The address in the payload, whose low byte comes first, goes to X. C set, with the code in A: it is beyond 16 bits.
address:
        ldb payload
        lda payload + 1
        tfr d,x
        clrb
        cmpb payload + 2
        lda #RANGE
        rts

read:   bsr address
        bcs _done
        ldb payload + 3
        beq range
        cmpb #PAYLOAD
        bhs range
        stb length
        inc length
        ldy #payload + 1
        bsr copy
        clra
_done:  rts

; The common end of what lies out of range.
range:  lda #RANGE
        rts

; Everything from the page after Eyelet's own on can be written. What was written is read back.
write:  bsr address
        bcs _done
        cmpx #area.eyelet_page.last + 1
        blo range
        stx place
        ldb size
        subb #3
        stb count
        decb
        clra
        addd place
        bcs range               ; it would run over $FFFF
        bsr _both
        bsr copy
        bsr _both
_look:  lda ,y+
        cmpa ,x+
        bne _wrong
        decb
        bne _look
        clra
_done:  rts
_wrong: ldb -1,x
        sta payload + 5         ; found
        stb payload + 4         ; expected
        leay -1,y
        tfr y,d
        stb payload + 1
        sta payload + 2
        clr payload + 3
        lda #6
        sta length
        lda #DIFFERS
        rts
_both:  ldx #payload + 3
        ldy place
        ldb count
        rts

        .include "<6809/sums>"

run:    lbsr address
        bcs _done
        pshs x
        lbsr farewell
        puls x
        lbra launch
_done:  rts

        .include "<6809/registers>"
        .if POURS
        .include "<6809/pour>"
        .end

; Back to the program that gave way in poll, or was stopped by a breakpoint.
resume: ldx waiting
        lbeq range
        lbsr farewell
        lds waiting
        ldd #0
        std waiting
        rti

; Answers, then waits until the PC has heard that, or for silence: if the answer got lost the question comes again,
; and is answered again, before the program goes on. Comes back only then.
farewell:
        clra
        lbsr answer
_wait:  ldx #QUIET
        bsr wait
        bcs _over
        serial_get
        cmpa #HEARD
        beq _over
        cmpa #FLAG
        bne _wait
        lds waiting
        lbne frame
        lds #STACK
        lbra frame
_over:  rts

; Sends the frame in buffer.
send:   ldd #$FFFF
        std fcs
        lda #FLAG
        bsr put
        ldb size
        addb #3
        ldy #buffer
_next:  lda ,y
        bsr add_fcs
        lda ,y+
        bsr put_escaped
        decb
        bne _next
        lda fcs + 1
        coma
        bsr put_escaped
        lda fcs
        coma
        bsr put_escaped
        lda #FLAG
        bra put

put_escaped:
        cmpa #FLAG
        beq _escape
        cmpa #ESCAPE
        bne put
_escape:
        pshs a
        lda #ESCAPE
        bsr put
        puls a
        eora #FLIP
put:    serial_send
        rts

; ---- the line ----

; Waits up to X turns for a byte. C clear: one has come (and is still in the register).
wait:   serial_ready                    ; 7
        bne _here               ; 3
        leax -1,x               ; 5
        bne wait                ; 3
        orcc #1
        rts
_here:  andcc #$FE
        rts

take_slowly:
        serial_ready
        beq take_slowly
        serial_get
        rts

; Adds A to fcs. Keeps B; uses X.
add_fcs:
        pshs b
        .if POURS
        ldx #fcs_low + 128
        eora fcs + 1
        ldb a,x
        eorb fcs
        stb fcs + 1
        leax 256,x
        lda a,x
        sta fcs
        .else
        eora fcs + 1
        sta scratch
        asla
        asla
        asla
        asla
        eora scratch
        sta scratch             ; x
        tfr a,b
        lsrb
        lsrb
        lsrb
        lsrb
        stb scratch + 1         ; x >> 4
        asla
        asla
        asla
        eora fcs                ; high ^ x << 3
        eora scratch + 1        ; ... ^ x >> 4
        lsrb
        eorb scratch            ; x ^ x >> 5
        stb fcs
        sta fcs + 1
        .end
        puls b,pc

; Prints the text at X, which ends with 0.
say:    lda ,x+
        beq _done
        bsr put
        bra say
_done:  rts

; Sets the line up. Programs that do without cold call it.
begin:  serial_begin
        ldx #no_interrupt
        stx >irq_hook
        stx >firq_hook
        rts

        serial_code

; ---- data ----

banner: .text "\r\nEyelet ", '0' + VERSION, " for the 6809\r\n" ending 0
        .include "<common/texts>"

greeting:
        .byte VERSION, EYELET, PAYLOAD, "Eyelet 6809"
name_end:

        .include "<common/crc-table>"

        .if POURS
FIRST = 128
        .include "<common/fcs-tables>"
        .end
last:
        .assert hi(area.eyelet_vars.first) == hi(area.eyelet_vars.last), "eyelet_vars lies in one page"
        .assert last <= area.eyelet.last - 13, "Eyelet runs into the vectors"

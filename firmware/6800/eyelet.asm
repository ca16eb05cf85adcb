; Eyelet for the 6800: the resident monitor.
;
; It answers the frames of docs/link.md, and shows a person at a terminal a prompt and a line of help.
; What it needs of the bench file (docs/eyelet.md):
;   areas    eyelet_zero  40 bytes of RAM in the page at 0
;            eyelet_page  one page of RAM, for a frame
;            stack        RAM for the stack; it begins at the upper end
;            eyelet       the ROM it lives in, at the top, with the vectors
;   devices  serial       a serial interface: docs/serial.md

        .include "<common/eyelet>"

; One turn of the waiting loop takes 18 cycles.
TURN  = 18
IDLE  = (board.clock / 20 + board.clock * 50 / board.link.baud) / TURN + 1 ; 50 ms and five bytes of silence end a frame
QUIET = board.clock / TURN / 4 + 1      ; 250 ms of silence before a program starts
        .assert QUIET < 65536, "the clock is too fast for Eyelet's waiting loop"

; A program in ROM leaves its start address here; $FFFF, as in an empty chip, starts nothing.
autostart = area.eyelet.first - 2

        .place eyelet_zero
fcs:      .reserve 2            ; the high byte first
crc:      .reserve 4            ; the same
place:    .reserve 2            ; address in a request, and of the next byte to sum
span:     .reserve 2            ; bytes in a block
left:     .reserve 2            ; of them
into:     .reserve 2            ; where the next byte of a frame, or the next sum, goes
from:     .reserve 2            ; of a copy
to:       .reserve 2
low_at:   .reserve 2            ; where the tables are looked into
high_at:  .reserve 2
blocks:   .reserve 1            ; still to sum
count:    .reserve 1
length:   .reserve 1            ; payload bytes of the answer
escaped:  .reserve 1
scratch:  .reserve 2
irq_hook: .reserve 2            ; where interrupts go; a program may change it
waiting:  .reserve 2            ; where the stack of a program stands that gave way; 0: none does

        .include "<common/frame>"

STACK = area.stack.last

        .place eyelet
        .vector reset, cold
        .vector nmi, nmi
        .vector swi, broken
        .vector irq, interrupt

        .align 256
FIRST = 0
        .include "<common/fcs-tables>"

; ---- from power-on ----

cold:   lds #STACK
        bsr fresh
        ldx #banner
        jsr say
        ldx #QUIET              ; a key, or a frame, holds the program back
        jsr wait
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
        bsr fresh
        bra monitor

fresh:  ldx #0                  ; no program waits
        stx waiting
; Sets the line up. Programs that do without cold call it.
begin:  serial_begin
        ldx #no_interrupt
        stx irq_hook
        rts

interrupt:
        ldx irq_hook            ; the CPU has kept all registers
        jmp 0,x
no_interrupt:
        rti

; Starts the program in ROM; returns only when there is none.
start_rom:
        ldx autostart
        beq idle
        cpx #$FFFF
        beq idle
; Starts the program at X with a fresh stack. It may end with RTS.
launch: lds #STACK
        stx place
        ldx #0
        stx waiting
        ldx place
        jsr 0,x
        bra monitor

; A program calls this whenever it has time: nothing happens unless something has come down the line. Then the
; monitor takes over, and comes back when it is asked to resume. A and the flags change.
poll:   serial_ready
        beq idle
        swi                     ; keeps all registers
polled:
idle:   rts

; ---- a person, or the first flag of a frame ----

; Whatever runs waits from now on, as if it had polled; unless a program waits already.
nmi:    ldx waiting
        bne monitor
        sts waiting
monitor:
        ldx #prompt
        jsr say
monitor_here:
        ldx #fcs_low
        stx low_at
        ldx #fcs_high
        stx high_at
        lds waiting             ; above what a program left on the stack
        bne _wait
        lds #STACK
_wait:  jsr take_slowly
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
        jsr say
        bra monitor
_rom:   bsr start_rom
        bra monitor
        .end

; ---- frames ----

frame:  ldx #$FFFF
        stx fcs
        ldx #buffer
        stx into
        clra
_clean: staa escaped
_next:  ldx #IDLE
        jsr wait
        bcs monitor_here        ; it broke off
        serial_get_b
        cmpb #FLAG
        beq _end
        ldaa #FLIP
        cmpb #ESCAPE
        beq _clean
        eorb escaped
        ldx into
        stab 0,x
        inx
        stx into
        tba
        jsr add_fcs
        clra
        ldx into
        cpx #buffer + PAYLOAD + 5
        bne _clean
        jsr take_slowly         ; no frame is longer: only its flag may follow
        cmpa #FLAG
        bne monitor_here
_end:   ldab into + 1           ; bytes, with the checksum: the buffer begins on a page
        beq frame               ; two flags in a row
        subb #5
        bcs frame               ; shorter than any frame
        cmpb size               ; is it as long as it says?
        bne frame
        ldx fcs
        cpx #GOOD_FCS
        bne frame
        bsr serve
        jmp monitor_here

; Does what the frame asks and answers.
serve:  ldab #1
        stab length             ; the code alone, unless a routine says otherwise
        ldab kind
        decb
        cmpb #KINDS
        bcc unknown
        ldx #least
        bsr plus_b
        ldaa 0,x
        cmpa size
        bhi malformed
        ldx #requests
        aslb
        bsr plus_b
        ldx 0,x
        jsr 0,x
answer: staa payload            ; the routine left the code in A, and length
        ldaa length
        staa size
        ldaa kind
        oraa #$80
        staa kind
        jmp send
unknown:
        ldaa #UNKNOWN
        bra answer
malformed:
        ldaa #MALFORMED
        bra answer

; X and B together, in X. Keeps B.
plus_b: stx scratch
        pshb
        addb scratch + 1
        stab scratch + 1
        pulb
        bcc _same
        inc scratch
_same:  ldx scratch
        rts

POURS = 1
TELLS = 9                       ; bytes of all registers
        .include "<common/requests>"

; B bytes from from to to, which then are behind them.
copy:   ldx from
        ldaa 0,x
        inx
        stx from
        ldx to
        staa 0,x
        inx
        stx to
        decb
        bne copy
        rts

hello:  ldx #greeting
        stx from
        ldx #payload + 1
        stx to
        ldab #name_end - greeting
        bsr copy
        ldaa #name_end - greeting + 1
        staa length
        clra                    ; GOOD
        rts

; The address in the payload, whose low byte comes first, goes to X and place. C set, with the code in A: it is beyond 16
; bits.
address:
        ldaa payload + 1
        staa place
        ldaa payload
        staa place + 1
        clrb
        cmpb payload + 2
        ldaa #RANGE
        ldx place
        rts

read:   bsr address
        bcs _done
        stx from
        ldab payload + 3
        beq range
        cmpb #PAYLOAD
        bcc range
        stab length
        inc length
        ldx #payload + 1
        stx to
        bsr copy
        clra
_done:  rts

; The common end of what lies out of range.
range:  ldaa #RANGE
        rts

; Everything from the page after Eyelet's own on can be written. What was written is read back.
write:  bsr address
        bcs _done
        ldaa place
        cmpa #hi(buffer) + 1
        bcs range
        ldab size
        subb #3
        stab count
        decb
        addb place + 1
        adca #0
        bcs range               ; it would run over $FFFF
        bsr _both
        bsr copy
        bsr _both
_look:  ldx from
        ldaa 0,x
        inx
        stx from
        ldx to
        cmpa 0,x
        bne wrong
        inx
        stx to
        decb
        bne _look
        clra
_done:  rts
_both:  ldx #payload + 3
        stx from
        ldx place
        stx to
        ldab count
        rts

; Tells that at X, which is in to, there is something else than A.
wrong:  staa payload + 4        ; expected
        ldaa 0,x
        staa payload + 5        ; found
        ldaa to + 1
        staa payload + 1
        ldaa to
        staa payload + 2
        clr payload + 3
        ldaa #6
        staa length
        ldaa #DIFFERS
        rts

        .include "<6800/sums>"

run:    jsr address
        bcs _done
        jsr farewell
        ldx place
        jmp launch
_done:  rts

        .include "<6800/registers>"
        .include "<6800/pour>"

; Back to the program that gave way in poll, or was stopped by a breakpoint.
resume: ldx waiting
        bne _go
        jmp range
_go:    bsr farewell
        lds waiting
        ldx #0
        stx waiting
        rti

; Answers, then waits until the PC has heard that, or for silence: if the answer got lost the question comes again,
; and is answered again, before the program goes on. Comes back only then.
farewell:
        clra
        jsr answer
_wait:  ldx #QUIET
        bsr wait
        bcs _over
        serial_get
        cmpa #HEARD
        beq _over
        cmpa #FLAG
        bne _wait
        lds waiting
        bne _frame
        lds #STACK
_frame: jmp frame
_over:  rts

; Sends the frame in buffer.
send:   ldx #$FFFF
        stx fcs
        ldaa #FLAG
        bsr put
        ldab size
        addb #3
        ldx #buffer
_next:  ldaa 0,x
        stx from
        pshb
        bsr add_fcs
        pulb
        ldx from
        ldaa 0,x
        bsr put_escaped
        inx
        decb
        bne _next
        ldaa fcs + 1
        coma
        bsr put_escaped
        ldaa fcs
        coma
        bsr put_escaped
        ldaa #FLAG
        bra put

put_escaped:
        cmpa #FLAG
        beq _escape
        cmpa #ESCAPE
        bne put
_escape:
        psha
        ldaa #ESCAPE
        bsr put
        pula
        eora #FLIP
put:    serial_send
        rts

; ---- the line ----

; Waits up to X turns for a byte. C clear: one has come (and is still in the register).
wait:   serial_ready                    ; 6
        bne _here                       ; 4
        dex                             ; 4
        bne wait                        ; 4
        sec
        rts
_here:  clc
        rts

take_slowly:
        serial_ready
        beq take_slowly
        serial_get
        rts

; Adds A to fcs. Uses B and X.
add_fcs:
        eora fcs + 1
        staa low_at + 1
        staa high_at + 1
        ldx low_at
        ldab 0,x
        eorb fcs
        stab fcs + 1
        ldx high_at
        ldab 0,x
        stab fcs
        rts

; Prints the text at X, which ends with 0.
say:    ldaa 0,x
        beq _done
        bsr put
        inx
        bra say
_done:  rts

        serial_code

; ---- data ----

banner: .text "\r\nEyelet ", '0' + VERSION, " for the 6800\r\n" ending 0
        .include "<common/texts>"

greeting:
        .byte VERSION, EYELET, PAYLOAD, "Eyelet 6800"
name_end:

        .include "<common/crc-table>"

last:
        .assert hi(area.eyelet_zero.last) == 0, "eyelet_zero lies in the page at 0"
        .assert lo(buffer) == 0, "eyelet_page begins on a page"
        .assert last <= area.eyelet.last - 7, "Eyelet runs into the vectors"

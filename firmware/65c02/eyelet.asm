; Eyelet for the 65C02, and through <6502/eyelet> for the NMOS 6502: the resident monitor.
;
; It answers the frames of docs/link.md, and shows a person at a terminal a prompt and a line of help.
; What it needs of the bench file (docs/eyelet.md):
;   areas    eyelet_zero  a few bytes of page zero
;            eyelet_page  one page of RAM, for a frame
;            eyelet       the ROM it lives in, at the top, with the vectors
;   devices  serial       a serial interface: docs/serial.md

        .include "<common/eyelet>"
        .if defined(NMOS)
        .include "<6502/ways>"
        .else
        .include "<65c02/ways>"
        .end

; One turn of the waiting loop's outer count is 256 times 16 cycles.
TURN  = 4096
IDLE  = (board.clock / 20 + board.clock * 50 / board.link.baud) / TURN + 1 ; 50 ms and five bytes of silence end a frame
QUIET = board.clock / TURN / 4 + 1      ; 250 ms of silence before a program starts
        .assert QUIET < 256, "the clock is too fast for Eyelet's waiting loop"

; A program in ROM leaves its start address here; $FFFF, as in an empty chip, starts nothing.
autostart = area.eyelet.first - 2

        .place eyelet_zero
pointer:  .reserve 2
count:    .reserve 2
blocks:   .reserve 1
length:   .reserve 1            ; payload bytes of the answer
fcs:      .reserve 2
crc:      .reserve 4
escaped:  .reserve 1
scratch:  .reserve 2
turns:    .reserve 2
irq_hook: .reserve 2            ; where interrupts go; a program may change it
stack:    .reserve 1            ; where the stack stands while a program waits, with its Y, X, A, P and program counter on
                                ; it; $FF: no program waits

        .include "<common/frame>"

        .place eyelet
        .vector reset, cold
        .vector nmi, nmi
        .vector irq, interrupt

        .align 256
FIRST = 0
        .include "<common/fcs-tables>"

; ---- from power-on ----

cold:   cld
        ldx #$FF
        txs
        stx stack
        jsr begin
        lda #<banner
        ldx #>banner
        jsr say
        lda #QUIET              ; a key, or a frame, holds the program back
        jsr wait
        bcc monitor_here
        .if defined(area.tongue.first)
        jsr area.tongue.first + 3
        .else
        jsr start_rom
        .end
        jmp monitor             ; there was none

; Where one begins that was loaded into RAM: nothing is known of other programs there.
        .entry loaded
loaded: cld
        ldx #$FF
        txs
        stx stack
        jsr begin
        bra monitor

; Starts the program in ROM; returns only when there is none.
start_rom:
        lda autostart
        sta pointer
        lda autostart + 1
        beq idle
        cmp #$FF
        beq idle
        sta pointer + 1
; Starts the program at pointer with a fresh stack. It may end with RTS.
launch: ldx #$FF
        stx stack
        txs
        jsr _go
        bra monitor
_go:    jmp (pointer)
idle:   rts

; A program calls this whenever it has time: nothing happens unless something has come down the line. Then the
; monitor takes over, and comes back when it is asked to resume.
poll:   serial_ready
        beq idle
        pla                     ; as an interrupt leaves it: the program counter, not one less
        sta scratch
        pla
        inc scratch
        bne _same
        clc
        adc #1
_same:  pha
        lda scratch
        pha
        php
        pha
        phx
        phy
        tsx
        stx stack
        bra monitor_here

; ---- a person, or the first flag of a frame ----

; Whatever runs waits from now on, as if it had polled; unless a program waits already.
nmi:    pha
        phx
        ldx stack
        inx
        bne monitor
        phy
        tsx
        stx stack
monitor:
        lda #<prompt
        ldx #>prompt
        jsr say
monitor_here:
        ldx stack
        txs
        cld
_wait:  jsr take_slowly
        cmp #FLAG
        beq frame
        .if defined(area.tongue.first)
        jmp area.tongue.first   ; a person: docs/tongue.md
        .else
        cmp #13
        beq monitor
        and #$5F                ; either case
        cmp #'R'
        beq _rom
        cmp #'?' & $5F
        bne _wait
        lda #<help
        ldx #>help
        jsr say
        bra monitor
_rom:   jsr start_rom
        bra monitor
        .end

; ---- frames ----

frame:  ldx #0
        jsr fresh
_next:  lda #IDLE
        jsr wait
        bcs monitor_here        ; it broke off
        serial_get
        cmp #FLAG
        beq _end
        cmp #ESCAPE
        beq _escape
        eor escaped
        stz escaped
        sta buffer,x
        jsr add_fcs
        inx
        bne _next
        bra monitor_here        ; longer than any frame
_escape:
        lda #FLIP
        sta escaped
        bra _next

_end:   txa
        beq frame               ; two flags in a row
        lda fcs
        cmp #<GOOD_FCS
        bne frame
        lda fcs + 1
        cmp #>GOOD_FCS
        bne frame
        sec
        txa
        sbc #5
        cmp size                ; is it as long as it says?
        bne frame
        jsr serve
        bra monitor_here

; Does what the frame asks and answers.
serve:  ldx #1
        stx length              ; the code alone, unless a routine says otherwise
        ldx kind
        dex
        cpx #KINDS
        bcs unknown
        lda size
        cmp least,x
        bcc malformed
        txa
        asl a
        tax
        jsr jump
answer: sta payload             ; the routine left the code in A, and length
        lda length
        sta size
        lda kind
        ora #$80
        sta kind
        jmp send
jump:   jump_by requests
unknown:
        lda #UNKNOWN
        bra answer
malformed:
        lda #MALFORMED
        bra answer

POURS = 1
TELLS = 7                       ; bytes of all registers
        .include "<common/requests>"

hello:  ldx #name_end - greeting - 1
_copy:  lda greeting,x
        sta payload + 1,x
        dex
        bpl _copy
        lda #name_end - greeting + 1
        sta length
        lda #GOOD
        rts

; The address in the payload becomes pointer. C set: it is beyond 16 bits.
address:
        lda payload
        sta pointer
        lda payload + 1
        sta pointer + 1
        lda #0
        cmp payload + 2
        lda #RANGE
        rol a                   ; C is set when the third byte is 0: turn it round
        eor #1
        ror a
        rts

read:   jsr address
        bcs _done
        ldx payload + 3
        beq range
        cpx #PAYLOAD
        bcs range
        stx count
        inx
        stx length
        ldy #0
_copy:  lda (pointer),y
        sta payload + 1,y
        iny
        cpy count
        bne _copy
        lda #GOOD
_done:  rts

; The common end of what lies out of range.
range:  lda #RANGE
        rts

; Everything from the page after Eyelet's own on can be written. What was written is read back.
write:  jsr address
        bcs _done
        lda size
        sec
        sbc #3
        sta count
        clc
        adc pointer
        lda pointer + 1
        adc #0
        bcs range              ; it would run over $FFFF
        lda pointer + 1
        cmp #hi(buffer) + 1
        bcc range
        ldy #0
_copy:  lda payload + 3,y
        sta (pointer),y
        iny
        cpy count
        bne _copy
        ldy #0
_look:  lda (pointer),y
        cmp payload + 3,y
        bne _wrong
        iny
        cpy count
        bne _look
        lda #GOOD
_done:  rts
_wrong: sta payload + 5         ; found
        lda payload + 3,y
        sta payload + 4         ; expected
        tya
        clc
        adc pointer
        sta payload + 1
        lda pointer + 1
        adc #0
        sta payload + 2
        stz payload + 3
        lda #6
        sta length
        lda #DIFFERS
        rts

        .include "<65c02/sums>"

run:    jsr address
        bcs out
        jsr farewell
        jmp launch

        .include "<65c02/registers>"

; Back to the program that gave way in poll, or was stopped by a breakpoint.
resume: ldx stack
        inx
        beq _none
        jsr farewell
        ldx stack
        txs
        lda #$FF
        sta stack
        ply
        plx
        pla
        rti
_none:  lda #RANGE
        rts

; Answers, then waits until the PC has heard that, or for silence: if the answer got lost the question comes again,
; and is answered again, before the program goes on. Comes back only then.
farewell:
        lda #GOOD
        jsr answer
_wait:  lda #QUIET
        jsr wait
        bcs _over
        serial_get
        cmp #HEARD
        beq _over
        cmp #FLAG
        bne _wait
        ldx stack
        txs
        jmp frame
_over:  rts

        .include "<65c02/pour>"

; Sends the frame in buffer.
send:   jsr fresh
        lda #FLAG
        jsr put
        lda size
        clc
        adc #3
        sta count
        ldx #0
_next:  lda buffer,x
        pha
        jsr add_fcs
        pla
        jsr put_escaped
        inx
        cpx count
        bne _next
        lda fcs
        eor #$FF
        jsr put_escaped
        lda fcs + 1
        eor #$FF
        jsr put_escaped
        lda #FLAG
        bra put

put_escaped:
        cmp #FLAG
        beq _escape
        cmp #ESCAPE
        bne put
_escape:
        pha
        lda #ESCAPE
        jsr put
        pla
        eor #FLIP
put:    serial_send
        rts

; ---- the line ----

; Waits up to A turns for a byte. C clear: one has come (and is still in the register).
wait:   sta turns + 1
        stz turns
_look:  serial_ready
        bne _here
        dec turns
        bne _look
        dec turns + 1
        bne _look
        sec
        rts
_here:  clc
        rts

take_slowly:
        serial_ready
        beq take_slowly
        serial_get
        rts

; Sets the line up. Programs that do without cold call it.
begin:  serial_begin
        lda #<no_interrupt
        sta irq_hook
        lda #>no_interrupt
        sta irq_hook + 1
        rts

; What each frame, and each pour, begins with. Uses A, and on a 6502 Y.
fresh:  stz escaped
        lda #$FF
        sta fcs
        sta fcs + 1
        rts

; Adds A to fcs. Uses Y.
add_fcs:
        eor fcs
        tay
        lda fcs_low,y
        eor fcs + 1
        sta fcs
        lda fcs_high,y
        sta fcs + 1
        rts

; Prints the text at A (low), X (high), which ends with 0.
say:    sta pointer
        stx pointer + 1
        ldy #0
_next:  lda (pointer),y
        beq _done
        jsr put
        iny
        bne _next
_done:  rts

        serial_code

; ---- data ----

banner: banner_text
        .include "<common/texts>"

greeting:
        .byte VERSION, EYELET, PAYLOAD
        name_text
name_end:

        .include "<common/crc-table>"

last:
        .assert last <= area.eyelet.last - 5, "Eyelet runs into the vectors"

; Bollard, the monitor in the ROM of a neighbour's 65C02 board.
;
;   s 0300 A9 01 ...   stores bytes            v 0300 20   shows so many bytes
;   j 0300             jumps there             x 0300      takes XMODEM blocks (CRC, 128 or 1,024)

RECEIVED = %00001000
EMPTY    = %00010000

SOH = $01
STX = $02
EOT = $04
ACK = $06
NAK = $15
CAN = $18

        .place bollard_zero
place:  .reserve 2              ; where bytes go
value:  .reserve 2              ; a number of the line
left:   .reserve 2              ; bytes of a block
crc:    .reserve 2              ; high byte first
target: .reserve 2              ; where the next block goes
number: .reserve 1              ; of the block that is due
block:  .reserve 1              ; of the one that came
kind:   .reserve 1
asks:   .reserve 1

        .place bollard_line
line:   .reserve 256

        .place rom
        .vector reset, cold
        .vector nmi, prompt
        .vector irq, ignore

ignore: rti

cold:   cld
        lda #$1F                ; 19,200 baud, 8 bits, 1 stop
        sta board.serial.control
        lda #$0B
        sta board.serial.command

prompt: ldx #$FF
        txs
        ldx #ready - texts
        jsr say
        jsr read_line
        ldx #0
        jsr skip
        lda line,x
        beq prompt
        inx
        and #$DF                ; either case
        cmp #'S'
        beq store
        cmp #'V'
        beq view
        cmp #'J'
        beq jump
        cmp #'X'
        beq take
wrong:  ldx #what - texts
        jsr say
back:   jmp prompt

; ---- commands; X is where the line goes on ----

jump:   jsr address
        jmp (place)

take:   jsr address
        jmp xmodem

store:  jsr address
_next:  jsr skip
        lda line,x
        beq back
        jsr get_number
        bcs wrong
        lda value
        sta (place)
        jsr onward
        bra _next

view:   jsr address
        jsr get_number
        bcs wrong
        lda value
        beq back
        sta left
_line:  lda place + 1
        jsr put_byte
        lda place
        jsr put_byte
        lda #':'
        jsr put
_byte:  lda #' '
        jsr put
        lda (place)
        jsr put_byte
        jsr onward
        dec left
        beq _done
        lda left
        and #15
        bne _byte
        jsr new_line
        bra _line
_done:  jsr new_line
        bra back

onward: inc place
        bne _same
        inc place + 1
_same:  rts

; The address that every command begins with.
address:
        jsr get_number
        bcs _wrong
        lda value
        sta place
        lda value + 1
        sta place + 1
        rts
_wrong: jmp wrong

; ---- the line ----

read_line:
        ldx #0
_next:  jsr get
        cmp #13
        beq _end
        cmp #8
        beq _back
        cmp #' '
        bcc _next
        cpx #200
        bcs _next
        sta line,x
        inx
        jsr put
        bra _next
_back:  cpx #0
        beq _next
        dex
        jsr put
        bra _next
_end:   stz line,x
        jmp new_line

skip:   lda line,x
        cmp #' '
        bne _done
        inx
        bra skip
_done:  rts

; A hexadecimal number at X. C set: there is none, or something else behind it.
get_number:
        jsr skip
        stz value
        stz value + 1
        ldy #0
_next:  lda line,x
        beq _end
        cmp #' '
        beq _end
        jsr digit
        bcs _done
        phx
        ldx #4
_shift: asl value
        rol value + 1
        dex
        bne _shift
        plx
        ora value
        sta value
        inx
        iny
        bra _next
_end:   cpy #1                  ; C set when there was a digit
        lda #0
        rol a
        eor #1
        ror a
_done:  rts

; The value of a digit. C set: it is none.
digit:  sec
        sbc #'0'
        cmp #10
        bcc _done
        ora #$20                ; either case
        sbc #'a' - '0' - 10
        cmp #10
        bcc _bad
        cmp #16
        rts
_bad:   sec
_done:  rts

; ---- XMODEM ----

xmodem: ldx #send - texts
        jsr say
        lda place
        sta target
        lda place + 1
        sta target + 1
        lda #1
        sta number
        lda #20
        sta asks
_ask:   lda #'C'
        jsr put
        jsr get_soon
        bcc _kind
        dec asks
        bne _ask
        jmp prompt              ; nobody sends
_head:  jsr get_soon
        bcs _again
_kind:  cmp #SOH
        beq _small
        cmp #STX
        beq _large
        cmp #EOT
        beq _end
        cmp #CAN
        bne _again
        jmp prompt
_end:   lda #ACK
        jsr put
        jmp prompt

_again: jsr get_soon            ; until the line is quiet
        bcc _again
        lda number
        cmp #1
        beq _ask
        lda #NAK
        jsr put
        bra _head

_small: lda #128
        ldx #0
        bra _size
_large: lda #0
        ldx #4
_size:  sta left
        stx left + 1
        jsr get_soon
        bcs _again
        sta block
        jsr get_soon
        bcs _again
        eor block
        inc a
        bne _again
        jsr aim
        bcs _again
        jsr fetch
        bcs _again
        lda place               ; whole: the next goes behind it
        sta target
        lda place + 1
        sta target + 1
        lda block
        inc a
        sta number
        lda #ACK
        jsr put
        bra _head

; Where the block belongs: at the target, or when it comes again before it. C set: it is another one.
aim:    lda target
        sta place
        lda target + 1
        sta place + 1
        lda block
        cmp number
        beq _good
        inc a
        cmp number
        bne _bad
        sec
        lda place
        sbc left
        sta place
        lda place + 1
        sbc left + 1
        sta place + 1
_good:  clc
        rts
_bad:   sec
        rts

; Takes the bytes of a block, and its CRC. C set: a byte did not come, or the CRC is wrong.
fetch:  stz crc
        stz crc + 1
_byte:  jsr get_soon
        bcs _done
        sta (place)
        jsr add_crc
        jsr onward
        lda left
        bne _low
        dec left + 1
_low:   dec left
        bne _byte
        lda left + 1
        bne _byte
        jsr get_soon
        bcs _done
        jsr add_crc
        jsr get_soon
        bcs _done
        jsr add_crc
        lda crc
        ora crc + 1
        cmp #1                  ; C clear when it is 0
_done:  rts

add_crc:
        eor crc
        sta crc
        ldx #8
_bit:   asl crc + 1
        rol crc
        bcc _next
        lda crc
        eor #$10
        sta crc
        lda crc + 1
        eor #$21
        sta crc + 1
_next:  dex
        bne _bit
        rts

; ---- the serial line ----

get:    lda board.serial.status
        and #RECEIVED
        beq get
        lda board.serial.data
        rts

; A byte within a second, about. C set: none came.
get_soon:
        ldx #0
        ldy #0
_look:  lda board.serial.status
        and #RECEIVED
        bne _here
        pha                     ; time
        pla
        pha
        pla
        dex
        bne _look
        dey
        bne _look
        sec
        rts
_here:  lda board.serial.data
        clc
        rts

put:    pha
_busy:  lda board.serial.status
        and #EMPTY
        beq _busy
        pla
        sta board.serial.data
        rts

put_byte:
        pha
        lsr a
        lsr a
        lsr a
        lsr a
        jsr _digit
        pla
        and #15
_digit: cmp #10
        bcc _below
        adc #'A' - '0' - 11
_below: adc #'0'
        bra put

new_line:
        lda #13
        jsr put
        lda #10
        bra put

say:    lda texts,x
        beq _done
        jsr put
        inx
        bra say
_done:  rts

texts:
ready:  .text "\r\nbollard> " ending 0
what:   .text "\r\nwhat?\r\n" ending 0
send:   .text "send:\r\n" ending 0

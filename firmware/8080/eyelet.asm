; Eyelet for the 8080 and the 8085: the resident monitor.
;
; It answers the frames of docs/link.md, and shows a person at a terminal a prompt and a line of help.
; What it needs of the bench file (docs/eyelet.md):
;   areas    eyelet       the ROM it lives in, from $0000 on
;            eyelet_vars  32 bytes of RAM
;            eyelet_page  one page of RAM, for a frame
;            stack        RAM for the stack; it begins at the upper end
;   devices  serial       a serial interface: docs/serial.md, at ports

        .include "<common/eyelet>"

POURS = area.eyelet.last - area.eyelet.first >= $7FF    ; there is room for tables, and what they are good for

; One turn of the waiting loop's outer count is 256 times 37 cycles, on either CPU.
TURN  = 256 * 37
IDLE  = (board.clock / 20 + board.clock * 50 / board.link.baud) / TURN + 1 ; 50 ms and five bytes of silence end a frame
QUIET = board.clock / TURN / 4 + 1      ; 250 ms of silence before a program starts
        .assert QUIET < 256, "the clock is too fast for Eyelet's waiting loop"

; A program in ROM leaves its start address here; $FFFF, as in an empty chip, starts nothing.
autostart = area.eyelet.last + 1

        .place eyelet_vars
fcs:      .reserve 2
place:    .reserve 2            ; of the next byte to sum
span:     .reserve 2            ; bytes in a block
left:     .reserve 2            ; of them
into:     .reserve 2            ; where the next sum goes
blocks:   .reserve 1            ; still to sum
length:   .reserve 1            ; payload bytes of the answer
escaped:  .reserve 1
irq_hook: .reserve 2            ; where interrupts go; a program may change it
waiting:  .reserve 2            ; where the stack of a program stands that gave way; 0: none does

        .include "<common/frame>"

STACK = area.stack.last + 1 & $FFFF

        .place eyelet
; ---- from power-on: the CPU begins at 0. The 8085's own interrupts lead to the places between ----

        di
        jmp cold
greeting:
        .byte VERSION, EYELET, PAYLOAD, "Eyelet 8080/85"
name_end:
jump:   pchl
unknown:
        mvi a,UNKNOWN
        jmp answer
malformed:
        mvi a,MALFORMED
        jmp answer
no_interrupt:
        ei
        ret
        .fill $24 - here, $FF
        jmp trap
no_request:
        mvi a,UNKNOWN
        ret
        .fill $2C - here, $FF
        jmp interrupt           ; RST 5.5
        .fill $30 - here, $FF
        jmp broken              ; RST 6, a breakpoint
        .fill $34 - here, $FF
        jmp interrupt           ; RST 6.5
        .fill $38 - here, $FF
        jmp interrupt           ; RST 7, and what a bus without a device reads as
        .fill $3C - here, $FF
        jmp interrupt           ; RST 7.5

banner: .text "\r\nEyelet ", '0' + VERSION, " for the 8080 and 8085\r\n" ending 0

interrupt:
        push h
        lhld irq_hook
        xthl
        ret

cold:   lxi sp,STACK
        call fresh
        lxi h,banner
        call say
        mvi c,QUIET             ; a key, or a frame, holds the program back
        call wait
        jnc monitor_here
        .if defined(area.tongue.first)
        call area.tongue.first + 3
        .else
        call start_rom
        .end
        jmp monitor             ; there was none

; Where one begins that was loaded into RAM: nothing is known of other programs there.
        .entry loaded
loaded: lxi sp,STACK
        call fresh
        jmp monitor

fresh:  lxi h,0                 ; no program waits
        shld waiting
; Sets the line up. Programs that do without cold call it.
begin:  serial_begin
        lxi h,no_interrupt
        shld irq_hook
        ret

; Starts the program in ROM; returns only when there is none.
start_rom:
        lhld autostart
        mov a,h
        ana l
        inr a
        rz
; Starts the program at HL with a fresh stack. It may end with RET.
launch: lxi sp,STACK
        xchg
        lxi h,0
        shld waiting
        lxi h,monitor
        push h
        xchg
        pchl

; A program calls this whenever it has time: nothing happens unless something has come down the line. Then the
; monitor takes over, and comes back when it is asked to resume. A and the flags change.
poll:   serial_ready
        rz                      ; carry is clear: it gives way
        push psw
        jmp save

; A program has met a breakpoint: it waits, with its program counter there, and all registers are told.
broken: xthl
        dcx h
        xthl
        push psw
        stc
save:   push b
        push d
        push h
        lxi h,0
        push psw                ; dad changes the carry
        dad sp
        inx h
        inx h
        pop psw
        shld waiting
        jnc monitor_here
        lxi h,STOPPED           ; the kind, and sequence 0
        shld kind
        call registers
        call answer
        jmp monitor_here

; ---- a person, or the first flag of a frame ----

; Whatever runs waits from now on, as if it had polled; unless a program waits already.
trap:   push psw
        push h
        lhld waiting
        mov a,h
        ora l                   ; carry is clear
        pop h
        jz save
monitor:
        lxi h,prompt
        call say
monitor_here:
        lhld waiting            ; above what a program left on the stack
        mov a,h
        ora l
        jnz _stack
        lxi h,STACK
_stack: sphl
_wait:  call take_slowly
        cpi FLAG
        jz frame
        .if defined(area.tongue.first)
        jmp area.tongue.first    ; a person: docs/tongue.md
        .else
        cpi 13
        jz monitor
        ani $5F                 ; either case
        cpi 'R'
        jz _rom
        cpi '?' & $5F
        jnz _wait
        lxi h,help
        call say
        jmp monitor
_rom:   call start_rom
        jmp monitor
        .end

; ---- frames ----

frame:  lxi h,$FFFF
        shld fcs
        lxi h,buffer
        xra a
_clean: sta escaped
_next:  mvi c,IDLE
        call wait
        jc monitor_here         ; it broke off
        serial_get
        cpi FLAG
        jz _end
        cpi ESCAPE
        mov b,a
        mvi a,FLIP
        jz _clean
        lda escaped
        xra b
        mov m,a
        call add_fcs
        inx h
        mov a,l
        cpi lo(buffer + PAYLOAD + 5)
        mvi a,0
        jnz _clean
        call take_slowly        ; no frame is longer: only its flag may follow
        cpi FLAG
        jnz monitor_here
_end:   mov a,l                 ; bytes, with the checksum: the buffer begins on a page
        ora a
        jz frame                ; two flags in a row
        mov b,a
        call fcs_is_good
        jnz frame
        mov a,b
        sui 5
        jc frame                ; shorter than any frame
        lxi h,size              ; is it as long as it says?
        cmp m
        jnz frame
        call serve
        jmp monitor_here

; Z set: the checksum at the end of what came was right.
fcs_is_good:
        lhld fcs
        lxi d,$10000 - GOOD_FCS
        dad d
        mov a,h
        ora l
        ret

; Does what the frame asks and answers.
serve:  mvi a,1
        sta length              ; the code alone, unless a routine says otherwise
        lda kind
        dcr a
        cpi KINDS
        jnc unknown
        mov c,a
        mvi b,0
        lxi h,least
        dad b
        lda size
        cmp m
        jc malformed
        lxi h,requests
        dad b
        dad b
        mov e,m
        inx h
        mov d,m
        xchg
        call jump
answer: sta payload             ; the routine left the code in A, and length
        lda length
        sta size
        lxi h,kind
        mov a,m
        ori $80
        mov m,a
        jmp send

TELLS = 12                      ; bytes of all registers
        .include "<common/requests>"

; C bytes from HL to DE.
copy:   mov a,m
        stax d
        inx h
        inx d
        dcr c
        jnz copy
        ret

hello:  lxi h,greeting
        lxi d,payload + 1
        mvi c,name_end - greeting
        call copy
        mvi a,name_end - greeting + 1
        sta length
        xra a                   ; GOOD
        ret

; The address in the payload goes to HL. C set, with the code in A: it is beyond 16 bits.
address:
        lhld payload
        lda payload + 2
        cpi 1
        cmc
        mvi a,RANGE
        ret

read:   call address
        rc
        lda payload + 3
        ora a
        jz range
        cpi PAYLOAD
        jnc range
        mov c,a
        inr a
        sta length
        lxi d,payload + 1
        call copy
        xra a
        ret

; The common end of what lies out of range.
range:  mvi a,RANGE
        ret

; Everything from the page after Eyelet's own on can be written. What was written is read back.
write:  call address
        rc
        mov a,h
        cpi hi(buffer) + 1
        jc range
        lda size
        sui 3
        mov c,a
        mvi b,0
        push h
        dcx b                   ; would it run over $FFFF?
        dad b
        inx b
        pop h
        jc range
        xchg
        lxi h,payload + 3
        push d
        push b
        call copy
        pop b
        pop d
        lxi h,payload + 3
_look:  ldax d
        cmp m
        jnz _wrong
        inx h
        inx d
        dcr c
        jnz _look
        xra a
        ret
_wrong: mov c,m                 ; expected; A was found
        xchg
        mov d,c
        mov e,a

; Tells that at HL there is E, not D.
differs:
        shld payload + 1
        lxi h,payload + 3
        mvi m,0
        inx h
        mov m,d
        inx h
        mov m,e
        mvi a,6
        sta length
        mvi a,DIFFERS
        ret

        .include "<8080/sums>"

run:    call address
        rc
        push h
        call farewell
        pop h
        jmp launch

        .include "<8080/registers>"
        .if POURS
        .include "<8080/pour>"
        .end

; Back to the program that gave way in poll, or was stopped by a breakpoint.
resume: lhld waiting
        mov a,h
        ora l
        jz range
        call farewell
        lhld waiting
        sphl
        lxi h,0
        shld waiting
        pop h
        pop d
        pop b
        pop psw
        ret

; Answers, then waits until the PC has heard that, or for silence: if the answer got lost the question comes again,
; and is answered again, before the program goes on. Comes back only then.
farewell:
        xra a
        call answer
_wait:  mvi c,QUIET
        call wait
        rc
        serial_get
        cpi HEARD
        rz
        cpi FLAG
        jnz _wait
        lhld waiting
        mov a,h
        ora l
        jnz _stack
        lxi h,STACK
_stack: sphl
        jmp frame

; Sends the frame in buffer.
send:   lxi h,$FFFF
        shld fcs
        mvi a,FLAG
        call put
        lda size
        adi 3
        mov b,a
        lxi h,buffer
_next:  mov a,m
        call add_fcs
        mov a,m
        call put_escaped
        inx h
        dcr b
        jnz _next
        lhld fcs
        mov a,l
        cma
        call put_escaped
        mov a,h
        cma
        call put_escaped
        mvi a,FLAG
        jmp put

put_escaped:
        cpi FLAG
        jz _escape
        cpi ESCAPE
        jnz put
_escape:
        push psw
        mvi a,ESCAPE
        call put
        pop psw
        xri FLIP
put:    serial_send
        ret

; ---- the line ----

; Waits up to C turns for a byte. C clear: one has come (and is still in the register). Uses B.
wait:   mvi b,0
_look:  serial_ready                    ; 17: carry is clear
        rnz                             ; 5, on the 8085 6
        dcr b                           ; 5, on the 8085 4
        jnz _look                       ; 10
        dcr c
        jnz _look
        stc
        ret

take_slowly:
        serial_ready
        jz take_slowly
        serial_get
        ret

; Adds A to fcs. Uses DE.
add_fcs:
        push h
        lhld fcs
        xra l
        mov e,a
        .if POURS
        mvi d,hi(fcs_low)
        ldax d
        xra h
        mov l,a
        inr d
        ldax d
        mov h,a
        .else
        add a
        add a
        add a
        add a
        xra e
        mov e,a                 ; x
        add a
        add a
        add a
        xra h
        mov l,a                 ; high ^ x << 3
        mov a,e
        rrc
        rrc
        rrc
        rrc
        ani 15
        mov d,a
        xra l
        mov l,a                 ; ... ^ x >> 4
        mov a,d
        rrc
        ani 7
        xra e
        mov h,a                 ; x ^ x >> 5
        .end
        shld fcs
        pop h
        ret

; Prints the text at HL, which ends with 0.
say:    mov a,m
        ora a
        rz
        call put
        inx h
        jmp say

        serial_code

; ---- data ----

        .include "<common/texts>"

        .if POURS
        .fill area.eyelet.last + 1 - 512 - 64 - here, $FF
        .end
        .align 64               ; the index is added to the low byte alone
        .include "<common/crc-table>"
        .if POURS
FIRST = 0
        .include "<common/fcs-tables>"
        .end
last:
        .assert lo(buffer) == 0, "eyelet_page begins on a page"
        .assert last <= area.eyelet.last + 1, "Eyelet does not fit its area"

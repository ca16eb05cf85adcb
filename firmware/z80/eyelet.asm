; Eyelet for the Z80: the resident monitor.
;
; It answers the frames of docs/link.md, and shows a person at a terminal a prompt and a line of help.
; What it needs of the bench file (docs/eyelet.md):
;   areas    eyelet       the ROM it lives in, from $0000 on
;            eyelet_vars  32 bytes of RAM
;            eyelet_page  one page of RAM, for a frame
;            stack        RAM for the stack; it begins at the upper end
;   devices  serial       a serial interface: docs/serial.md

        .include "<common/eyelet>"
        .if !defined(FAR)
        .include "<z80/reach>"
        .end

POURS = area.eyelet.last - area.eyelet.first >= $7FF    ; there is room for tables, and what they are good for

; One turn of the waiting loop's outer count is 256 times 34 cycles.
TURN  = 256 * 34
IDLE  = (board.clock / 20 + board.clock * 50 / board.link.baud) / TURN + 1 ; 50 ms and five bytes of silence end a frame
QUIET = board.clock / TURN / 4 + 1      ; 250 ms of silence before a program starts
        .assert QUIET < 256, "the clock is too fast for Eyelet's waiting loop"

; A program in ROM leaves its start address here; $FFFF, as in an empty chip, starts nothing.
autostart = area.eyelet.last + 1

        .place eyelet_vars
fcs:      .reserve 2
place:    .reserve PLACE        ; address in a request
span:     .reserve 2            ; words that are still to sum
length:   .reserve 1            ; payload bytes of the answer
escaped:  .reserve 1
irq_hook: .reserve 2            ; where interrupts go; a program may change it
waiting:  .reserve 2            ; where the stack of a program stands that gave way; 0: none does

        .include "<common/frame>"

STACK = area.stack.last + 1 & $FFFF

        .place eyelet
; ---- from power-on: the CPU begins at 0 ----

        di
        jp cold
        .fill $30 - here, $FF
        jp broken               ; RST $30, a breakpoint
        .fill $38 - here, $FF
        jp interrupt            ; RST $38, and interrupt mode 1

greeting:
        .byte VERSION, EYELET, PAYLOAD, "Eyelet "
        cpu_name
name_end:
banner: .text "\r\nEyelet ", '0' + VERSION, " for the "
        cpu_name
        .byte "\r\n", 0
        .fill $66 - here, $FF
        jp nmi

interrupt:
        push hl
        ld hl,(irq_hook)
        ex (sp),hl
        ret
no_interrupt:
        ei
        ret

cold:   ld sp,STACK
        ld hl,0
        ld (waiting),hl
        call begin
        ld hl,banner
        call say
        ld c,QUIET              ; a key, or a frame, holds the program back
        call wait
        jp nc,monitor_here
        .if defined(area.tongue.first)
        call area.tongue.first + 3
        .else
        call start_rom
        .end
        jp monitor              ; there was none

; Where one begins that was loaded into RAM: nothing is known of other programs there.
        .entry loaded
loaded: ld sp,STACK
        ld hl,0
        ld (waiting),hl
        call begin
        jr monitor

; Starts the program in ROM; returns only when there is none.
start_rom:
        ld hl,(autostart)
        inc hl
        ld a,h
        or l
        ret z
        dec hl
; Starts the program at HL with a fresh stack. It may end with RET.
launch: ld sp,STACK
        ld de,0
        ld (waiting),de
        ld de,monitor
        push de
        jp (hl)

; A program calls this whenever it has time: nothing happens unless something has come down the line. Then the
; monitor takes over, and comes back when it is asked to resume. A and the flags change.
poll:   serial_ready            ; carry is clear: it gives way
        ret z
        push af
        jr save

; Whatever runs waits from now on, as if it had polled; unless a program waits already.
nmi:    push af
        push hl
        ld hl,(waiting)
        ld a,h
        or l                    ; carry is clear
        pop hl
        jr z,save
        jr monitor

; A program has met a breakpoint: it waits, with its program counter there, and all registers are told.
broken: ex (sp),hl
        dec hl
        ex (sp),hl
        push af
        scf
save:   push bc
        push de
        push hl
        push ix
        push iy
        ld a,i                  ; carry stays
        ld d,a
        ld a,r
        ld e,a
        push de
        exx
        ex af,af'
        push af
        push bc
        push de
        push hl
        ex af,af'
        exx
        ld (waiting),sp
        jr nc,monitor_here
        ld hl,STOPPED           ; the kind, and sequence 0
        ld (kind),hl
        call registers
        call answer
        jr monitor_here

; ---- a person, or the first flag of a frame ----

monitor:
        ld hl,prompt
        call say
monitor_here:
        ld hl,(waiting)         ; above what a program left on the stack
        ld a,h
        or l
        jr nz,_stack
        ld hl,STACK
_stack: ld sp,hl
_wait:  call take_slowly
        cp FLAG
        jr z,frame
        .if defined(area.tongue.first)
        jp area.tongue.first    ; a person: docs/tongue.md
        .else
        cp 13
        jr z,monitor
        and $5F                 ; either case
        cp 'R'
        jr z,_rom
        cp '?' & $5F
        jr nz,_wait
        ld hl,help
        call say
        jr monitor
_rom:   call start_rom
        jr monitor
        .end

; ---- frames ----

frame:  ld hl,$FFFF
        ld (fcs),hl
        ld hl,buffer
        xor a
_clean: ld (escaped),a
_next:  ld c,IDLE
        call wait
        jr c,monitor_here       ; it broke off
        serial_get
        cp FLAG
        jr z,_end
        cp ESCAPE
        ld b,a
        ld a,FLIP
        jr z,_clean
        ld a,(escaped)
        xor b
        ld (hl),a
        call add_fcs
        inc hl
        ld a,l
        cp lo(buffer + PAYLOAD + 5)
        ld a,0
        jr nz,_clean
        call take_slowly        ; no frame is longer: only its flag may follow
        cp FLAG
        jr nz,monitor_here
_end:   ld de,$10000 - buffer   ; L: bytes, with the checksum
        add hl,de
        ld a,l
        or a
        jr z,frame              ; two flags in a row
        ld b,l
        call fcs_is_good
        jr nz,frame
        ld a,b
        sub 5
        ld hl,size              ; is it as long as it says?
        cp (hl)
        jr nz,frame
        call serve
        jp monitor_here

; Z set: the checksum at the end of what came was right.
fcs_is_good:
        ld hl,(fcs)
        ld de,$10000 - GOOD_FCS
        add hl,de
        ld a,h
        or l
        ret

; Does what the frame asks and answers.
serve:  ld a,1
        ld (length),a           ; the code alone, unless a routine says otherwise
        ld a,(kind)
        dec a
        cp KINDS
        jr nc,unknown
        ld c,a
        ld b,0
        ld hl,least
        add hl,bc
        ld a,(size)
        cp (hl)
        jr c,malformed
        ld hl,requests
        add hl,bc
        add hl,bc
        ld e,(hl)
        inc hl
        ld d,(hl)
        ex de,hl
        call jump
answer: ld (payload),a          ; the routine left the code in A, and length
        ld a,(length)
        ld (size),a
        ld hl,kind
        set 7,(hl)
        jp send
jump:   jp (hl)
unknown:
        ld a,UNKNOWN
        jr answer
malformed:
        ld a,MALFORMED
        jr answer

TELLS = 26                      ; bytes of all registers
        .include "<common/requests>"

hello:  ld hl,greeting
        ld de,payload + 1
        ld bc,name_end - greeting
        ldir
        ld a,name_end - greeting + 1
        ld (length),a
        xor a                   ; GOOD
        ret

address:
        take_address
        ret

read:   call address
        ret c
        ld a,(payload + 3)
        or a
        jr z,range
        cp PAYLOAD
        jr nc,range
        narrow_bc
        ld c,a
        ld b,0
        inc a
        ld (length),a
        own_de payload + 1
        wide
        ldir
        xor a
        ret

; The common end of what lies out of range.
range:  ld a,RANGE
        ret

; Everything from the page after Eyelet's own on can be written. What was written is read back.
write:  call address
        ret c
        below_ours
        jr c,range
        keep_hl place
        narrow_bc
        ld a,(size)
        sub 4                   ; one less: would it run over the end of memory?
        ld c,a
        ld b,0
        wide
        add hl,bc
        jr c,range
        inc c
        own_hl payload + 3
        take_de place
        push bc
        wide
        ldir
        pop bc
        take_de place
        ld hl,payload + 3
_look:  wide
        ld a,(de)
        cp (hl)
        jr nz,_wrong
        inc hl
        wide
        inc de
        dec c
        jr nz,_look
        xor a
        ret
_wrong: ld c,(hl)               ; expected; A was found
        ld hl,payload + 3
        ld (hl),0
        keep_de payload + 1     ; all three bytes of it, where a place has three
        inc hl
        ld (hl),c
        inc hl
        ld (hl),a
        ld a,6
        ld (length),a
        ld a,DIFFERS
        ret

        .include "<z80/sums>"

run:    call address
        ret c
        .if defined(FAR)
        keep_hl place
        call farewell
        ld a,(place + 2)
        or a
        jp nz,launch_far
        ld hl,(place)
        .else
        push hl
        call farewell
        pop hl
        .end
        jp launch

        .include "<z80/registers>"
        .if POURS
        .include "<z80/pour>"
        .end

; Back to the program that gave way in poll, or was stopped by a breakpoint.
resume: ld hl,(waiting)
        ld a,h
        or l
        jp z,range
        call farewell
        ld sp,(waiting)
        ld hl,0
        ld (waiting),hl
        ex af,af'
        exx
        pop hl
        pop de
        pop bc
        pop af
        exx
        ex af,af'
        pop de
        ld a,d
        ld i,a
        ld a,e
        ld r,a
        pop iy
        pop ix
        pop hl
        pop de
        pop bc
        pop af
        retn                    ; interrupts as before, also after an NMI

; Answers, then waits until the PC has heard that, or for silence: if the answer got lost the question comes again,
; and is answered again, before the program goes on. Comes back only then.
farewell:
        xor a
        call answer
_wait:  ld c,QUIET
        call wait
        ret c
        serial_get
        cp HEARD
        ret z
        cp FLAG
        jr nz,_wait
        ld hl,(waiting)
        ld a,h
        or l
        jr nz,_stack
        ld hl,STACK
_stack: ld sp,hl
        jp frame

; Sends the frame in buffer.
send:   ld hl,$FFFF
        ld (fcs),hl
        ld a,FLAG
        call put
        ld a,(size)
        add a,3
        ld b,a
        ld hl,buffer
_next:  push bc
        ld a,(hl)
        call add_fcs
        ld a,(hl)
        call put_escaped
        pop bc
        inc hl
        djnz _next
        ld hl,(fcs)
        ld a,l
        cpl
        call put_escaped
        ld a,h
        cpl
        call put_escaped
        ld a,FLAG
        jr put

put_escaped:
        cp FLAG
        jr z,_escape
        cp ESCAPE
        jr nz,put
_escape:
        push af
        ld a,ESCAPE
        call put
        pop af
        xor FLIP
put:    serial_send
        ret

; ---- the line ----

; Waits up to C turns for a byte. C clear: one has come (and is still in the register).
wait:   ld b,0
_look:  serial_ready                    ; 18: carry is clear
        ret nz                          ; 5
        djnz _look                      ; 13
        dec c
        jr nz,_look
        scf
        ret

take_slowly:
        serial_ready
        jr z,take_slowly
        serial_get
        ret

; Sets the line up. Programs that do without cold call it.
begin:  serial_begin
        ld hl,no_interrupt
        ld (irq_hook),hl
        ret

; Adds A to fcs. Uses DE.
add_fcs:
        push hl
        ld hl,(fcs)
        xor l
        ld e,a
        .if POURS
        ld d,hi(fcs_low)
        ld a,(de)
        xor h
        ld l,a
        inc d
        ld a,(de)
        ld h,a
        .else
        add a,a
        add a,a
        add a,a
        add a,a
        xor e
        ld e,a                  ; x
        add a,a
        add a,a
        add a,a
        xor h
        ld l,a                  ; high ^ x << 3
        ld a,e
        rrca
        rrca
        rrca
        rrca
        and 15
        ld d,a
        xor l
        ld l,a                  ; ... ^ x >> 4
        ld a,d
        srl a
        xor e
        ld h,a                  ; x ^ x >> 5
        .end
        ld (fcs),hl
        pop hl
        ret

; Prints the text at HL, which ends with 0.
say:    ld a,(hl)
        or a
        ret z
        call put
        inc hl
        jr say

        serial_code
        .if defined(FAR)
        .include "<ez80+z80/far>"
        .end

; ---- data ----

        .include "<common/texts>"

        .include "<common/crc-table>"

        .if POURS
        .fill area.eyelet.last + 1 - 512 - here, $FF
FIRST = 0
        .include "<common/fcs-tables>"
        .end
last:
        .assert lo(buffer) == 0, "eyelet_page begins on a page"
        .assert last <= area.eyelet.last + 1, "Eyelet does not fit its area"

; Starts the program of a bare disk that starts at power-up, on the 6809. docs/disk.md.
;
; What it needs of the bench file:
;   areas    disk_code    where it lies
;            disk_page    512 bytes of RAM
;            disk_data    16 bytes of RAM
;            stack        RAM for the stack; it begins at the upper end
;   devices  disk         a drive of the ATA kind
;            lamps        (may be missing) shows what failed; or a serial interface says it
; Nothing of a program whose check is not right is started. Other programs may call disk_setup and
; disk_read. The reset vector is to lead to start.

        .include "<common/disk-ata>"
        .include "<common/disk-bare>"

        .place disk_data
lba:    .reserve 2              ; sector that is next, the high byte first as this CPU has it
sums:   .reserve 2              ; a, b
wanted: .reserve 2
left:   .reserve 2
to:     .reserve 2
run:    .reserve 2
count:  .reserve 2

        .place disk_page
page:   .reserve 512

        .if defined(board.serial.driver) && defined(board.link.baud)
        .include "<serial>"
        .end

        .place disk_code
        .entry start
start:  lds #area.stack.last + 1
        lbsr boot
                                ; it comes back only when something is wrong
disk_failed:
        .if defined(board.lamps.data)
        sta board.lamps.data
        .end
        .if defined(board.serial.driver) && defined(board.link.baud)
        tfr a,b
        serial_begin
        lda #'?'
        serial_send
        tfr b,a
        serial_send
        .end
_stop:  bra _stop

        .if defined(board.serial.driver) && defined(board.link.baud)
        serial_code
        .end

mark:   .byte "BAREDISK", 1

boot:   lbsr disk_setup
        bcs _back
        ldd #0
        std lba
        lbsr to_page
        bcs _back
        ldx #page               ; is it one of ours?
        ldu #mark
        ldb #9
_mark:  lda ,x+
        cmpa ,u+
        bne _format
        decb
        bne _mark

        ldd page+BARE_CHECK
        std wanted
        ldd #0
        std page+BARE_CHECK
        lbsr clear_sums
        ldd #512
        std count
        ldd #page               ; to where it is already
        std to
        lbsr add_sums
        lbsr compare
        bne _check

        ldb page+BARE_START     ; which entry: 32 bytes each
        beq _none
        cmpb #16
        bhs _none
        lda #32
        mul
        addd #page
        tfr d,u
        lda BARE_FLAGS,u
        anda #3
        cmpa #3
        bne _none
        lda BARE_LENGTH+2,u     ; what reaches beyond 64K is not for this CPU
        ora BARE_LOAD+2,u
        ora BARE_RUN+2,u
        beq load
_none:  lda #DISK_PROGRAM
_back:  rts
_format:
        lda #DISK_FORMAT
        rts
_check: lda #DISK_CHECK
        rts

; Words have the low byte first there.
load:   ldd BARE_FIRST,u
        exg a,b
        std lba
        ldd BARE_LENGTH,u
        exg a,b
        std left
        ldd BARE_LOAD,u
        exg a,b
        std to
        ldd BARE_RUN,u
        exg a,b
        std run
        ldd BARE_SUM,u
        std wanted
        lbsr clear_sums
_next:  ldd left
        beq _all
        lbsr to_page
        bcs _fail
        ldd left
        cmpd #512               ; at most so many of them
        bls _some
        ldd #512
_some:  std count
        ldd left
        subd count
        std left
        lbsr add_sums
        bra _next
_all:   bsr compare
        bne _wrong
        jmp [run]
_wrong: lda #DISK_CHECK
_fail:  rts

; Z: the sums are those that were wanted.
compare:
        ldd sums
        cmpd wanted
        rts

clear_sums:
        ldd #$0100
        std sums
        rts

; Copies count bytes of page to (to), which moves on, and adds them to the sums.
add_sums:
        ldx #page
        ldu to
        ldy count
        beq _done
_byte:  lda ,x+
        sta ,u+
        adda sums
        sta sums
        adda sums+1
        sta sums+1
        leay -1,y
        bne _byte
        stu to
_done:  rts

; ---- the drive ----

; It is ready, and has 8 lines. Carry: it is not, A says why.
disk_setup:
        bsr disk_wait
        bcs disk_back
        lda #ATA_LBA
        sta board.disk.device
        lda #ATA_EIGHT
        sta board.disk.error
        lda #ATA_FEATURES
        sta board.disk.status
; Waits while it is busy, up to some seconds. Carry: it stays so.
disk_wait:
        pshs b,x
        ldb #4
        ldx #0
_more:  lda board.disk.status
        bpl _ready
        leax -1,x
        bne _more
        decb
        bne _more
        lda #DISK_NONE
        orcc #1
        puls b,x,pc
_ready: andcc #$FE
        puls b,x,pc
disk_back:
        rts

to_page:
        ldx #page
; The sector lba goes to X, which moves behind it; lba is that of the next. Carry: A says why not.
disk_read:
        bsr disk_wait
        bcs _done
        lda #ATA_LBA
        sta board.disk.device
        lda #1
        sta board.disk.count
        lda lba+1
        sta board.disk.lba_low
        lda lba
        sta board.disk.lba_mid
        clr board.disk.lba_high
        lda #ATA_READ
        sta board.disk.status
        bsr disk_wait
        bcs _done
        lda board.disk.status
        anda #ATA_DRQ | ATA_ERR
        cmpa #ATA_DRQ
        bne _bad
        clrb                    ; 256 times 2
_byte:  lda board.disk.data
        sta ,x+
        lda board.disk.data
        sta ,x+
        decb
        bne _byte
        ldd lba
        addd #1
        std lba
        andcc #$FE
_done:  rts
_bad:   lda #DISK_SECTOR
        orcc #1
        rts
last:
        .assert last - start <= 512, "the loader is larger than 512 bytes"

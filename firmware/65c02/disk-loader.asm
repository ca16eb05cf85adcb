; Starts the program of a bare disk that starts at power-up, on the 65C02. docs/disk.md.
;
; What it needs of the bench file:
;   areas    disk_code    where it lies
;            disk_page    512 bytes of RAM
;            disk_zero    16 bytes of page zero
;   devices  disk         a drive of the ATA kind
;            lamps        (may be missing) shows what failed; or a serial interface says it
; Nothing of a program whose check is not right is started. Other programs may call disk_setup and
; disk_read. The reset vector is to lead to start.

        .include "<common/disk-ata>"
        .include "<common/disk-bare>"

        .place disk_zero
lba:    .reserve 2              ; sector that is next
at:     .reserve 2              ; where it goes
from:   .reserve 2
sum_a:  .reserve 1
sum_b:  .reserve 1
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
start:  cld
        ldx #$FF
        txs
        jsr boot
                                ; it comes back only when something is wrong
disk_failed:
        .if defined(board.lamps.data)
        sta board.lamps.data
        .end
        .if defined(board.serial.driver) && defined(board.link.baud)
        tax
        serial_begin
        lda #'?'
        serial_send
        txa
        serial_send
        .end
_stop:  bra _stop

        .if defined(board.serial.driver) && defined(board.link.baud)
        serial_code
        .end

mark:   .byte "BAREDISK", 1

boot:   jsr disk_setup
        bcs _back
        stz lba
        stz lba+1
        jsr to_page
        bcs _back
        ldx #8                  ; is it one of ours?
_mark:  lda page,x
        cmp mark,x
        bne _format
        dex
        bpl _mark

        lda page+BARE_CHECK
        sta wanted
        lda page+BARE_CHECK+1
        sta wanted+1
        stz page+BARE_CHECK
        stz page+BARE_CHECK+1
        jsr clear_sums
        stz count
        lda #2
        sta count+1
        lda #lo(page)           ; to where it is already
        sta to
        lda #hi(page)
        sta to+1
        jsr add_sums
        jsr compare
        bne _check

        lda page+BARE_START     ; which entry: 32 bytes each
        beq _none
        cmp #16
        bcs _none
        sta at
        stz at+1
        ldx #5
_five:  asl at
        rol at+1
        dex
        bne _five
        clc
        lda at
        adc #lo(page)
        sta at
        lda at+1
        adc #hi(page)
        sta at+1
        ldy #BARE_FLAGS
        lda (at),y
        and #3
        cmp #3
        bne _none
        ldy #BARE_LENGTH+2      ; what reaches beyond 64K is not for this CPU
        lda (at),y
        ldy #BARE_LOAD+2
        ora (at),y
        ldy #BARE_RUN+2
        ora (at),y
        beq load
_none:  lda #DISK_PROGRAM
_back:  rts
_format:
        lda #DISK_FORMAT
        rts
_check: lda #DISK_CHECK
        rts

; Words of the entry to places in page zero, in pairs.
fields: .byte BARE_FIRST, lo(lba), BARE_LENGTH, lo(left), BARE_LOAD, lo(to), BARE_RUN, lo(run)
        .byte BARE_SUM, lo(wanted)
fields_end:

load:   ldx #0
_field: ldy fields,x
        lda (at),y
        sta from
        iny
        lda (at),y
        ldy fields+1,x
        sta 1,y
        lda from
        sta 0,y
        inx
        inx
        cpx #fields_end-fields
        bne _field
        jsr clear_sums
_next:  lda left
        ora left+1
        beq _all
        jsr to_page
        bcs _fail
        lda #2                  ; at most 512 of them
        sta count+1
        stz count
        cmp left+1
        beq _some
        bcc _some
        lda left                ; fewer are left
        sta count
        lda left+1
        sta count+1
_some:  sec
        lda left
        sbc count
        sta left
        lda left+1
        sbc count+1
        sta left+1
        jsr add_sums
        bra _next
_all:   jsr compare
        bne _wrong
        jmp (run)
_wrong: lda #DISK_CHECK
_fail:  rts

; Z: the sums are those that were wanted.
compare:
        lda sum_a
        cmp wanted
        bne _other
        lda sum_b
        cmp wanted+1
_other: rts

clear_sums:
        lda #1
        sta sum_a
        stz sum_b
        rts

; Copies count bytes of page to (to), which moves on, and adds them to the sums.
add_sums:
        lda #lo(page)
        sta from
        lda #hi(page)
        sta from+1
_byte:  lda count
        ora count+1
        beq _done
        lda (from)
        sta (to)
        clc
        adc sum_a
        sta sum_a
        clc
        adc sum_b
        sta sum_b
        inc from
        bne _to
        inc from+1
_to:    inc to
        bne _count
        inc to+1
_count: lda count
        bne _low
        dec count+1
_low:   dec count
        bra _byte
_done:  rts

; ---- the drive ----

; It is ready, and has 8 lines. Carry: it is not, A says why.
disk_setup:
        jsr disk_wait
        bcs disk_back
        lda #ATA_LBA
        sta board.disk.device
        lda #ATA_EIGHT
        sta board.disk.error
        lda #ATA_FEATURES
        sta board.disk.status
; Waits while it is busy, up to some seconds. Carry: it stays so.
disk_wait:
        phx
        phy
        ldy #12
        ldx #0
        stz count
_more:  bit board.disk.status
        bpl _ready
        dec count
        bne _more
        dex
        bne _more
        dey
        bne _more
        lda #DISK_NONE
        sec
        .byte $24               ; bit: the clc is skipped
_ready: clc
        ply
        plx
disk_back:
        rts

to_page:
        lda #lo(page)
        sta at
        lda #hi(page)
        sta at+1
; The sector lba goes to (at), which moves behind it; so does lba. Carry: A says why not.
disk_read:
        jsr disk_wait
        bcs _done
        lda #ATA_LBA
        sta board.disk.device
        lda #1
        sta board.disk.count
        lda lba
        sta board.disk.lba_low
        lda lba+1
        sta board.disk.lba_mid
        stz board.disk.lba_high
        lda #ATA_READ
        sta board.disk.status
        jsr disk_wait
        bcs _done
        lda board.disk.status
        and #ATA_DRQ | ATA_ERR
        cmp #ATA_DRQ
        bne _bad
        ldx #2
        ldy #0
_byte:  lda board.disk.data
        sta (at),y
        iny
        bne _byte
        inc at+1
        dex
        bne _byte
        inc lba
        bne _good
        inc lba+1
_good:  clc
_done:  rts
_bad:   lda #DISK_SECTOR
        sec
        rts
last:
        .assert last - start <= 512, "the loader is larger than 512 bytes"

; Reads sectors of a drive of the ATA kind, on the Z80. Included by what boots from one.
;
; What it needs of the bench file:
;   areas    disk_data    3 bytes of RAM, and what its includer needs
;   devices  disk         in the I/O space
;            lamps        (may be missing) shows what failed; without them a serial interface says it

        .include "<common/disk-ata>"
        .if defined(board.serial.driver) && defined(board.link.baud)
        .include "<serial>"
        .end

        .place disk_data
lba:    .reserve 2              ; sector that is next

        .place disk_code
; The drive is ready, and has 8 lines. Carry: it is not, A says why.
disk_setup:
        call disk_wait          ; a drive that wakes up takes nothing
        ret c
        ld a,ATA_LBA
        out (board.disk.device),a
        ld a,ATA_EIGHT
        out (board.disk.error),a
        ld a,ATA_FEATURES
        out (board.disk.status),a
; Waits while it is busy, up to some seconds. Carry: it stays so.
disk_wait:
        push de
        ld de,0
_more:  in a,(board.disk.status)
        rlca
        jr nc,_ready
        ex (sp),hl              ; time passes
        ex (sp),hl
        dec de
        ld a,d
        or e
        jr nz,_more
        ld a,DISK_NONE
        scf
_ready: pop de
        ret

; The sector lba goes to HL, which moves behind it; so does lba. Carry: A says why not.
disk_read:
        call disk_wait
        ret c
        ld a,ATA_LBA
        out (board.disk.device),a
        ld a,1
        out (board.disk.count),a
        ld de,(lba)
        ld a,e
        out (board.disk.lba_low),a
        ld a,d
        out (board.disk.lba_mid),a
        xor a
        out (board.disk.lba_high),a
        ld a,ATA_READ
        out (board.disk.status),a
        call disk_wait
        ret c
        in a,(board.disk.status)
        and ATA_DRQ | ATA_ERR
        cp ATA_DRQ
        ld a,DISK_SECTOR
        scf
        ret nz
        ld bc,board.disk.data   ; B 0: 256 bytes
        inir
        inir
        inc de
        ld (lba),de
        or a
        ret

; Shows A, and stops.
disk_failed:
        .if defined(board.lamps.data)
        out (board.lamps.data),a
        .end
        .if defined(board.serial.driver) && defined(board.link.baud)
        ld b,a
        serial_begin
        ld a,'?'
        serial_send
        ld a,b
        serial_send
        .end
_stop:  jr _stop

        .if defined(board.serial.driver) && defined(board.link.baud)
        serial_code
        .end

; Starts what is in the first sector of a disk, on the Z80: it goes to area boot and is started at
; its first byte, if its last two bytes are $55 and $AA. docs/disk.md.
;
; What it needs of the bench file:
;   areas    disk_code    where it lies; at $0000 the CPU begins here
;            boot         512 bytes of RAM
;            disk_data    4 bytes of RAM
;            stack        RAM for the stack; it begins at the upper end
;   devices  disk, and lamps or serial, as disk-read says
; A boot program uses disk_read, lba and disk_failed of it.

        .place disk_code
        .entry start
start:  ld sp,area.stack.last + 1 & $FFFF
        call disk_setup
        jr c,_wrong
        ld hl,0
        ld (lba),hl
        ld hl,area.boot.first
        call disk_read
        jr c,_wrong
        ld hl,(area.boot.first+510)
        ld de,$AA55
        or a
        sbc hl,de
        jp z,area.boot.first
        ld a,DISK_FORMAT
_wrong: jp disk_failed

        .include "<z80/disk-read>"

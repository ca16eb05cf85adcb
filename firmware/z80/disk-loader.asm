; Starts the program of a bare disk that starts at power-up, on the Z80. docs/disk.md.
;
; What it needs of the bench file:
;   areas    disk_code    where it lies; at $0000 the CPU begins here
;            disk_page    512 bytes of RAM
;            disk_data    16 bytes of RAM
;            stack        RAM for the stack; it begins at the upper end
;   devices  disk, and lamps or serial, as disk-read says
; Nothing of a program whose check is not right is started. Other programs may call disk_setup and
; disk_read.

        .place disk_code
        .entry start
start:  ld sp,area.stack.last + 1 & $FFFF
        call boot
        jp disk_failed          ; it comes back only when something is wrong

        .include "<z80/disk-read>"
        .include "<common/disk-bare>"

        .place disk_data
sums:   .reserve 2              ; a, b
wanted: .reserve 2
left:   .reserve 2
to:     .reserve 2
run:    .reserve 2

        .place disk_page
page:   .reserve 512

        .place disk_code
mark:   .byte "BAREDISK", 1

boot:   call disk_setup
        ret c
        ld hl,0
        ld (lba),hl
        ld hl,page
        call disk_read
        ret c
        ld hl,page              ; is it one of ours?
        ld de,mark
        ld b,9
_mark:  ld a,(de)
        cp (hl)
        ld a,DISK_FORMAT
        ret nz
        inc de
        inc hl
        djnz _mark

        ld hl,(page+BARE_CHECK)
        ld (wanted),hl
        ld hl,0
        ld (page+BARE_CHECK),hl
        ld hl,page
        ld d,h
        ld e,l                  ; to where it is already
        ld bc,512
        call begin_sums
        call compare
        ret nz

        ld a,(page+BARE_START)  ; which entry: 32 bytes each
        or a
        jr z,_none
        cp 16
        jr nc,_none
        ld l,a
        ld h,0
        add hl,hl
        add hl,hl
        add hl,hl
        add hl,hl
        add hl,hl
        ld de,page
        add hl,de
        push hl
        pop ix
        ld a,(ix+BARE_FLAGS)
        and 3
        cp 3
        jr nz,_none
        ld a,(ix+BARE_LENGTH+2) ; what reaches beyond 64K is not for this CPU
        or (ix+BARE_LOAD+2)
        or (ix+BARE_RUN+2)
        jr z,load
_none:  ld a,DISK_PROGRAM
        ret

load:   ld l,(ix+BARE_FIRST)
        ld h,(ix+BARE_FIRST+1)
        ld (lba),hl
        ld l,(ix+BARE_LENGTH)
        ld h,(ix+BARE_LENGTH+1)
        ld (left),hl
        ld l,(ix+BARE_LOAD)
        ld h,(ix+BARE_LOAD+1)
        ld (to),hl
        ld l,(ix+BARE_RUN)
        ld h,(ix+BARE_RUN+1)
        ld (run),hl
        ld l,(ix+BARE_SUM)
        ld h,(ix+BARE_SUM+1)
        ld (wanted),hl
        ld hl,1
        ld (sums),hl
_next:  ld bc,(left)
        ld a,b
        or c
        jr z,_all
        ld hl,page
        call disk_read
        ret c
        ld hl,(left)            ; at most 512 of them
        ld de,512
        or a
        sbc hl,de
        jr nc,_whole
        add hl,de
        ld d,h
        ld e,l
        ld hl,0
_whole: ld (left),hl
        ld b,d
        ld c,e
        ld de,(to)
        ld hl,page
        call add_sums
        ld (to),de
        jr _next
_all:   call compare
        ret nz
        ld hl,(run)
        jp (hl)

; Z: the sums are those that were wanted. Else A says so.
compare:
        ld hl,(sums)
        ld de,(wanted)
        or a
        sbc hl,de
        ld a,DISK_CHECK
        ret

; Copies BC bytes from HL to DE, and adds them to the sums.
begin_sums:
        push hl
        ld hl,1
        ld (sums),hl
        pop hl
add_sums:
_byte:  ld a,(hl)
        ld (de),a
        inc hl
        inc de
        push hl
        ld hl,sums
        add a,(hl)
        ld (hl),a
        inc hl
        add a,(hl)
        ld (hl),a
        pop hl
        dec bc
        ld a,b
        or c
        jr nz,_byte
        ret
last:
        .assert last - start <= 512, "the loader is larger than 512 bytes"

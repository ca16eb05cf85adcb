; The boot sector of a FAT12 disk, on the Z80: finds a file in the main folder, loads it wherever its
; clusters lie, and starts it. docs/disk.md.
;
; Whoever includes this says behind it, at label name, which file: 11 bytes, "LAMP    RUN". The file
; begins with a head of six bytes: load address, entry point, length of what follows; behind that it has a byte that makes
; the sum of all of it (without the head) 0. The six bytes before the load address are RAM.
;
; What it needs of the bench file:
;   areas    boot         512 bytes of RAM, where the ROM puts the boot sector
;            boot_page    1024 bytes of RAM
;   ROM      disk-start, as out/disk-start.sym
; A cluster that is at two ends of a sector of the table is put together; a chain that leads astray
; ends with a check that is not right.

        .use "<disk-start.sym>" as rom

HEAD = 6

        .place boot
        .entry begin
begin:  jp go
        .reserve 62 - 3         ; what describes the disk stays there
sector    = begin + 11
cluster   = begin + 13
reserved  = begin + 14
tables    = begin + 16
entries   = begin + 17
table     = begin + 22

        .place boot_page
page:   .reserve 512            ; a sector of the folder, or of the table
first:  .reserve 2              ; sector of cluster 2
chain:  .reserve 2              ; cluster that is loaded
known:  .reserve 2              ; sector of the table that is in page
to:     .reserve 2
where:  .reserve 2              ; load address
run:    .reserve 2
length: .reserve 2

        .place boot
go:     ld a,(tables)           ; the main folder follows the tables
        ld b,a
        ld hl,(reserved)
        ld de,(table)
_table: add hl,de
        djnz _table
        ld (rom.lba),hl
        ex de,hl
        ld hl,(entries)         ; 16 in a sector
        ld b,4
_sixteenth:
        srl h
        rr l
        djnz _sixteenth
        ld b,l                  ; sectors of it
        add hl,de
        ld (first),hl

_sector:
        push bc
        ld hl,page
        call rom.disk_read
        jr c,failed
        ld hl,page
        ld b,16
_entry: push bc
        push hl
        ld de,name
        ld b,11
_letter:
        ld a,(de)
        cp (hl)
        jr nz,_other
        inc hl
        inc de
        djnz _letter
        pop ix                  ; here it is
        ld l,(ix+26)
        ld h,(ix+27)
        jr load
_other: pop hl
        ld de,32
        add hl,de
        pop bc
        djnz _entry
        pop bc
        djnz _sector
missing:
        ld a,rom.DISK_PROGRAM
failed: jp rom.disk_failed

; The first sector of the file says where it belongs: it is read twice.
load:   ld (chain),hl
        ld hl,0
        ld (known),hl
        call locate
        ld hl,page
        call rom.disk_read
        jr c,failed
        ld hl,(page)
        ld (where),hl
        ld de,HEAD
        or a
        sbc hl,de
        ld (to),hl
        ld hl,(page+2)
        ld (run),hl
        ld hl,(page+4)
        ld (length),hl

_cluster:
        call locate
        ld a,(cluster)
        ld b,a
_read:  push bc
        ld hl,(to)
        call rom.disk_read
        ld (to),hl
        pop bc
        jr c,failed
        djnz _read
        call next
        jr c,failed
        ld hl,(chain)
        ld de,$FF8              ; the end, or what is no cluster
        or a
        sbc hl,de
        jr c,_cluster

        ld hl,(where)           ; all of it, and the byte behind it, make 0
        ld bc,(length)
        inc bc
        ld e,0
_sum:   ld a,e
        add a,(hl)
        ld e,a
        inc hl
        dec bc
        ld a,b
        or c
        jr nz,_sum
        ld a,e
        or a
        ld a,rom.DISK_CHECK
        jr nz,failed
        ld hl,(run)
        jp (hl)

; rom.lba becomes the first sector of the cluster.
locate: ld hl,(chain)
        dec hl
        dec hl
        ld a,(cluster)          ; 1, 2, 4 ... 64
_double:
        srl a
        jr c,_found
        add hl,hl
        jr _double
_found: ld de,(first)
        add hl,de
        ld (rom.lba),hl
        ret

; chain becomes the cluster that follows. Carry: the table cannot be read.
next:   ld hl,(chain)
        ld d,h
        ld e,l
        srl d
        rr e
        push af                 ; carry: it is odd
        add hl,de               ; byte of the table
        call byte_of
        jr c,_fault
        ld e,a
        inc hl
        push de
        call byte_of
        pop de
        jr c,_fault
        ld d,a
        pop af
        ex de,hl
        jr nc,_even
        ld b,4
_shift: srl h
        rr l
        djnz _shift
_even:  ld a,h
        and $0F
        ld h,a
        ld (chain),hl
        or a
        ret
_fault: pop bc
        ret

; The byte HL of the table. HL stays.
byte_of:
        push hl
        ld a,h
        and 1
        ld d,a                  ; place in its sector
        ld e,l
        srl h                   ; its sector, of at most 12
        ld c,h
        ld b,0
        ld hl,(reserved)
        add hl,bc
        ld bc,(known)
        or a
        sbc hl,bc
        add hl,bc
        jr z,_there
        ld (known),hl
        ld (rom.lba),hl
        ld hl,page
        push de
        call rom.disk_read
        pop de
        jr c,_out
_there: ld hl,page
        add hl,de
        ld a,(hl)
        or a
_out:   pop hl
        ret
last:
        .assert last - begin <= 510 - 11, "the boot program leaves no room for the file's name"

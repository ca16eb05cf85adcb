; What a drive of the ATA kind is told and says, the same for every CPU. docs/disk.md.

ATA_READ     = $20      ; read sectors
ATA_FEATURES = $EF      ; set features
ATA_EIGHT    = $01      ; transfers of 8 bits
ATA_LBA      = $E0      ; drive 0, sectors by number
ATA_BUSY     = $80      ; of the status
ATA_DRQ      = $08
ATA_ERR      = $01

; What is told when something fails, on lamps, or at a serial interface behind a '?'.
DISK_NONE    = 'N'      ; no drive answers in time
DISK_SECTOR  = 'R'      ; a sector cannot be read
DISK_FORMAT  = 'F'      ; this is no disk to boot from
DISK_PROGRAM = 'P'      ; there is no program on it that is to start
DISK_CHECK   = 'C'      ; a check is not right

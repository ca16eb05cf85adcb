/* ata.h - the eight registers of an ATA drive, or of a card in True IDE mode. */
#ifndef BOOTLACE_SIM_ATA_H
#define BOOTLACE_SIM_ATA_H

#include "device.h"

enum {
    SIM_ATA_DATA,
    SIM_ATA_ERROR, /* written: features */
    SIM_ATA_COUNT,
    SIM_ATA_LBA_LOW,
    SIM_ATA_LBA_MID,
    SIM_ATA_LBA_HIGH,
    SIM_ATA_DEVICE,
    SIM_ATA_STATUS, /* written: command */
};

/* Of the status register. */
enum { SIM_ATA_ERR = 0x01, SIM_ATA_DRQ = 0x08, SIM_ATA_READY = 0x50, SIM_ATA_BUSY = 0x80 };
/* Of the error register. */
enum { SIM_ATA_ABORTED = 0x04, SIM_ATA_NO_SECTOR = 0x10, SIM_ATA_UNREADABLE = 0x40 };

extern const sim_device_kind sim_ata_kind;

#endif

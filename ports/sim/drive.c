/* drive.c - a disk drive. */
#include "drive.h"

#include <string.h>

void sim_drive_begin(sim_drive *d, const bl_sectors *medium)
{
    *d = (sim_drive){.medium = *medium};
}

void sim_drive_power(sim_drive *d)
{
    d->dead = false;
    d->faults.cut_after = 0;
}

static bl_status ready(const sim_drive *d, uint32_t sector)
{
    if (d->dead || d->faults.not_ready || d->medium.count == 0) return BL_E_NOT_READY;
    if (sector >= d->medium.count) return BL_E_RANGE;
    for (uint32_t i = 0; i < d->faults.bad_count; i++)
        if (d->faults.bad[i] == sector) return BL_E_IO;
    return BL_OK;
}

bl_status sim_drive_read(sim_drive *d, uint32_t sector, uint8_t *bytes)
{
    bl_status status = ready(d, sector);
    return status == BL_OK ? d->medium.read(d->medium.context, sector, bytes) : status;
}

/* The begin of the new sector, the rest of the old one. */
static void tear_sector(sim_drive *d, uint32_t sector, const uint8_t *bytes)
{
    uint8_t torn[SIM_DRIVE_SECTOR_MOST];
    if (d->medium.size > sizeof torn) return;
    if (d->medium.read(d->medium.context, sector, torn) != BL_OK) return;
    memcpy(torn, bytes, d->medium.size / 2u);
    d->medium.write(d->medium.context, sector, torn);
}

bl_status sim_drive_write(sim_drive *d, uint32_t sector, const uint8_t *bytes)
{
    bl_status status = ready(d, sector);
    if (status == BL_OK && d->faults.write_protect) status = BL_E_PROTECTED;
    if (status != BL_OK) return status;
    if (d->faults.cut_after != 0 && d->written == d->faults.cut_after) {
        if (d->faults.within) tear_sector(d, sector, bytes);
        d->dead = true;
        return BL_E_NOT_READY;
    }
    d->written++;
    return d->medium.write(d->medium.context, sector, bytes);
}

/* ---- as a port ---- */

static bl_status read_port(void *context, uint32_t sector, uint8_t *bytes)
{
    return sim_drive_read(context, sector, bytes);
}

static bl_status write_port(void *context, uint32_t sector, const uint8_t *bytes)
{
    return sim_drive_write(context, sector, bytes);
}

bl_sectors sim_drive_port(sim_drive *d)
{
    return (bl_sectors){d, read_port, write_port, d->medium.count, d->medium.size};
}

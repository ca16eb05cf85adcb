/* The simulated drive, and the ATA registers in front of it, against what the standard says. */
#include <stdlib.h>
#include <string.h>

#include "harness.h"
#include "sim/device/ata.h"
#include "sim/drive.h"

enum { SECTORS = 2000 };

static uint8_t disk[SECTORS * 512];
static sim_drive drive;
static sim_device device;
static uint64_t now;

static bl_status read_disk(void *context, uint32_t sector, uint8_t *bytes)
{
    (void)context;
    memcpy(bytes, disk + sector * 512, 512);
    return BL_OK;
}

static bl_status write_disk(void *context, uint32_t sector, const uint8_t *bytes)
{
    (void)context;
    memcpy(disk + sector * 512, bytes, 512);
    return BL_OK;
}

static void set_up(void)
{
    bl_sectors medium = {NULL, read_disk, write_disk, SECTORS, 512};
    for (size_t i = 0; i < sizeof disk; i++)
        disk[i] = (uint8_t)(i / 512 * 31 + i % 251);
    sim_drive_begin(&drive, &medium);
    memset(&device, 0, sizeof device);
    device.kind = &sim_ata_kind, device.drive = &drive;
    device.kind->begin(&device, true);
    now = 1000;
}

static uint8_t in(unsigned reg)
{
    return device.kind->read(&device, now, reg);
}

static void out(unsigned reg, uint8_t value)
{
    device.kind->write(&device, now, reg, value);
}

/* Waits while it is busy; how long, microseconds. */
static unsigned wait_ready(void)
{
    unsigned us = 0;
    for (; (in(SIM_ATA_STATUS)&SIM_ATA_BUSY) != 0; us += 10, now += 10000)
        CHECK(us < 1000000);
    return us;
}

static void eight_lines(void)
{
    wait_ready();
    out(SIM_ATA_ERROR, 0x01);
    out(SIM_ATA_STATUS, 0xEF);
    wait_ready();
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
}

static void ask(uint32_t sector, uint8_t count, uint8_t command)
{
    out(SIM_ATA_DEVICE, (uint8_t)(0xE0 | sector >> 24));
    out(SIM_ATA_COUNT, count);
    out(SIM_ATA_LBA_LOW, (uint8_t)sector);
    out(SIM_ATA_LBA_MID, (uint8_t)(sector >> 8));
    out(SIM_ATA_LBA_HIGH, (uint8_t)(sector >> 16));
    out(SIM_ATA_STATUS, command);
}

TEST(ata_is_busy_after_power_up_and_takes_nothing_then)
{
    set_up();
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_BUSY);
    CHECK_INT(in(SIM_ATA_COUNT), SIM_ATA_BUSY); /* whatever is read */
    out(SIM_ATA_COUNT, 77);
    unsigned us = wait_ready();
    CHECK(us > 10000 && us < 500000);
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
    CHECK_INT(in(SIM_ATA_COUNT), 1);
    CHECK_INT(in(SIM_ATA_ERROR), 1);
}

TEST(ata_reads_sectors_one_after_the_other)
{
    set_up();
    eight_lines();
    ask(300, 3, 0x20);
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_BUSY);
    for (unsigned s = 0; s < 3; s++) {
        CHECK(wait_ready() > 50);
        CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY | SIM_ATA_DRQ);
        for (unsigned i = 0; i < 512; i++)
            CHECK_INT(in(SIM_ATA_DATA), disk[(300 + s) * 512 + i]);
    }
    wait_ready();
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
    CHECK_INT(in(SIM_ATA_COUNT), 0);
    CHECK_INT(in(SIM_ATA_LBA_LOW), 302 & 0xFF);
}

/* Without feature 1 the data register moves words, of which eight lines carry half. */
TEST(ata_of_sixteen_lines_loses_every_other_byte)
{
    set_up();
    wait_ready();
    ask(5, 1, 0x20);
    wait_ready();
    for (unsigned i = 0; i < 256; i++)
        CHECK_INT(in(SIM_ATA_DATA), disk[5 * 512 + 2 * i]);
    wait_ready();
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
}

TEST(ata_writes_and_counts_cylinders_too)
{
    set_up();
    eight_lines();
    /* Cylinder 2, head 5, sector 32: (2 * 16 + 5) * 32 + 31 = 1215; then 1216. */
    out(SIM_ATA_DEVICE, 0xA5);
    out(SIM_ATA_COUNT, 2);
    out(SIM_ATA_LBA_LOW, 32);
    out(SIM_ATA_LBA_MID, 2);
    out(SIM_ATA_LBA_HIGH, 0);
    out(SIM_ATA_STATUS, 0x30);
    for (unsigned s = 0; s < 2; s++) {
        wait_ready();
        CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY | SIM_ATA_DRQ);
        for (unsigned i = 0; i < 512; i++)
            out(SIM_ATA_DATA, (uint8_t)(i + s));
        CHECK(wait_ready() > 1000); /* it is written now */
    }
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
    for (unsigned s = 0; s < 2; s++)
        for (unsigned i = 0; i < 512; i++)
            CHECK_INT(disk[(1215 + s) * 512 + i], (uint8_t)(i + s));
    CHECK_INT(in(SIM_ATA_DEVICE)&15, 6);
}

TEST(ata_identifies_itself)
{
    uint8_t words[512];
    set_up();
    eight_lines();
    out(SIM_ATA_STATUS, 0xEC);
    wait_ready();
    for (unsigned i = 0; i < 512; i++)
        words[i] = in(SIM_ATA_DATA);
    CHECK_INT(words[120] | words[121] << 8, SECTORS);
    CHECK_INT(words[98] | words[99] << 8, 0x0200);
    CHECK_INT(words[55], 'S'); /* the first character is the high byte */
    CHECK_INT(words[54], 'K');
}

TEST(ata_refuses_what_it_cannot_do)
{
    static const struct {
        uint32_t sector;
        uint8_t command, error;
    } all[] = {{SECTORS, 0x20, SIM_ATA_NO_SECTOR},
               {SECTORS + 5, 0x30, SIM_ATA_NO_SECTOR},
               {1, 0x99, SIM_ATA_ABORTED},
               {7, 0x20, SIM_ATA_UNREADABLE}};
    for (size_t i = 0; i < BL_COUNT(all); i++) {
        set_up();
        eight_lines();
        drive.faults.bad[0] = 7, drive.faults.bad_count = 1;
        ask(all[i].sector, 1, all[i].command);
        wait_ready();
        CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY | SIM_ATA_ERR);
        CHECK_INT(in(SIM_ATA_ERROR), all[i].error);
        CHECK_INT(in(SIM_ATA_DATA), 0xFF);
        ask(1, 1, 0x20); /* and goes on */
        wait_ready();
        CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY | SIM_ATA_DRQ);
    }
}

TEST(ata_write_protection_keeps_the_disk)
{
    uint8_t before[512];
    set_up();
    memcpy(before, disk + 9 * 512, 512);
    drive.faults.write_protect = true;
    eight_lines();
    ask(9, 1, 0x30);
    wait_ready();
    for (unsigned i = 0; i < 512; i++)
        out(SIM_ATA_DATA, 0);
    wait_ready();
    CHECK_INT(in(SIM_ATA_STATUS)&SIM_ATA_ERR, SIM_ATA_ERR);
    CHECK((in(SIM_ATA_ERROR)&SIM_ATA_ABORTED) != 0);
    CHECK_BYTES(disk + 9 * 512, 512, before, 512);
}

TEST(ata_without_a_disk_nobody_drives_the_lines)
{
    set_up();
    drive.faults.not_ready = true;
    for (unsigned r = 0; r < 8; r++)
        CHECK_INT(in(r), 0xFF);
    set_up();
    device.drive = NULL;
    CHECK_INT(in(SIM_ATA_STATUS), 0xFF);
    set_up();
    eight_lines();
    out(SIM_ATA_DEVICE, 0xF0); /* the second drive: there is none */
    CHECK_INT(in(SIM_ATA_STATUS), 0);
}

TEST(ata_drive_that_lost_its_power_comes_back_with_it)
{
    uint8_t bytes[512] = {0};
    set_up();
    bl_sectors port = sim_drive_port(&drive);
    drive.faults.cut_after = 1;
    device.kind->begin(&device, true); /* the fault is still to come */
    CHECK_INT(port.write(port.context, 10, bytes), BL_OK);
    CHECK_INT(port.write(port.context, 11, bytes), BL_E_NOT_READY);
    CHECK_INT(in(SIM_ATA_STATUS), 0xFF);
    device.kind->begin(&device, false); /* the reset line gives it none */
    CHECK_INT(in(SIM_ATA_STATUS), 0xFF);
    device.kind->begin(&device, true);
    wait_ready();
    CHECK_INT(in(SIM_ATA_STATUS), SIM_ATA_READY);
    CHECK_INT(port.write(port.context, 11, bytes), BL_OK);
}

/* ---- the drive as a port ---- */

TEST(drive_power_fails_behind_a_sector_or_within_one)
{
    uint8_t bytes[512], back[512];
    for (unsigned within = 0; within < 2; within++) {
        set_up();
        bl_sectors port = sim_drive_port(&drive);
        drive.faults.cut_after = 2, drive.faults.within = within != 0;
        memset(bytes, 0x77, sizeof bytes);
        CHECK_INT(port.write(port.context, 10, bytes), BL_OK);
        CHECK_INT(port.write(port.context, 11, bytes), BL_OK);
        uint8_t rest = disk[12 * 512 + 511];
        uint8_t first = disk[12 * 512];
        CHECK_INT(port.write(port.context, 12, bytes), BL_E_NOT_READY);
        CHECK_INT(port.read(port.context, 1, back), BL_E_NOT_READY);
        CHECK_INT(port.write(port.context, 13, bytes), BL_E_NOT_READY);
        CHECK_INT(disk[12 * 512], within ? 0x77 : first);
        CHECK_INT(disk[12 * 512 + 511], rest);
        sim_drive_power(&drive);
        CHECK_INT(port.read(port.context, 10, back), BL_OK);
        CHECK_BYTES(back, 512, bytes, 512);
    }
}

TEST(drive_faults_are_told_as_what_they_are)
{
    uint8_t bytes[512] = {0};
    set_up();
    bl_sectors port = sim_drive_port(&drive);
    CHECK_INT(port.count, SECTORS);
    CHECK_INT(port.read(port.context, SECTORS, bytes), BL_E_RANGE);
    drive.faults.bad[0] = 4, drive.faults.bad_count = 1;
    CHECK_INT(port.read(port.context, 4, bytes), BL_E_IO);
    CHECK_INT(port.write(port.context, 4, bytes), BL_E_IO);
    drive.faults.write_protect = true;
    CHECK_INT(port.write(port.context, 5, bytes), BL_E_PROTECTED);
    CHECK_INT(port.read(port.context, 5, bytes), BL_OK);
    drive.faults.not_ready = true;
    CHECK_INT(port.read(port.context, 5, bytes), BL_E_NOT_READY);
}

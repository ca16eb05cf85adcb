/* ata.c - a drive, or a card in True IDE mode, at eight data lines. Source: the ATA-4 standard, PIO
 * commands, and the 8-bit transfers of the CompactFlash specification.
 *
 * After power-up it is busy for a while. As long as feature 1 is not set its data register has
 * sixteen lines, of which the machine has eight: each access moves a word, and the high byte is
 * lost. Without a disk, or without power, nobody drives the lines: all registers read $FF.
 */
#include "ata.h"

#include <string.h>

#include "sim/drive.h"

enum {
    SECTOR = 512,
    HEADS = 16,
    TRACK = 32,
    IDENTIFY_MODEL = 27,
    DEVICE_LBA = 0x40,
    DEVICE_SECOND = 0x10,
};

#define POWER_UP_NS 50000000u
#define COMMAND_NS  20000u
#define READ_NS     300000u
#define WRITE_NS    1500000u

typedef enum ata_phase { ATA_IDLE, ATA_READING, ATA_WRITING } ata_phase;

typedef struct ata {
    uint64_t ready_at;
    uint8_t error, features, count, low, mid, high, device;
    uint8_t phase; /* ata_phase */
    uint8_t left;  /* sectors of a transfer that are to come; 0: the last one is in the buffer */
    uint8_t failed;
    bool eight;     /* transfers of 8 bits */
    bool fresh;     /* since power-up nobody has looked at it */
    uint16_t index; /* in the buffer */
    uint8_t buffer[SECTOR];
} ata;

static ata *ata_of(sim_device *d)
{
    return (ata *)(void *)d->state.bytes;
}

static const ata *ata_seen(const sim_device *d)
{
    return (const ata *)(const void *)d->state.bytes;
}

/* The reset line: as after power-up, but the drive turns already. Power gives a drive back that has
 * lost it. */
static void begin_ata(sim_device *d, bool power)
{
    ata *a = ata_of(d);
    memset(a, 0, sizeof *a);
    a->fresh = power;
    if (power && d->drive != NULL && d->drive->dead) sim_drive_power(d->drive);
    a->error = 1; /* the diagnosis is good */
    a->count = a->low = 1;
}

/* Is somebody there who drives the lines? Only one drive is at the cable. */
static bool answers(const sim_device *d)
{
    return d->drive != NULL && d->drive->medium.count > 0 && !d->drive->faults.not_ready &&
           !d->drive->dead && d->drive->medium.size == SECTOR;
}

static bool is_busy(ata *a, uint64_t now)
{
    if (a->fresh) a->ready_at = now + POWER_UP_NS; /* counted from the first look at it */
    a->fresh = false;
    return now < a->ready_at;
}

static uint8_t status_now(const ata *a)
{
    return (uint8_t)(SIM_ATA_READY | (a->phase != ATA_IDLE ? SIM_ATA_DRQ : 0) |
                     (a->failed != 0 ? SIM_ATA_ERR : 0));
}

static void abort_command(ata *a, uint8_t why)
{
    a->phase = ATA_IDLE, a->index = 0;
    a->failed = 1, a->error = why;
}

/* ---- sectors ---- */

/* The sector that the registers name. False: there is none. */
static bool addressed(const sim_device *d, const ata *a, uint32_t *sector)
{
    uint32_t cylinder = (uint32_t)a->high << 8 | a->mid, head = a->device & 15u;
    if ((a->device & DEVICE_LBA) != 0) {
        *sector = head << 24 | (uint32_t)a->high << 16 | (uint32_t)a->mid << 8 | a->low;
    } else {
        if (a->low == 0 || a->low > TRACK) return false;
        *sector = (cylinder * HEADS + head) * TRACK + a->low - 1u;
    }
    return *sector < d->drive->medium.count;
}

/* The registers name the next sector. */
static void advance(ata *a)
{
    if ((a->device & DEVICE_LBA) != 0) {
        if (++a->low != 0 || ++a->mid != 0 || ++a->high != 0) return;
        a->device = (uint8_t)((a->device & 0xF0) | ((a->device + 1) & 0x0F));
        return;
    }
    if (++a->low <= TRACK) return;
    a->low = 1;
    uint8_t head = (uint8_t)((a->device + 1) & 15);
    a->device = (uint8_t)((a->device & 0xF0) | head);
    if (head == 0 && ++a->mid == 0) a->high++;
}

static uint8_t error_of(bl_status status)
{
    return status == BL_E_IO          ? SIM_ATA_UNREADABLE
           : status == BL_E_PROTECTED ? SIM_ATA_UNREADABLE | SIM_ATA_ABORTED
                                      : SIM_ATA_ABORTED;
}

static void fetch_sector(sim_device *d, ata *a, uint64_t now)
{
    uint32_t sector;
    a->ready_at = now + READ_NS;
    if (!addressed(d, a, &sector)) {
        abort_command(a, SIM_ATA_NO_SECTOR);
        return;
    }
    bl_status status = sim_drive_read(d->drive, sector, a->buffer);
    a->index = 0, a->phase = ATA_READING;
    if (status != BL_OK) abort_command(a, error_of(status));
}

static void store_sector(sim_device *d, ata *a, uint64_t now)
{
    uint32_t sector;
    a->ready_at = now + WRITE_NS;
    a->index = 0;
    if (!addressed(d, a, &sector)) {
        abort_command(a, SIM_ATA_NO_SECTOR);
        return;
    }
    bl_status status = sim_drive_write(d->drive, sector, a->buffer);
    if (status != BL_OK) abort_command(a, error_of(status));
}

/* ---- commands ---- */

static void put_identify_word(uint8_t *words, unsigned index, uint32_t value)
{
    words[index * 2] = (uint8_t)value;
    words[index * 2 + 1] = (uint8_t)(value >> 8);
}

static void identify(const sim_device *d, ata *a)
{
    static const char model[] = "SKERRY CARD                             ";
    uint32_t total = d->drive->medium.count, cylinders = total / (HEADS * TRACK);
    memset(a->buffer, 0, sizeof a->buffer);
    put_identify_word(a->buffer, 0, 0x848A); /* a card */
    put_identify_word(a->buffer, 1, cylinders < 16383 ? cylinders : 16383);
    put_identify_word(a->buffer, 3, HEADS);
    put_identify_word(a->buffer, 6, TRACK);
    for (unsigned i = 0; i < 40; i++) /* the first character of two is in the high byte */
        a->buffer[IDENTIFY_MODEL * 2 + (i ^ 1)] = (uint8_t)model[i];
    put_identify_word(a->buffer, 49, 0x0200); /* LBA */
    put_identify_word(a->buffer, 60, total);
    put_identify_word(a->buffer, 61, total >> 16);
    a->index = 0, a->phase = ATA_READING, a->left = 0;
}

static void set_features(ata *a)
{
    if (a->features == 0x01)
        a->eight = true;
    else if (a->features == 0x81)
        a->eight = false;
    else
        abort_command(a, SIM_ATA_ABORTED);
}

static void obey_command(sim_device *d, ata *a, uint64_t now, uint8_t code)
{
    uint32_t sector;
    a->failed = 0, a->error = 0, a->phase = ATA_IDLE;
    a->ready_at = now + COMMAND_NS;
    a->left = (uint8_t)(a->count - 1); /* 0 means 256 */
    switch (code) {
    case 0x20: /* read sectors */
    case 0x21: fetch_sector(d, a, now); break;
    case 0x30: /* write sectors: the first one is asked for at once */
    case 0x31:
        a->index = 0, a->phase = ATA_WRITING;
        if (!addressed(d, a, &sector)) abort_command(a, SIM_ATA_NO_SECTOR);
        break;
    case 0x90: a->error = 1; break; /* diagnosis */
    case 0x91:                      /* parameters of a geometry: those that it has */
        if (a->count != TRACK || (a->device & 15) != HEADS - 1) abort_command(a, SIM_ATA_ABORTED);
        break;
    case 0xE7: a->ready_at = now + WRITE_NS; break; /* flush: nothing is held back */
    case 0xEC: identify(d, a); break;
    case 0xEF: set_features(a); break;
    default:
        if ((code & 0xF0) != 0x10) abort_command(a, SIM_ATA_ABORTED); /* $1x: recalibrate */
    }
}

/* ---- data ---- */

/* The buffer is full, or empty: on to the next sector, or to the end. */
static void turn_over(sim_device *d, ata *a, uint64_t now)
{
    if (a->phase == ATA_WRITING) store_sector(d, a, now);
    if (a->phase == ATA_IDLE) return; /* it failed */
    if (a->left == 0) {
        a->phase = ATA_IDLE, a->index = 0, a->count = 0;
        return;
    }
    a->left--, a->count--;
    advance(a);
    if (a->phase == ATA_READING) fetch_sector(d, a, now);
}

static uint8_t read_data(sim_device *d, ata *a, uint64_t now)
{
    if (a->phase != ATA_READING) return 0xFF;
    uint8_t value = a->buffer[a->index];
    a->index = (uint16_t)(a->index + (a->eight ? 1 : 2));
    if (a->index >= SECTOR) turn_over(d, a, now);
    return value;
}

static void write_data(sim_device *d, ata *a, uint64_t now, uint8_t value)
{
    if (a->phase != ATA_WRITING) return;
    a->buffer[a->index] = value;
    if (!a->eight) a->buffer[a->index + 1] = 0xFF; /* lines that nobody drives */
    a->index = (uint16_t)(a->index + (a->eight ? 1 : 2));
    if (a->index >= SECTOR) turn_over(d, a, now);
}

/* ---- registers ---- */

static uint8_t read_ata(sim_device *d, uint64_t now, unsigned reg)
{
    ata *a = ata_of(d);
    if (!answers(d)) return 0xFF;
    if (is_busy(a, now)) return SIM_ATA_BUSY;
    if ((a->device & DEVICE_SECOND) != 0) return 0; /* there is no second drive */
    switch (reg) {
    case SIM_ATA_DATA: return read_data(d, a, now);
    case SIM_ATA_ERROR: return a->error;
    case SIM_ATA_COUNT: return a->count;
    case SIM_ATA_LBA_LOW: return a->low;
    case SIM_ATA_LBA_MID: return a->mid;
    case SIM_ATA_LBA_HIGH: return a->high;
    case SIM_ATA_DEVICE: return (uint8_t)(a->device | 0xA0);
    default: return status_now(a);
    }
}

/* While it is busy it takes nothing. */
static void write_ata(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    ata *a = ata_of(d);
    if (!answers(d) || is_busy(a, now)) return;
    switch (reg) {
    case SIM_ATA_DATA: write_data(d, a, now, value); break;
    case SIM_ATA_ERROR: a->features = value; break;
    case SIM_ATA_COUNT: a->count = value; break;
    case SIM_ATA_LBA_LOW: a->low = value; break;
    case SIM_ATA_LBA_MID: a->mid = value; break;
    case SIM_ATA_LBA_HIGH: a->high = value; break;
    case SIM_ATA_DEVICE: a->device = value; break;
    default:
        if ((a->device & DEVICE_SECOND) == 0) obey_command(d, a, now, value);
    }
}

static const sim_device_field fields[] = {
    SIM_FIELD(ata, ready_at, SIM_FIELD_TIME),   SIM_FIELD(ata, error, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, features, SIM_FIELD_NUMBER), SIM_FIELD(ata, count, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, low, SIM_FIELD_NUMBER),      SIM_FIELD(ata, mid, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, high, SIM_FIELD_NUMBER),     SIM_FIELD(ata, device, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, phase, SIM_FIELD_NUMBER),    SIM_FIELD(ata, left, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, failed, SIM_FIELD_NUMBER),   SIM_FIELD(ata, eight, SIM_FIELD_FLAG),
    SIM_FIELD(ata, fresh, SIM_FIELD_FLAG),      SIM_FIELD(ata, index, SIM_FIELD_NUMBER),
    SIM_FIELD(ata, buffer, SIM_FIELD_ROW),      {0},
};

static bool loaded_ata(sim_device *d)
{
    const ata *a = ata_seen(d);
    return a->phase <= ATA_WRITING && a->index < SECTOR && (a->eight || a->index % 2 == 0);
}

_Static_assert(sizeof(ata) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_ata_kind = {
    .about = {.name = "ata",
              .what = "disk drive, or card in True IDE mode",
              .registers = {"data", "error", "count", "lba_low", "lba_mid", "lba_high", "device",
                            "status"}},
    .group = "ata",
    .size = sizeof(ata),
    .begin = begin_ata,
    .read = read_ata,
    .write = write_ata,
    .loaded = loaded_ata,
    .fields = fields,
};

/* diskboot.c - a boot program beside a file system. */
#include "bootlace/diskboot.h"

#include "disk_kind.h"

/* The boot area in memory. */
typedef struct booting {
    bl_disk *d;
    uint8_t *bytes;
    uint32_t size, sectors, kept_from, kept_count;
} booting;

static bl_status read_area(booting *b)
{
    bl_status status = b->d->calls->boot_area(b->d, &b->sectors, &b->kept_from, &b->kept_count);
    if (status != BL_OK) return status;
    b->size = b->sectors * b->d->sectors.size;
    b->bytes = bl_disk_room(b->d, b->size, 1);
    if (b->bytes == NULL) return BL_E_MEMORY;
    return bl_disk_read_sectors(b->d, 0, b->sectors, b->bytes);
}

static bool is_kept(const booting *b, uint32_t at)
{
    return at >= b->kept_from && at - b->kept_from < b->kept_count;
}

static bool is_given(const bl_boot_program *p, uint32_t at)
{
    return at < p->size && (p->given == NULL || p->given[at] != 0);
}

static uint32_t sum_bytes(bl_boot_sum kind)
{
    return kind == BL_BOOT_WORDS || kind == BL_BOOT_WORDS_BIG ? 2 : 1;
}

/* The sum of a part, as it is now. */
static uint16_t boot_sum_of(const uint8_t *bytes, const bl_boot_rule *r)
{
    uint32_t step = sum_bytes(r->sum), sum = 0;
    for (uint32_t i = 0; i + step <= r->sum_count; i += step) {
        const uint8_t *p = bytes + r->sum_from + i;
        if (r->sum == BL_BOOT_SUM8) sum += p[0];
        if (r->sum == BL_BOOT_XOR8) sum ^= p[0];
        if (r->sum == BL_BOOT_WORDS) sum += bl_little16(p);
        if (r->sum == BL_BOOT_WORDS_BIG) sum += (uint32_t)p[0] << 8 | p[1];
    }
    return (uint16_t)(step == 1 ? sum & 0xFF : sum & 0xFFFF);
}

static bool rule_fits(const booting *b, const bl_boot_rule *r)
{
    for (size_t i = 0; i < r->mark_count; i++)
        if (r->mark[i].at >= b->size) return false;
    if (r->sum == BL_BOOT_NO_SUM) return true;
    uint32_t step = sum_bytes(r->sum);
    return r->sum_from <= b->size && r->sum_count <= b->size - r->sum_from &&
           r->sum_at >= r->sum_from && r->sum_at + step <= r->sum_from + r->sum_count &&
           (r->sum_at - r->sum_from) % step == 0;
}

/* Bytes of the program where the file system has its own must be the same, or padding. */
static bl_status lay_program(booting *b, const bl_boot_program *p)
{
    if (p->size > b->size)
        return bl_disk_fail(b->d, BL_E_FULL, "boot with a short program that loads a file",
                            "the boot program has %lu bytes, and there is room for %lu before the "
                            "file system",
                            (unsigned long)p->size, (unsigned long)b->size);
    for (uint32_t at = 0; at < p->size; at++) {
        if (!is_given(p, at)) continue;
        if (is_kept(b, at) && p->bytes[at] != b->bytes[at] && p->bytes[at] != 0)
            return bl_disk_fail(b->d, BL_E_OVERLAP,
                                "begin with a jump over them, and leave them 0 or reserved",
                                "byte %lu of the boot program is %u; bytes %lu to %lu of the boot "
                                "sector describe the file system",
                                (unsigned long)at, p->bytes[at], (unsigned long)b->kept_from,
                                (unsigned long)(b->kept_from + b->kept_count - 1));
        if (!is_kept(b, at)) b->bytes[at] = p->bytes[at];
    }
    return BL_OK;
}

/* A place that the ROM's rule needs must be free in the program: not given, or 0. */
static bl_status claim_place(booting *b, const bl_boot_program *p, uint32_t at, uint8_t value)
{
    bool taken = is_kept(b, at) || (is_given(p, at) && p->bytes[at] != 0);
    if (taken && b->bytes[at] != value)
        return bl_disk_fail(b->d, BL_E_OVERLAP, "leave it 0 or reserved",
                            "byte %lu must be $%02X for the machine to boot, and it is used",
                            (unsigned long)at, value);
    b->bytes[at] = value;
    return BL_OK;
}

static bl_status apply_rule(booting *b, const bl_boot_program *p, const bl_boot_rule *r)
{
    bl_status status = BL_OK;
    if (!rule_fits(b, r))
        return bl_disk_fail(b->d, BL_E_RANGE, NULL,
                            "the marks or the sum of the boot program lie outside of its %lu bytes",
                            (unsigned long)b->size);
    for (size_t i = 0; i < r->mark_count && status == BL_OK; i++)
        status = claim_place(b, p, r->mark[i].at, r->mark[i].value);
    if (status != BL_OK || r->sum == BL_BOOT_NO_SUM) return status;
    uint32_t at = r->sum_at, step = sum_bytes(r->sum);
    for (uint32_t i = 0; i < step && status == BL_OK; i++)
        status = claim_place(b, p, at + i, 0);
    uint32_t missing = r->sum == BL_BOOT_XOR8 ? (uint32_t)(r->total ^ boot_sum_of(b->bytes, r))
                                              : (uint32_t)r->total - boot_sum_of(b->bytes, r);
    if (r->sum == BL_BOOT_WORDS) bl_put_little16(b->bytes + at, missing);
    if (r->sum == BL_BOOT_WORDS_BIG)
        b->bytes[at] = (uint8_t)(missing >> 8), b->bytes[at + 1] = (uint8_t)missing;
    if (step == 1) b->bytes[at] = (uint8_t)missing;
    return status;
}

/* From the last sector to the first: the first is what makes it bootable. */
static bl_status write_area(booting *b, uint32_t count)
{
    uint32_t unit = b->d->sectors.size;
    uint8_t *back = bl_disk_room(b->d, unit, 1);
    bl_status status = back != NULL ? BL_OK : BL_E_MEMORY;
    for (uint32_t i = count; i > 0 && status == BL_OK; i--) {
        const uint8_t *bytes = b->bytes + (i - 1) * unit;
        status = bl_disk_write_sector(b->d, i - 1, bytes);
        if (status == BL_OK) status = bl_disk_read_sector(b->d, i - 1, back);
        if (status == BL_OK && memcmp(back, bytes, (size_t)unit) != 0)
            status = bl_disk_fail(b->d, BL_E_DIFFERS, "the medium is bad, or the drive is",
                                  "sector %lu was read back, and differs", (unsigned long)i - 1);
    }
    bl_disk_free(b->d, back);
    return status;
}

static uint32_t sectors_needed(const booting *b, const bl_boot_program *p, const bl_boot_rule *r)
{
    uint32_t end = p->size;
    for (size_t i = 0; r != NULL && i < r->mark_count; i++)
        if (r->mark[i].at >= end) end = r->mark[i].at + 1;
    if (r != NULL && r->sum != BL_BOOT_NO_SUM && r->sum_at + 2 > end) end = r->sum_at + 2;
    uint32_t count = (end + b->d->sectors.size - 1) / b->d->sectors.size;
    return count < b->sectors ? count : b->sectors;
}

bl_status bl_disk_boot(bl_disk *d, const bl_boot_program *program, const bl_boot_rule *rule,
                       uint32_t *written)
{
    booting b = {.d = d};
    bl_status status = read_area(&b);
    if (status == BL_OK) status = lay_program(&b, program);
    if (status == BL_OK && rule != NULL) status = apply_rule(&b, program, rule);
    *written = status == BL_OK ? sectors_needed(&b, program, rule) : 0;
    if (status == BL_OK) status = write_area(&b, *written);
    bl_disk_free(d, b.bytes);
    return status;
}

bl_status bl_disk_boot_check(bl_disk *d, const bl_boot_rule *r)
{
    booting b = {.d = d};
    bl_status status = read_area(&b);
    if (status == BL_OK && !rule_fits(&b, r)) status = BL_E_DIFFERS;
    for (size_t i = 0; i < r->mark_count && status == BL_OK; i++)
        if (b.bytes[r->mark[i].at] != r->mark[i].value)
            status = bl_disk_fail(d, BL_E_DIFFERS, "disk boot writes a boot program",
                                  "byte %lu of it is $%02X, and must be $%02X for the machine to "
                                  "boot",
                                  (unsigned long)r->mark[i].at, b.bytes[r->mark[i].at],
                                  r->mark[i].value);
    if (status == BL_OK && r->sum != BL_BOOT_NO_SUM && boot_sum_of(b.bytes, r) != r->total)
        status = bl_disk_fail(d, BL_E_DIFFERS, "disk boot writes a boot program",
                              "the sum of its boot program is $%04X, and must be $%04X",
                              boot_sum_of(b.bytes, r), r->total);
    bl_disk_free(d, b.bytes);
    return status;
}

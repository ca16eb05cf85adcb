/* hex.c - Intel HEX, record types 00 to 05. */
#include "records.h"

/* ":LLAAAATT data CC": length, address, type, checksum. */
enum { LENGTH, HIGH, LOW, TYPE, DATA, OVERHEAD = 5 };
_Static_assert(OVERHEAD == DATA + 1, "what stands before the data, and the checksum");

static uint32_t big_word(const uint8_t *b)
{
    return (uint32_t)b[0] << 8 | b[1];
}

/* Within a segment addresses wrap at 64 KiB; linear ones wrap at 4 GiB. */
static void take_data(bl_records *r)
{
    uint32_t offset = big_word(r->bytes + HIGH);
    size_t count = r->bytes[LENGTH], before = count;
    if (r->segmented && offset + count > 0x10000u) before = (size_t)(0x10000u - offset);
    uint32_t address = r->base + offset;
    if ((uint64_t)address + before > (uint64_t)UINT32_MAX + 1) before = (size_t)(0u - address);
    bl_records_put(r, address, r->bytes + DATA, before);
    if (before < count)
        bl_records_put(r, r->segmented ? r->base : 0, r->bytes + DATA + before, count - before);
    r->data_records++;
}

/* Record types other than data: end, entry, and the two ways of saying the upper address. */
static void take_other(bl_records *r)
{
    static const uint8_t lengths[] = {0, 0, 2, 4, 2, 4};
    const uint8_t *d = r->bytes + DATA;
    unsigned type = r->bytes[TYPE];
    if (type > 5) {
        bl_records_fault(r, BL_E_SYNTAX, 8, 2, "types 00 to 05 exist", "record type %02X", type);
        return;
    }
    if (r->bytes[LENGTH] != lengths[type]) {
        bl_records_fault(r, BL_E_SYNTAX, 2, 2, NULL,
                         "a record of type %02X has %u data bytes, not %u", type, lengths[type],
                         (unsigned)r->bytes[LENGTH]);
        return;
    }
    switch (type) {
    case 1: r->ended = true; break;
    case 2:
    case 4:
        r->segmented = type == 2;
        r->base = big_word(d) << (type == 2 ? 4 : 16);
        break;
    case 3: bl_image_set_entry(r->image, (big_word(d) << 4) + big_word(d + 2)); break;
    case 5: bl_image_set_entry(r->image, big_word(d) << 16 | big_word(d + 2)); break;
    }
}

/* A line that is wrong in several ways is told by the first that makes the others meaningless. */
static void take_hex_record(bl_records *r)
{
    uint8_t sum = 0;
    if (r->text.at[0] != ':') {
        bl_records_fault(r, BL_E_SYNTAX, 1, 1, "is this an Intel HEX file?",
                         "a record begins with ':'");
        return;
    }
    if (!bl_records_decode(r, 1)) return;
    if (r->count < OVERHEAD || r->count != (size_t)r->bytes[LENGTH] + OVERHEAD) {
        bl_records_fault(r, BL_E_SYNTAX, 2, 2, "is the line cut short?",
                         "the record announces %u data bytes and has %ld",
                         r->count > 0 ? (unsigned)r->bytes[LENGTH] : 0,
                         (long)r->count - (long)OVERHEAD);
        return;
    }
    for (size_t i = 0; i < r->count; i++)
        sum = (uint8_t)(sum + r->bytes[i]);
    if (sum != 0) {
        uint8_t found = r->bytes[r->count - 1];
        bl_records_fault(r, BL_E_CHECKSUM, r->text.length - 1, 2, "the file was damaged or edited",
                         "checksum is %02X, the bytes give %02X", found, (uint8_t)(found - sum));
        return;
    }
    if (r->bytes[TYPE] == 0)
        take_data(r);
    else
        take_other(r);
}

bl_status bl_hex_read(bl_records *r, const void *bytes, size_t count)
{
    return bl_records_each(r, bytes, count, take_hex_record,
                           "an Intel HEX file ends with :00000001FF; is it cut short?");
}

static bl_status write_hex_record(const bl_writer *w, uint32_t address, unsigned type,
                                  const uint8_t *data, size_t count)
{
    char line[BL_RECORD_DATA * 2 + 16], *at = line;
    uint8_t sum = (uint8_t)(count + (address >> 8) + address + type);
    *at++ = ':';
    at = bl_put_hex(at, (unsigned)count);
    at = bl_put_hex(at, (unsigned)(address >> 8) & 0xFFu);
    at = bl_put_hex(at, (unsigned)address & 0xFFu);
    at = bl_put_hex(at, type);
    for (size_t i = 0; i < count; i++) {
        at = bl_put_hex(at, data[i]);
        sum = (uint8_t)(sum + data[i]);
    }
    at = bl_put_hex(at, (uint8_t)(0 - sum));
    *at++ = '\n';
    return w->write(w->context, line, (size_t)(at - line));
}

static void split_word(uint32_t value, uint8_t *b)
{
    b[0] = (uint8_t)(value >> 24);
    b[1] = (uint8_t)(value >> 16);
    b[2] = (uint8_t)(value >> 8);
    b[3] = (uint8_t)value;
}

/* A record ends at a 64 KiB border: the address in it has 16 bits. */
static bl_status write_piece(const bl_writer *w, bl_piece p, uint32_t *upper)
{
    for (size_t done = 0; done < p.count;) {
        uint32_t address = p.first + (uint32_t)done;
        size_t n = p.count - done < BL_RECORD_DATA ? p.count - done : BL_RECORD_DATA;
        uint32_t left = 0x10000u - (address & 0xFFFFu);
        bl_status s = BL_OK;
        if (n > left) n = (size_t)left;
        if (address >> 16 != *upper) {
            uint8_t b[4];
            split_word(address, b);
            *upper = address >> 16;
            s = write_hex_record(w, 0, 4, b, 2);
        }
        if (s == BL_OK) s = write_hex_record(w, address, 0, p.bytes + done, n);
        if (s != BL_OK) return s;
        done += n;
    }
    return BL_OK;
}

bl_status bl_hex_write(const bl_image *image, const bl_writer *w)
{
    uint32_t upper = 0, entry;
    for (size_t i = 0; i < bl_image_pieces(image); i++) {
        bl_status s = write_piece(w, bl_image_piece(image, i), &upper);
        if (s != BL_OK) return s;
    }
    if (bl_image_entry(image, &entry)) {
        uint8_t b[4];
        split_word(entry, b);
        bl_status s = write_hex_record(w, 0, 5, b, 4);
        if (s != BL_OK) return s;
    }
    return write_hex_record(w, 0, 1, NULL, 0);
}

/* srec.c - Motorola S-record, S0 to S9. */
#include "records.h"

/* Bytes of address for each digit after the S; 0 for the one that does not exist. */
static const uint8_t widths[10] = {2, 2, 3, 4, 0, 2, 3, 4, 3, 2};

/* By record type: how wide its address is, and what its bytes are for. */
static void take_body(bl_records *r, unsigned type, uint32_t address, const uint8_t *data,
                      size_t count)
{
    if (type >= 1 && type <= 3) {
        r->data_records++;
        bl_records_put(r, address, data, count);
        return;
    }
    if (type != 0 && count != 0) {
        bl_records_fault(r, BL_E_SYNTAX, 3, 2, NULL, "an S%u record has an address and no data",
                         type);
        return;
    }
    if (type == 5 || type == 6) {
        uint32_t mask = type == 5 ? 0xFFFFu : 0xFFFFFFu;
        if (address != (r->data_records & mask))
            bl_records_fault(r, BL_E_SYNTAX, 5, 0, "lines were lost or added",
                             "the count record says %lu data records, the file has %lu",
                             (unsigned long)address, (unsigned long)r->data_records);
    } else if (type >= 7) {
        if (address != 0) bl_image_set_entry(r->image, address); /* 0 says: none given */
        r->ended = true;
    }
}

/* As in hex.c: the first fault that makes the others meaningless is told. */
static void take_srec_record(bl_records *r)
{
    uint8_t sum = 0;
    if (r->text.length < 2 || bl_upper(r->text.at[0]) != 'S' || !bl_is_digit(r->text.at[1])) {
        bl_records_fault(r, BL_E_SYNTAX, 1, 2, "is this an S-record file?",
                         "a record begins with S0 to S9");
        return;
    }
    unsigned type = (unsigned)(r->text.at[1] - '0');
    if (widths[type] == 0) {
        bl_records_fault(r, BL_E_SYNTAX, 1, 2, NULL, "S4 is reserved and has no meaning");
        return;
    }
    if (!bl_records_decode(r, 2)) return;
    if (r->count < (size_t)widths[type] + 2 || r->count != (size_t)r->bytes[0] + 1) {
        bl_records_fault(r, BL_E_SYNTAX, 3, 2, "is the line cut short?",
                         "the record announces %u bytes and has %ld, of which an S%u needs %u",
                         r->count > 0 ? (unsigned)r->bytes[0] : 0, (long)r->count - 1, type,
                         widths[type] + 1u);
        return;
    }
    for (size_t i = 0; i < r->count; i++)
        sum = (uint8_t)(sum + r->bytes[i]);
    if (sum != 0xFF) {
        uint8_t found = r->bytes[r->count - 1];
        bl_records_fault(r, BL_E_CHECKSUM, r->text.length - 1, 2, "the file was damaged or edited",
                         "checksum is %02X, the bytes give %02X", found,
                         (uint8_t)(found - sum - 1));
        return;
    }
    uint32_t address = 0;
    for (size_t i = 1; i <= widths[type]; i++)
        address = address << 8 | r->bytes[i];
    take_body(r, type, address, r->bytes + 1 + widths[type], r->count - widths[type] - 2);
}

bl_status bl_srec_read(bl_records *r, const void *bytes, size_t count)
{
    return bl_records_each(r, bytes, count, take_srec_record,
                           "an S-record file ends with S7, S8 or S9; is it cut short?");
}

/* The count in a record is that of address, data and checksum. */
static bl_status write_srec_record(const bl_writer *w, unsigned type, uint32_t address,
                                   const uint8_t *data, size_t count)
{
    char line[BL_RECORD_DATA * 2 + 24], *at = line;
    unsigned width = widths[type];
    uint8_t sum = (uint8_t)(count + width + 1);
    *at++ = 'S';
    *at++ = (char)('0' + (int)type);
    at = bl_put_hex(at, (unsigned)(count + width + 1));
    for (unsigned i = width; i > 0; i--) {
        uint8_t byte = (uint8_t)(address >> (8 * (i - 1)));
        at = bl_put_hex(at, byte);
        sum = (uint8_t)(sum + byte);
    }
    for (size_t i = 0; i < count; i++) {
        at = bl_put_hex(at, data[i]);
        sum = (uint8_t)(sum + data[i]);
    }
    at = bl_put_hex(at, (uint8_t)~sum);
    *at++ = '\n';
    return w->write(w->context, line, (size_t)(at - line));
}

static unsigned width_for(const bl_image *image)
{
    uint32_t highest = 0;
    size_t pieces = bl_image_pieces(image);
    if (pieces > 0) {
        bl_piece p = bl_image_piece(image, pieces - 1);
        highest = p.first + (uint32_t)(p.count - 1);
    }
    uint32_t entry = 0;
    if (bl_image_entry(image, &entry) && entry > highest) highest = entry;
    return highest > 0xFFFFFFu ? 3 : highest > 0xFFFFu ? 2 : 1;
}

bl_status bl_srec_write(const bl_image *image, const char *title, const bl_writer *w)
{
    unsigned type = width_for(image);
    uint32_t records = 0, entry = 0;
    size_t length = title == NULL ? 0 : bl_length(title);
    bl_status s = write_srec_record(w, 0, 0, (const uint8_t *)title,
                                    length < BL_RECORD_DATA ? length : BL_RECORD_DATA);
    for (size_t i = 0; i < bl_image_pieces(image) && s == BL_OK; i++) {
        bl_piece p = bl_image_piece(image, i);
        for (size_t done = 0; done < p.count && s == BL_OK; done += BL_RECORD_DATA, records++) {
            size_t n = p.count - done < BL_RECORD_DATA ? p.count - done : BL_RECORD_DATA;
            s = write_srec_record(w, type, p.first + (uint32_t)done, p.bytes + done, n);
        }
    }
    if (s == BL_OK && records <= 0xFFFFFFu)
        s = write_srec_record(w, records > 0xFFFFu ? 6 : 5, records, NULL, 0);
    bl_image_entry(image, &entry);
    return s == BL_OK ? write_srec_record(w, 10 - type, entry, NULL, 0) : s;
}

/* format.c - the small printf. */
#include "stream.h"

typedef struct spec {
    char conversion;
    char pad;
    unsigned longs;
    size_t width;
    size_t precision; /* SIZE_MAX when there is none */
} spec;

static void put_padded(bl_room *o, const char *text, size_t length, const spec *s)
{
    for (size_t i = length; i < s->width; i++)
        bl_room_put(o, s->pad);
    for (size_t i = 0; i < length; i++)
        bl_room_put(o, text[i]);
}

static void put_unsigned(bl_room *o, unsigned long long value, bool negative, const spec *s)
{
    char digits[24];
    size_t at = sizeof digits;
    const char *alphabet = s->conversion == 'X' ? "0123456789ABCDEF" : "0123456789abcdef";
    unsigned base = s->conversion == 'x' || s->conversion == 'X' ? 16 : 10;
    do {
        digits[--at] = alphabet[value % base];
        value /= base;
    } while (value != 0);
    if (negative) digits[--at] = '-';
    put_padded(o, digits + at, sizeof digits - at, s);
}

static void put_signed(bl_room *o, long long value, const spec *s)
{
    bool negative = value < 0;
    unsigned long long magnitude = (unsigned long long)value;
    put_unsigned(o, negative ? 0 - magnitude : magnitude, negative, s);
}

static void put_text(bl_room *o, const char *text, const spec *s)
{
    size_t n = 0;
    while (n < s->precision && text[n] != '\0')
        n++;
    spec blanks = *s;
    blanks.pad = ' ';
    put_padded(o, text, n, &blanks);
}

/* A star takes an int from the arguments; a negative one counts as absent. */
#define READ_COUNT(f, list, into, absent)                                                          \
    do {                                                                                           \
        if (*(f) == '*') {                                                                         \
            int star_ = va_arg(list, int);                                                         \
            (into) = star_ < 0 ? (absent) : (size_t)star_;                                         \
            (f)++;                                                                                 \
        } else {                                                                                   \
            (into) = 0;                                                                            \
            while (bl_is_digit(*(f)))                                                              \
                (into) = (into)*10 + (size_t)(*(f)++ - '0');                                       \
        }                                                                                          \
    } while (0)

/* A small printf of our own: the core has no stdio. */
size_t bl_format_list(char *buffer, size_t capacity, const char *f, va_list list)
{
    bl_room o = {buffer, capacity, 0};
    while (*f != '\0') {
        if (*f != '%') {
            bl_room_put(&o, *f++);
            continue;
        }
        spec s = {0, ' ', 0, 0, SIZE_MAX};
        f++;
        if (*f == '0') s.pad = '0', f++;
        READ_COUNT(f, list, s.width, 0);
        if (*f == '.') {
            f++;
            READ_COUNT(f, list, s.precision, SIZE_MAX);
        }
        while (*f == 'l')
            s.longs++, f++;
        s.conversion = *f;
        if (*f != '\0') f++;
        switch (s.conversion) {
        case 's': put_text(&o, va_arg(list, const char *), &s); break;
        case 'c': bl_room_put(&o, (char)va_arg(list, int)); break;
        case 'd':
            put_signed(&o,
                       s.longs == 0   ? va_arg(list, int)
                       : s.longs == 1 ? va_arg(list, long)
                                      : va_arg(list, long long),
                       &s);
            break;
        case 'u':
        case 'x':
        case 'X':
            put_unsigned(&o,
                         s.longs == 0   ? va_arg(list, unsigned)
                         : s.longs == 1 ? va_arg(list, unsigned long)
                                        : va_arg(list, unsigned long long),
                         false, &s);
            break;
        default: bl_room_put(&o, s.conversion); break;
        }
    }
    bl_room_end(&o);
    return o.length;
}

size_t bl_format(char *buffer, size_t capacity, const char *format, ...)
{
    va_list list;
    va_start(list, format);
    size_t n = bl_format_list(buffer, capacity, format, list);
    va_end(list);
    return n;
}

bl_status bl_print(const bl_writer *writer, const char *format, ...)
{
    char buffer[1024];
    va_list list;
    va_start(list, format);
    size_t n = bl_format_list(buffer, sizeof buffer, format, list);
    va_end(list);
    return writer->write(writer->context, buffer, n < sizeof buffer ? n : sizeof buffer - 1);
}

const char *bl_address_text(char *buffer, uint32_t address, unsigned bits, bl_radix radix)
{
    if (radix == BL_HEX) {
        bl_format(buffer, 16, "$%0*lX", (int)((bits + 3) / 4), (unsigned long)address);
        return buffer;
    }
    unsigned digits = (bits + 2) / 3;
    buffer[0] = '0';
    buffer[1] = 'o';
    for (unsigned i = 0; i < digits; i++)
        buffer[2 + i] = (char)('0' + (int)((address >> (3 * (digits - 1 - i))) & 7));
    buffer[2 + digits] = '\0';
    return buffer;
}

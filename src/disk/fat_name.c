/* fat_name.c - names of 8.3 and long names, to text and back. */
#include "fat_volume.h"

/* What bytes from 128 on are in names: code page 437, as Unicode. */
static const uint16_t page_437[128] = {
    0x00C7, 0x00FC, 0x00E9, 0x00E2, 0x00E4, 0x00E0, 0x00E5, 0x00E7, 0x00EA, 0x00EB, 0x00E8, 0x00EF,
    0x00EE, 0x00EC, 0x00C4, 0x00C5, 0x00C9, 0x00E6, 0x00C6, 0x00F4, 0x00F6, 0x00F2, 0x00FB, 0x00F9,
    0x00FF, 0x00D6, 0x00DC, 0x00A2, 0x00A3, 0x00A5, 0x20A7, 0x0192, 0x00E1, 0x00ED, 0x00F3, 0x00FA,
    0x00F1, 0x00D1, 0x00AA, 0x00BA, 0x00BF, 0x2310, 0x00AC, 0x00BD, 0x00BC, 0x00A1, 0x00AB, 0x00BB,
    0x2591, 0x2592, 0x2593, 0x2502, 0x2524, 0x2561, 0x2562, 0x2556, 0x2555, 0x2563, 0x2551, 0x2557,
    0x255D, 0x255C, 0x255B, 0x2510, 0x2514, 0x2534, 0x252C, 0x251C, 0x2500, 0x253C, 0x255E, 0x255F,
    0x255A, 0x2554, 0x2569, 0x2566, 0x2560, 0x2550, 0x256C, 0x2567, 0x2568, 0x2564, 0x2565, 0x2559,
    0x2558, 0x2552, 0x2553, 0x256B, 0x256A, 0x2518, 0x250C, 0x2588, 0x2584, 0x258C, 0x2590, 0x2580,
    0x03B1, 0x00DF, 0x0393, 0x03C0, 0x03A3, 0x03C3, 0x00B5, 0x03C4, 0x03A6, 0x0398, 0x03A9, 0x03B4,
    0x221E, 0x03C6, 0x03B5, 0x2229, 0x2261, 0x00B1, 0x2265, 0x2264, 0x2320, 0x2321, 0x00F7, 0x2248,
    0x00B0, 0x2219, 0x00B7, 0x221A, 0x207F, 0x00B2, 0x25A0, 0x00A0,
};

enum { LOWER_NAME = 0x08, LOWER_TYPE = 0x10 }; /* in byte 12 */

/* A code point as UTF-8; returns how many bytes, at most 4. */
static size_t put_code_point(char *text, uint32_t code)
{
    if (code < 0x80) {
        text[0] = (char)code;
        return 1;
    }
    size_t more = code < 0x800 ? 1 : code < 0x10000 ? 2 : 3;
    static const uint8_t leads[] = {0, 0xC0, 0xE0, 0xF0};
    text[0] = (char)(leads[more] | code >> 6 * more);
    for (size_t i = 1; i <= more; i++)
        text[i] = (char)(0x80 | (code >> 6 * (more - i) & 0x3F));
    return more + 1;
}

static size_t put_name_bytes(char *text, const uint8_t *name, size_t count, bool lower)
{
    size_t n = 0;
    while (count > 0 && name[count - 1] == ' ')
        count--;
    for (size_t i = 0; i < count; i++) {
        uint8_t byte = name[i];
        if (lower && byte >= 'A' && byte <= 'Z') byte = (uint8_t)(byte + 32);
        n += put_code_point(text + n, byte < 128 ? byte : page_437[byte - 128]);
    }
    return n;
}

/* In the first byte $05 stands for $E5, which means that the entry is deleted. */
static void real_name(const uint8_t raw[FAT_ENTRY], uint8_t name[11])
{
    memcpy(name, raw, 11);
    if (name[0] == 0x05) name[0] = FAT_DELETED;
}

void bl_fat_name_text(const uint8_t raw[FAT_ENTRY], char *text)
{
    uint8_t name[11];
    real_name(raw, name);
    size_t n = put_name_bytes(text, name, 8, (raw[12] & LOWER_NAME) != 0);
    text[n] = '.';
    size_t type = put_name_bytes(text + n + 1, name + 8, 3, (raw[12] & LOWER_TYPE) != 0);
    text[type == 0 ? n : n + 1 + type] = '\0';
}

void bl_fat_name_ascii(const uint8_t raw[FAT_ENTRY], char text[16])
{
    uint8_t plain[FAT_ENTRY];
    memcpy(plain, raw, FAT_ENTRY);
    for (size_t i = 0; i < 11; i++)
        if (plain[i] < ' ' || plain[i] > '~') plain[i] = '?';
    plain[12] = 0;
    bl_fat_name_text(plain, text);
}

void bl_fat_label_text(const uint8_t raw[FAT_ENTRY], char *text)
{
    uint8_t name[11];
    real_name(raw, name);
    text[put_name_bytes(text, name, 11, false)] = '\0';
}

uint8_t bl_fat_name_sum(const uint8_t name[11])
{
    unsigned sum = 0;
    for (size_t i = 0; i < 11; i++)
        sum = (((sum & 1) << 7 | sum >> 1) + name[i]) & 0xFF;
    return (uint8_t)sum;
}

bool bl_fat_name_valid(const uint8_t name[11])
{
    if (name[0] == ' ') return false;
    for (size_t i = 0; i < 11; i++) {
        bool padding = name[i] == ' '; /* other programs also let blanks stand inside */
        if (!padding && name[i] < 128 && !bl_short_name_has(name[i]) && !(i == 0 && name[i] == 5))
            return false;
    }
    return true;
}

void bl_fat_long_text(const uint16_t *units, size_t count, char *text)
{
    size_t n = 0;
    for (size_t i = 0; i < count; i++) {
        uint32_t code = units[i];
        bool high = code >= 0xD800 && code < 0xDC00;
        if (high && i + 1 < count && units[i + 1] >= 0xDC00 && units[i + 1] < 0xE000)
            code = 0x10000 + ((code & 0x3FF) << 10 | (units[++i] & 0x3FFu));
        else if (code >= 0xD800 && code < 0xE000)
            code = 0xFFFD;
        n += put_code_point(text + n, code);
    }
    text[n] = '\0';
}

bool bl_fat_same_name(const char *a, const char *b, size_t count)
{
    return bl_text_same_nocase(bl_text_of(a), (bl_text){b, count});
}

bool bl_fat_label_make(bl_text text, char label[12])
{
    if (text.length > 11) return false;
    for (size_t i = 0; i < text.length; i++) {
        char c = bl_upper(text.at[i]);
        if (c != ' ' && !bl_short_name_has((uint8_t)c)) return false;
        if (i == 0 && c == ' ') return false;
        label[i] = c;
    }
    label[text.length] = '\0';
    return true;
}

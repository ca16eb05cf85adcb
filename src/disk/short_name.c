/* short_name.c - the 8.3 name that a file gets on a small machine's disk. */
#include "bootlace/crc.h"
#include "disk_kind.h"

bool bl_short_name_has(uint8_t c)
{
    if (c >= 'A' && c <= 'Z') return true;
    if (c >= '0' && c <= '9') return true;
    for (const char *s = "!#$%&'()-@^_`{}~"; *s != '\0'; s++)
        if ((uint8_t)*s == c) return true;
    return false;
}

/* Fits this part as it is? */
static bool part_fits(bl_text part, size_t most)
{
    if (part.length > most) return false;
    for (size_t i = 0; i < part.length; i++)
        if (!bl_short_name_has((uint8_t)bl_upper(part.at[i]))) return false;
    return true;
}

/* Copies at most so many characters, each made into one that can be; returns how many. A character
 * of several bytes becomes one _. */
static size_t squeeze(bl_text part, uint8_t *to, size_t most)
{
    size_t n = 0;
    for (size_t i = 0; i < part.length && n < most; i++) {
        uint8_t c = (uint8_t)bl_upper(part.at[i]);
        if (c == '.' || c == ' ' || (c & 0xC0) == 0x80) continue;
        to[n++] = bl_short_name_has(c) ? c : '_';
    }
    return n;
}

static uint16_t sum_of_name(bl_text name)
{
    uint16_t crc = 0;
    for (size_t i = 0; i < name.length; i++) {
        char c = bl_upper(name.at[i]);
        crc = bl_crc16(crc, &c, 1);
    }
    return crc;
}

/* "LAMP.ASM" of the 11 bytes. */
static void short_name_text(const uint8_t raw[11], char text[13])
{
    size_t n = 0;
    for (size_t i = 0; i < 11; i++) {
        if (i == 8 && raw[8] != ' ') text[n++] = '.';
        if (raw[i] != ' ') text[n++] = (char)raw[i];
    }
    text[n] = '\0';
}

bool bl_disk_short_name(bl_text name, char text[13], uint8_t raw[11], bl_status *status)
{
    uint8_t bytes[11];
    bl_text whole = name, type = {NULL, 0};
    memset(bytes, ' ', 11);
    *status = BL_E_SYNTAX;
    text[0] = '\0';
    bool dots = true; /* nothing else */
    for (size_t i = 0; i < name.length; i++) {
        dots = dots && (name.at[i] == '.' || name.at[i] == ' ');
        if (name.at[i] == '.' && i > 0) whole.length = i;
    }
    if (dots) return false;
    if (whole.length < name.length) {
        type = (bl_text){name.at + whole.length + 1, name.length - whole.length - 1};
        if (type.length == 0) whole = name; /* a dot at the end */
    }
    *status = BL_OK;
    bool fits = whole.length > 0 && part_fits(whole, 8) && part_fits(type, 3);
    size_t count = squeeze(whole, bytes, fits ? 8 : 3);
    squeeze(type, bytes + 8, 3);
    if (!fits) {
        char tail[6];
        bl_format(tail, sizeof tail, "~%04X", sum_of_name(name));
        memcpy(bytes + count, tail, 5);
    }
    if (raw != NULL) memcpy(raw, bytes, 11);
    short_name_text(bytes, text);
    return fits;
}

/* number.c - numbers, characters and ranges as people write them. */
#include "bootlace/number.h"

#include "core.h"

static bool word_char(char c)
{
    return bl_is_digit(c) || bl_is_letter(c);
}

static bl_status digits_value(const char *at, size_t n, unsigned base, int64_t *value)
{
    uint64_t v = 0;
    if (n == 0) return BL_E_SYNTAX;
    for (size_t i = 0; i < n; i++) {
        int d = bl_hex_digit(at[i]);
        if (d < 0 || (unsigned)d >= base) return BL_E_SYNTAX;
        /* Up to 15 digits fit in any base; a division for each would be the most of the work. */
        if (i >= 15 && v > (UINT64_MAX - (unsigned)d) / base) return BL_E_RANGE;
        v = v * base + (unsigned)d;
    }
    *value = (int64_t)v;
    return BL_OK;
}

static bool all_hex(const char *at, size_t n)
{
    for (size_t i = 0; i < n; i++)
        if (bl_hex_digit(at[i]) < 0) return false;
    return n > 0;
}

/* A run of letters and digits that begins with a digit: a prefix or a suffix names the base. */
static bl_status word_number(const char *at, size_t n, int64_t *value)
{
    char last = bl_upper(at[n - 1]), second = n > 1 ? bl_upper(at[1]) : '\0';
    if (last == 'H' && all_hex(at, n - 1)) return digits_value(at, n - 1, 16, value);
    if (at[0] == '0' && second == 'X') return digits_value(at + 2, n - 2, 16, value);
    if (at[0] == '0' && second == 'B') return digits_value(at + 2, n - 2, 2, value);
    if (at[0] == '0' && second == 'O') return digits_value(at + 2, n - 2, 8, value);
    if (last == 'Q') return digits_value(at, n - 1, 8, value);
    return digits_value(at, n, 10, value);
}

static bl_status character_number(bl_text text, size_t *used, int64_t *value)
{
    uint8_t code = 0;
    size_t n = 0;
    bl_text rest = {text.at + 1, text.length - 1};
    bl_status status = bl_character_scan(rest, &n, &code);
    *used = 1 + n;
    if (status != BL_OK || text.length <= 1 + n || text.at[1 + n] != '\'') return BL_E_SYNTAX;
    *used = n + 2;
    *value = code;
    return BL_OK;
}

bl_status bl_number_scan(bl_text text, size_t *used, int64_t *value)
{
    *used = 0;
    if (text.length == 0) return BL_E_SYNTAX;
    char c = text.at[0];
    if (c == '\'') return character_number(text, used, value);
    size_t n = 1;
    while (n < text.length && word_char(text.at[n]))
        n++;
    if (c == '$' || c == '%') {
        if (n == 1) return BL_E_SYNTAX;
        *used = n;
        return digits_value(text.at + 1, n - 1, c == '$' ? 16 : 2, value);
    }
    if (!bl_is_digit(c)) return BL_E_SYNTAX;
    *used = n;
    return word_number(text.at, n, value);
}

bl_status bl_number_parse(bl_text text, uint32_t limit, uint32_t *value)
{
    size_t used = 0;
    int64_t v = 0;
    text = bl_text_trim(text);
    bl_status status = bl_number_scan(text, &used, &v);
    if (status != BL_OK) return status;
    if (used != text.length) return BL_E_SYNTAX;
    if ((uint64_t)v > limit) return BL_E_RANGE;
    *value = (uint32_t)v;
    return BL_OK;
}

bl_status bl_number_parse_signed(bl_text text, int64_t *value)
{
    size_t used = 0;
    bool negative = text.length > 0 && text.at[0] == '-';
    if (negative) text.at++, text.length--;
    bl_status status = bl_number_scan(text, &used, value);
    if (status != BL_OK) return status;
    if (used != text.length) return BL_E_SYNTAX;
    if (negative) *value = (int64_t)(0 - (uint64_t)*value);
    return BL_OK;
}

/* "FIRST..LAST" and "FIRST+COUNT"; the sums are in 64 bits, so that the last byte of 4 GiB can be
 * named. */
bl_status bl_range_parse(bl_text text, bl_range *range)
{
    uint32_t first = 0, second = 0;
    size_t used = 0;
    int64_t v = 0;
    text = bl_text_trim(text);
    bl_status status = bl_number_scan(text, &used, &v);
    if (status != BL_OK) return status;
    if ((uint64_t)v > UINT32_MAX) return BL_E_RANGE;
    first = (uint32_t)v;
    bl_text rest = bl_text_trim((bl_text){text.at + used, text.length - used});
    if (rest.length == 0) {
        *range = (bl_range){first, 1};
        return BL_OK;
    }
    bool to = rest.length > 2 && rest.at[0] == '.' && rest.at[1] == '.';
    if (!to && rest.at[0] != '+') return BL_E_SYNTAX;
    size_t skip = to ? 2 : 1;
    status = bl_number_parse((bl_text){rest.at + skip, rest.length - skip}, UINT32_MAX, &second);
    if (status != BL_OK) return status;
    if (to && second < first) return BL_E_RANGE;
    uint64_t count = to ? (uint64_t)second - first + 1 : second;
    if (count == 0 || first + count > (uint64_t)UINT32_MAX + 1) return BL_E_RANGE;
    *range = (bl_range){first, count};
    return BL_OK;
}

/* The escapes of .text, of dialogues and of character constants are the same. */
bl_status bl_character_scan(bl_text text, size_t *used, uint8_t *code)
{
    static const char letters[] = "nrt0e\\'\"";
    static const uint8_t codes[] = {10, 13, 9, 0, 27, '\\', '\'', '"'};
    *used = 0;
    if (text.length == 0) return BL_E_SYNTAX;
    *used = 1;
    *code = (uint8_t)text.at[0];
    if (text.at[0] != '\\') return BL_OK;
    if (text.length < 2) return BL_E_SYNTAX;
    *used = 2;
    for (size_t i = 0; i < sizeof codes; i++) {
        if (text.at[1] == letters[i]) {
            *code = codes[i];
            return BL_OK;
        }
    }
    if (text.at[1] != 'x' || text.length < 4) return BL_E_SYNTAX;
    int high = bl_hex_digit(text.at[2]), low = bl_hex_digit(text.at[3]);
    if (high < 0 || low < 0) return BL_E_SYNTAX;
    *used = 4;
    *code = (uint8_t)(high * 16 + low);
    return BL_OK;
}

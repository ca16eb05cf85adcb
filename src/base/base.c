/* base.c - status texts, growing arrays, small text helpers. */
#include "core.h"

/* A switch without a default: the compiler tells of a status that has no words. */
const char *bl_status_text(bl_status status)
{
    switch (status) {
    case BL_OK: return "good";
    case BL_E_MEMORY: return "out of memory";
    case BL_E_ARGUMENT: return "wrong use of the library";
    case BL_E_RANGE: return "outside the allowed range";
    case BL_E_SYNTAX: return "not well-formed";
    case BL_E_OVERLAP: return "two sources give the same byte";
    case BL_E_CHECKSUM: return "checksum does not match";
    case BL_E_NOT_FOUND: return "not found";
    case BL_E_IO: return "the device or file failed";
    case BL_E_TIMEOUT: return "nothing answered in time";
    case BL_E_LINE: return "the line damaged every attempt";
    case BL_E_DIFFERS: return "what was read back differs";
    case BL_E_REFUSED: return "the remote refused";
    case BL_E_UNSUPPORTED: return "not possible here";
    case BL_E_BUSY: return "busy";
    case BL_E_NOT_BLANK: return "must be erased first";
    case BL_E_FULL: return "no room for it";
    case BL_E_PROTECTED: return "write protected";
    case BL_E_NOT_READY: return "the drive is not ready";
    case BL_E_DAMAGED: return "what is stored contradicts itself";
    case BL_E_EXISTS: return "there is something of this name";
    case BL_E_SHORT: return "less came than was asked for";
    case BL_E_LONG: return "more came than was asked for";
    case BL_E_CANCELLED: return "cancelled by the remote";
    }
    return "unknown status";
}

size_t bl_length(const char *text)
{
    size_t n = 0;
    while (text[n] != '\0')
        n++;
    return n;
}

bool bl_text_same_nocase(bl_text a, bl_text b)
{
    if (a.length != b.length) return false;
    for (size_t i = 0; i < a.length; i++)
        if (bl_upper(a.at[i]) != bl_upper(b.at[i])) return false;
    return true;
}

bl_text bl_text_trim(bl_text text)
{
    while (text.length > 0 && (bl_is_blank(text.at[0]) || text.at[0] == '\r'))
        text.at++, text.length--;
    while (text.length > 0 &&
           (bl_is_blank(text.at[text.length - 1]) || text.at[text.length - 1] == '\r'))
        text.length--;
    return text;
}

int bl_hex_digit(char c)
{
    if (bl_is_digit(c)) return c - '0';
    c = bl_upper(c);
    return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
}

void *bl_grow(const bl_memory *memory, void *block, size_t *capacity, size_t need, size_t size)
{
    BL_ASSERT(size > 0 && capacity != NULL);
    size_t wanted = *capacity < 8 ? 8 : *capacity + *capacity / 2;
    if (wanted < need) wanted = need;
    if (wanted > SIZE_MAX / size) return NULL;
    void *grown = memory->resize(memory->context, block, wanted * size);
    if (grown != NULL) *capacity = wanted;
    return grown;
}

void bl_release(const bl_memory *memory, void *block)
{
    if (block != NULL) memory->resize(memory->context, block, 0);
}

char *bl_text_copy(const bl_memory *memory, bl_text text)
{
    if (text.length == SIZE_MAX) return NULL;
    char *copy = memory->resize(memory->context, NULL, text.length + 1);
    if (copy == NULL) return NULL;
    if (text.length > 0) memcpy(copy, text.at, text.length);
    copy[text.length] = '\0';
    return copy;
}

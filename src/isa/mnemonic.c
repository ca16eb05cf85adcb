/* mnemonic.c - mnemonics and reserved names: small names packed into numbers. */
#include "sheet_parts.h"

/* Six bits a character, letters in either case, digits, '.' and '_'; 0 for all others. */
static const uint8_t packed[128] = {
    /* clang-format off */
    0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0,
    0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0,
    0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 37, 0,
    27, 28, 29, 30, 31, 32, 33, 34, 35, 36, 0, 0, 0, 0, 0, 0,
    0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15,
    16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 0, 0, 0, 0, 38,
    0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15,
    16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 0, 0, 0, 0, 0,
    /* clang-format on */
};

uint64_t sheet_key(bl_text name)
{
    uint64_t key = 0;
    if (name.length > BL_MNEMONIC_MAX) return 0;
    for (size_t i = 0; i < name.length; i++) {
        unsigned char c = (unsigned char)name.at[i];
        if (c >= 128 || packed[c] == 0) return 0;
        key = key << 6 | packed[c];
    }
    return key;
}

uint16_t *sheet_table(const bl_sheet *s, size_t items, size_t *slots)
{
    *slots = 64;
    while (*slots < items * 2)
        *slots *= 2;
    uint16_t *t = s->memory.resize(s->memory.context, NULL, *slots * sizeof *t);
    if (t != NULL) memset(t, 0, *slots * sizeof *t);
    return t;
}

static size_t slot_of_mnemonic(const bl_sheet *s, uint64_t key)
{
    size_t slot = sheet_spread(key, s->mnemonic_slots);
    while (s->mnemonic_table[slot] != 0 && s->mnemonics[s->mnemonic_table[slot] - 1].key != key)
        slot = (slot + 1) & (s->mnemonic_slots - 1);
    return slot;
}

static bl_status grow_mnemonics(bl_sheet *s)
{
    size_t slots;
    uint16_t *t = sheet_table(s, s->mnemonic_count + 128, &slots);
    if (t == NULL) return BL_E_MEMORY;
    bl_release(&s->memory, s->mnemonic_table);
    s->mnemonic_table = t;
    s->mnemonic_slots = slots;
    for (size_t i = 0; i < s->mnemonic_count; i++)
        t[slot_of_mnemonic(s, s->mnemonics[i].key)] = (uint16_t)(i + 1);
    return BL_OK;
}

bl_status sheet_mnemonic_of(bl_sheet *s, bl_text name, uint16_t *index)
{
    uint64_t key = sheet_key(name);
    if (key == 0) return BL_E_RANGE;
    if ((s->mnemonic_count + 1) * 2 > s->mnemonic_slots && grow_mnemonics(s) != BL_OK)
        return BL_E_MEMORY;
    size_t slot = slot_of_mnemonic(s, key);
    if (s->mnemonic_table[slot] == 0) {
        sheet_mnemonic *m = bl_grown(&s->memory, s->mnemonics, &s->mnemonic_capacity,
                                     s->mnemonic_count + 1, sizeof *m);
        if (m == NULL) return BL_E_MEMORY;
        if (s->mnemonic_count == BL_NO_FORM - 1) return BL_E_RANGE;
        s->mnemonics = m;
        m[s->mnemonic_count++] = (sheet_mnemonic){key, name};
        s->mnemonic_table[slot] = (uint16_t)s->mnemonic_count;
    }
    *index = (uint16_t)(s->mnemonic_table[slot] - 1u);
    return BL_OK;
}

bl_status sheet_mnemonics_moved(bl_sheet *s, size_t count)
{
    s->mnemonic_count = count;
    return grow_mnemonics(s);
}

int32_t bl_sheet_find_mnemonic(const bl_sheet *s, bl_text name)
{
    uint64_t key = sheet_key(name);
    if (key == 0 || s->mnemonic_slots == 0) return -1;
    return (int32_t)s->mnemonic_table[slot_of_mnemonic(s, key)] - 1;
}

static size_t reserved_slot(const bl_sheet *s, uint64_t key)
{
    size_t slot = sheet_spread(key, SHEET_RESERVED_SLOTS);
    while (s->reserved[slot] != 0 && s->reserved[slot] != key)
        slot = (slot + 1) & (SHEET_RESERVED_SLOTS - 1);
    return slot;
}

bl_status sheet_reserve(bl_sheet *s, bl_text name)
{
    uint64_t key = sheet_key(name);
    if (key == 0 || s->reserved_count == SHEET_RESERVED_SLOTS / 2) return BL_E_RANGE;
    size_t slot = reserved_slot(s, key);
    s->reserved_count += s->reserved[slot] == 0;
    s->reserved[slot] = key;
    if (name.length > s->reserved_longest) s->reserved_longest = name.length;
    return BL_OK;
}

bool bl_sheet_is_reserved(const bl_sheet *s, bl_text name)
{
    if (name.length > s->reserved_longest) return false;
    uint64_t key = sheet_key(name);
    return key != 0 && s->reserved[reserved_slot(s, key)] == key;
}

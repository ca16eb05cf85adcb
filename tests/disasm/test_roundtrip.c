/* What the disassembler writes assembles to the very same bytes: for every sheet, for all codes,
 * and for memory that holds anything. */
#include "harness.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static char *text;
static size_t length, capacity;

static bl_status gather(void *context, const void *bytes, size_t count)
{
    (void)context;
    if (length + count + 1 > capacity) text = realloc(text, capacity = (length + count) * 2 + 1);
    memcpy(text + length, bytes, count);
    text[length += count] = '\0';
    return BL_OK;
}
static const bl_writer into_text = {NULL, gather};

__attribute__((destructor)) static void release_text(void)
{
    free(text);
}

static void fail_at(const bl_sheet *sheet, const bl_image *found, const bl_image *expected)
{
    bl_text cpu = bl_sheet_name(sheet);
    for (size_t i = 0; i < bl_image_pieces(expected); i++) {
        bl_piece p = bl_image_piece(expected, i);
        for (size_t k = 0; k < p.count; k++) {
            uint8_t byte = 0;
            bool there = bl_image_get(found, p.first + (uint32_t)k, &byte);
            if (there && byte == p.bytes[k]) continue;
            char place[16];
            /* the line that begins at most a few bytes before */
            const char *line = NULL;
            for (unsigned back = 0; back < 6 && line == NULL; back++) {
                snprintf(place, sizeof place, "; %04X ", (p.first + (unsigned)k - back) & 0xFFFF);
                line = strstr(text, place);
            }
            while (line != NULL && line > text && line[-1] != '\n')
                line--;
            test_fail(__FILE__, __LINE__, "%.*s: %04X is %02X, was %02X:\n%.70s", (int)cpu.length,
                      cpu.at, p.first + (unsigned)k, there ? byte : 0, p.bytes[k],
                      line != NULL ? line : "?");
        }
    }
    test_fail(__FILE__, __LINE__, "%.*s: there are other bytes", (int)cpu.length, cpu.at);
}

/* Disassembles, assembles, compares. Returns how many instructions there were. */
static uint32_t round_trip(const bl_sheet *sheet, bl_image *image, const bl_disasm_options *given)
{
    bl_disasm_options o = *given;
    bl_disasm_counts counts;
    bl_program *program = NULL;
    o.memory = test_memory;
    o.sheet = sheet;
    o.image = image;
    length = 0;
    CHECK_INT(bl_disassemble(&o, &counts, &into_text), BL_OK);
    bl_asm_options a = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    test_messages_clear();
    if (bl_assemble_text(&a, "d.asm", (bl_text){text, length}, &program) != BL_OK) {
        char part[600];
        snprintf(part, sizeof part, "%s", test_messages());
        test_fail(__FILE__, __LINE__, "%.*s: %s", (int)bl_sheet_name(sheet).length,
                  bl_sheet_name(sheet).at, part);
    }
    bl_image *again = bl_program_image(program);
    bool same = bl_image_size(again) == bl_image_size(image);
    for (size_t i = 0; i < bl_image_pieces(image) && same; i++) {
        bl_piece p = bl_image_piece(image, i);
        uint8_t *found = malloc(p.count);
        same = bl_image_copy(again, p.first, p.count, 0, found) == p.count &&
               memcmp(found, p.bytes, p.count) == 0;
        free(found);
    }
    if (!same) fail_at(sheet, again, image);
    bl_program_close(program);
    return counts.instructions;
}

static bl_sheet *open_shipped(size_t i)
{
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, bl_sheet_shipped_name(i), &test_sink, &sheet), BL_OK);
    return sheet;
}

static void put_unit(const bl_sheet *sheet, uint8_t *bytes, size_t at, unsigned value)
{
    unsigned bits = bl_sheet_unit_bits(sheet);
    value &= (1u << bits) - 1;
    if (bits <= 8) {
        bytes[at] = (uint8_t)value;
        return;
    }
    bool big = bl_sheet_order(sheet) == BL_BIG;
    bytes[at * 2 + !big] = (uint8_t)(value >> 8);
    bytes[at * 2 + big] = (uint8_t)value;
}

static bl_image *image_of(const bl_sheet *sheet, uint32_t at, const uint8_t *bytes, size_t units)
{
    bl_image *image = NULL;
    unsigned wide = bl_sheet_unit_bytes(sheet);
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    CHECK_INT(bl_image_put(image, at * wide, bytes, units * wide, (bl_origin){0, 0}), BL_OK);
    return image;
}

TEST(every_code_of_every_sheet)
{
    enum { LIMIT = 600000 };
    static const uint16_t tails[] = {0x00, 0x7F, 0x80, 0xFE, 0x12};
    uint8_t *bytes = calloc(LIMIT, 1);
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        bl_sheet *sheet = open_shipped(i);
        unsigned ways = 1u << bl_sheet_unit_bits(sheet), deep = ways > 256 ? 1 : 256;
        size_t n = 0;
        uint32_t instructions = 0;
        /* All pairs of first codes, with several things behind them. */
        for (unsigned first = 0; first < ways && bl_sheet_forms(sheet) > 0; first++) {
            for (unsigned second = 0; second < deep; second++) {
                uint16_t units[BL_FORM_UNITS] = {(uint16_t)first, (uint16_t)second};
                uint16_t tail = tails[(first + second) % 5];
                bl_decoded d;
                for (size_t k = 2; k < BL_FORM_UNITS; k++)
                    units[k] = (uint16_t)(tail + k * 0x11);
                if (!bl_sheet_decode(sheet, units, BL_FORM_UNITS, &d)) continue;
                /* Forms of one unit come up once. */
                if (d.form->size == 1 && second > 0) break;
                for (uint8_t k = 0; k < d.form->size && n < LIMIT / 2; k++)
                    put_unit(sheet, bytes, n++, units[k]);
                instructions++;
            }
        }
        bl_disasm_options o = {.all_code = true};
        if (n > 0) {
            bl_image *image = image_of(sheet, 0x20, bytes, n);
            CHECK_INT(round_trip(sheet, image, &o), instructions);
            bl_image_close(image);
        }
        bl_sheet_close(sheet);
    }
    free(bytes);
}

TEST(random_memory_as_code_for_every_sheet)
{
    enum { SIZE = 4000 };
    static uint8_t bytes[SIZE * 2];
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        bl_sheet *sheet = open_shipped(i);
        for (unsigned round = 0; round < 6; round++) {
            uint32_t at = round == 0 ? 0 : test_below(0xE000);
            if (bl_sheet_address_bits(sheet) < 16) at = test_below(4096 - SIZE);
            for (size_t k = 0; k < SIZE; k++)
                put_unit(sheet, bytes, k, test_random());
            bl_image *image = image_of(sheet, at, bytes, SIZE);
            bl_disasm_options o = {.all_code = true, .direct = round == 3 ? (at + 600) >> 8 : 0};
            round_trip(sheet, image, &o);
            bl_image_close(image);
        }
        bl_sheet_close(sheet);
    }
}

TEST(random_memory_followed_from_anywhere)
{
    enum { SIZE = 1500, NAMES = 30 };
    static uint8_t bytes[SIZE * 2];
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        bl_sheet *sheet = open_shipped(i);
        for (unsigned round = 0; round < 30; round++) {
            char texts[NAMES][12];
            bl_disasm_name names[NAMES];
            uint32_t entries[5], at = test_below(2000);
            for (size_t k = 0; k < SIZE; k++)
                put_unit(sheet, bytes, k,
                         test_below(3) == 0 ? test_random() : 0x20 + (unsigned)k % 90);
            for (size_t k = 0; k < 5; k++)
                entries[k] = at + test_below(SIZE + 100);
            for (size_t k = 0; k < NAMES; k++)
                names[k] = (bl_disasm_name){
                    {texts[k], (size_t)sprintf(texts[k], "name%u", (unsigned)k)}, test_below(4000)};
            /* two pieces, with vectors among them where the CPU has some */
            bl_image *image = image_of(sheet, at, bytes, SIZE);
            bl_disasm_options o = {
                .entries = entries, .entry_count = 5, .names = names, .name_count = NAMES};
            if (bl_sheet_address_bits(sheet) == 16 && bl_sheet_unit_bits(sheet) == 8)
                CHECK_INT(bl_image_put(image, 0xFFE0, bytes + 700, 32, (bl_origin){0, 0}), BL_OK);
            if (round % 3 == 0) bl_image_set_entry(image, (at + 40) * bl_sheet_unit_bytes(sheet));
            round_trip(sheet, image, &o);
            bl_image_close(image);
        }
        bl_sheet_close(sheet);
    }
}

TEST(every_allocation_may_fail)
{
    static const uint8_t bytes[] = {0x20, 0x06, 0x00, 0x4C, 0x00, 0x00, 0xA9, 0x41, 0x60};
    bl_sheet *sheet = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){"6502", 4}, NULL, &sheet), BL_OK);
    bl_image *image = image_of(sheet, 0, bytes, sizeof bytes);
    static const bl_disasm_name name = {{"put", 3}, 6};
    static const uint32_t entry = 0;
    for (long nth = 1;; nth++) {
        bl_disasm_options o = {.memory = test_memory,
                               .sheet = sheet,
                               .image = image,
                               .entries = &entry,
                               .entry_count = 1,
                               .names = &name,
                               .name_count = 1};
        length = 0;
        test_memory_fail_at(nth);
        bl_status status = bl_disassemble(&o, NULL, &into_text);
        if (!test_memory_failed()) {
            CHECK_INT(status, BL_OK);
            break;
        }
        CHECK_INT(status, BL_E_MEMORY);
    }
    test_memory_fail_at(0);
    bl_image_close(image);
    bl_sheet_close(sheet);
}

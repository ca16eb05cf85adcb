/* Labels, places, data, forms: what the source language does. */
#include "asm_support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

TEST(labels_in_every_position)
{
    expect("start\n nop\nnext: nop\n  here2: nop\nboth: again: nop\nnop\n .word start, next, "
           "here2, both, again\n",
           0, "\xEA\xEA\xEA\xEA\xEA\x00\x00\x01\x00\x02\x00\x03\x00\x03\x00", 15);
}

TEST(local_labels_belong_to_the_label_above)
{
    expect("one: _a: nop\n bra _a\ntwo: nop\n_a: bra _a\n .byte lo(one._a), lo(two._a)\n", 0,
           "\xEA\x80\xFD\xEA\x80\xFE\x00\x04", 8);
    refuse("_a: nop\n", "no label stands above '_a'", NULL);
    refuse("one: nop\n bra _b\n", "undefined name 'one._b'", NULL);
}

TEST(symbols_are_case_sensitive_and_mnemonics_not)
{
    expect("Lamp: LDA #1\nlamp: lda #2\n .byte lo(Lamp), lo(lamp)\n", 0, "\xA9\x01\xA9\x02\x00\x02",
           6);
}

TEST(data_directives)
{
    expect(" .byte 1, -1, 255, 'A', \"BC\\n\", -128\n", 0, "\x01\xFF\xFF\x41\x42\x43\x0A\x80", 8);
    expect(" .word $1234, -2\n .triple $123456\n .long $12345678\n", 0,
           "\x34\x12\xFE\xFF\x56\x34\x12\x78\x56\x34\x12", 11);
    expect(" .fill 3, $AA\n .fill 2\n", 0, "\xAA\xAA\xAA\x00\x00", 5);
    expect(" .text \"Fog\" ending 0\n .text \"Fog\", 13 counted\n .text \"Fog\" marked\n", 0,
           "Fog\0\x04"
           "Fog\r"
           "Fo\xE7",
           12);
    expect(" .BYTE 1\n", 0, "\x01", 1);
}

TEST(a_list_of_any_length)
{
    enum { COUNT = 70000 };
    char *source = malloc(COUNT * 2 + 20), *p = source;
    bl_program *program;
    p += sprintf(p, " .byte 1");
    for (unsigned i = 1; i < COUNT; i++)
        p += sprintf(p, ",%u", i % 10);
    strcpy(p, "\nafter:\n");
    program = assemble(source);
    int64_t after = 0;
    CHECK_INT(bl_program_value(program, (bl_text){"after", 5}, &after), BL_OK);
    CHECK_INT(after, COUNT);
    uint8_t byte = 0;
    CHECK(bl_image_get(bl_program_image(program), COUNT - 1, &byte));
    CHECK_INT(byte, (COUNT - 1) % 10);
    CHECK_INT(bl_image_origin(bl_program_image(program), COUNT - 1).line, 1);
    CHECK_INT(bl_image_origin(bl_program_image(program), 0).line, 1);
    bl_program_close(program);
    free(source);
}

TEST(data_out_of_range)
{
    refuse(" .byte 256\n", "t.asm:1:8: error: 256 does not fit into 1 byte: -128 to 255", NULL);
    refuse(" .byte -129\n", "-129 does not fit", NULL);
    refuse(" .word 65536\n .long $100000000\n", "65536 does not fit into 2 bytes",
           "does not fit into 4 bytes", NULL);
    refuse(" .word \"ab\"\n", "text cannot be a wider number", NULL);
    refuse(" .text \"a\\q\"\n", "t.asm:1:10: error: unknown escape", NULL);
    refuse(" .byte \"abc\n", "this quotation mark is never closed", NULL);
    refuse(" .fill -1\n .fill 99999999\n .fill 1, 256\n", "-1 is outside", "99999999 is outside",
           "256 does not fit", NULL);
}

TEST(places_and_origins)
{
    bl_program *p = assemble(" .place rom\nk: nop\n .place ram\nb: .byte 1\n .place rom\nc: nop\n "
                             ".org $D000\nd: nop\n .place ram\ne: .byte 2\n"
                             " .align 16\nf: .reserve 3\ng: .byte 3\n");
    static const struct {
        const char *name;
        int64_t value;
    } known[] = {{"k", 0xC000}, {"b", 0x300}, {"c", 0xC001}, {"d", 0xD000},
                 {"e", 0x301},  {"f", 0x310}, {"g", 0x313}};
    for (size_t i = 0; i < 7; i++) {
        int64_t value = 0;
        bl_program_value(p, (bl_text){known[i].name, 1}, &value);
        CHECK_INT(value, known[i].value);
    }
    CHECK_INT(bl_image_size(bl_program_image(p)),
              6); /* reserved and aligned space holds no bytes */
    bl_program_close(p);
}

TEST(areas_and_boards_are_known_by_name)
{
    expect(" .word area.rom.first, area.rom.last, area.ram.size\n sta board.lamps.data\n", 0,
           "\x00\xC0\xFF\xFF\x20\x00\x8D\x10\x80", 9);
    refuse(" .place rum\n", "no area is called 'rum'", "areas: zero ram rom", NULL);
    refuse(" sta board.lamp.data\n", "undefined name 'board.lamp.data'", NULL);
}

TEST(an_area_that_runs_over_says_by_how_much)
{
    refuse(" .place ram\n .fill 30, 1\nlast: lda $1234\n nop\n",
           "t.asm:3:7: error: area 'ram' ends at $031F", "area 'ram' has 32 bytes; 2 too many",
           NULL);
}

TEST(the_shortest_form_is_chosen)
{
    expect(" lda $12\n lda $0112\n lda later\n lda early\nlater = $34\nearly = $156\n", 0,
           "\xA5\x12\xAD\x12\x01\xA5\x34\xAD\x56\x01", 10);
    expect(" lda $12,y\n ldx $12,y\n jmp $12\n", 0, "\xB9\x12\x00\xB6\x12\x4C\x12\x00", 8);
}

/* Whatever the layout settles on must be right: each operand names its label, and short where it
 * can be. */
TEST(growing_forms_settle)
{
    enum { LABELS = 60 };
    for (unsigned round = 0; round < 100; round++) {
        static char source[20000];
        size_t n = (size_t)sprintf(source, " .org $%X\n", 0x100 - test_below(200));
        uint32_t target[LABELS];
        for (uint32_t i = 0; i < LABELS; i++) {
            target[i] = test_below(LABELS);
            n += (size_t)sprintf(source + n, "l%u: lda l%u\n", i, target[i]);
        }
        bl_program *p = assemble(source);
        for (uint32_t i = 0; i < LABELS; i++) {
            char name[8];
            int64_t at = 0, to = 0;
            uint8_t b[3];
            bl_program_value(p, (bl_text){name, (size_t)sprintf(name, "l%u", i)}, &at);
            bl_program_value(p, (bl_text){name, (size_t)sprintf(name, "l%u", target[i])}, &to);
            bl_image_copy(bl_program_image(p), (uint32_t)at, 3, 0, b);
            if (b[0] == 0xA5)
                CHECK_INT(b[1], to);
            else
                CHECK(b[0] == 0xAD && (b[1] | b[2] << 8) == to && to > 0xFF);
        }
        bl_program_close(p);
    }
}

TEST(parentheses_mean_indirection_only_around_a_whole_operand)
{
    expect(
        " lda ($12)\n lda ($12),y\n lda ($10+2,x)\n lda (1+2)*3\n jmp ($1234,x)\n lda #(1+2)*3\n",
        0, "\xB2\x12\xB1\x12\xA1\x12\xA5\x09\x7C\x34\x12\xA9\x09", 13);
}

TEST(branches_reach_exactly_so_far)
{
    expect("k: .reserve 126\n bne k\n", 126, "\xD0\x80", 2);
    expect(" bne k\n .reserve 127\nk:\n", 0, "\xD0\x7F", 2);
    refuse("k: .reserve 127\n bne k\n",
           "the target is 1 byte too far: -129 away, reach is -128 to +127", NULL);
    refuse(" bne k\n .reserve 130\nk:\n", "t.asm:1:6: error: the target is 3 bytes too far",
           "JMP reaches everywhere", NULL);
    expect(" bbr3 $12,k\nk: bbs7 $34,k\n", 0, "\x3F\x12\x00\xFF\x34\xFD", 6);
}

TEST(entry_and_vectors)
{
    bl_program *p = assemble(
        " .place rom\nstart: nop\n .entry start\n .vector reset, start\n .vector NMI, start+1\n");
    uint32_t entry = 0;
    uint8_t b[6];
    CHECK(bl_image_entry(bl_program_image(p), &entry));
    CHECK_INT(entry, 0xC000);
    CHECK_INT(bl_image_copy(bl_program_image(p), 0xFFFA, 6, 0xEE, b), 4);
    CHECK_BYTES(b, 6, "\x01\xC0\x00\xC0\xEE\xEE", 6);
    bl_program_close(p);
    refuse(" .vector rst, 1\n", "the 65c02 has no vector 'rst'", "vectors: nmi reset irq", NULL);
    refuse(" .entry 1\n .entry 2\n", "given twice", NULL);
    refuse(" .vector reset, $12345\n", "outside", NULL);
}

TEST(assertions)
{
    expect(" .assert 1 < 2, \"fine\"\n nop\n", 0, "\xEA", 1);
    refuse("k: nop\n .assert k == 1, \"k has moved\"\n", "t.asm:2:10: error: k has moved", NULL);
    refuse(" .assert 0\n", "this does not hold", NULL);
}

TEST(overlaps_name_both_places)
{
    refuse(" .org 5\n .byte 1, 2\n .org 6\n .byte 3\n",
           "t.asm:4:2: error: address $0006 is filled twice", "the first is at t.asm:2", NULL);
}

TEST(comments_blank_lines_and_line_ends)
{
    expect("; a comment\r\n\r\n nop ; another\r\n .byte ';', \"; not one\" ; one\r\n\t\tnop\t\n", 0,
           "\xEA;; not one\xEA", 12);
    expect(" nop", 0, "\xEA", 1);
    expect("", 0, "", 0);
}

TEST(a_banked_rom_may_store_beyond_the_cpus_addresses)
{
    expect(" .org $1C000\n .byte 1\n", 0x1C000, "\x01", 1);
    refuse(" .org $1C000\nk: lda k\n", "$0001C000 is not an address of 16 bits: 0 to $FFFF", NULL);
}

TEST(byte_prefixes_before_a_sum_are_questioned)
{
    bl_program *p = assemble("k = $12FF\n lda #>k + 1\n");
    CHECK_CONTAINS(test_messages(), "t.asm:2:7: warning: '>' takes a byte of the next value alone");
    bl_program_close(p);
}

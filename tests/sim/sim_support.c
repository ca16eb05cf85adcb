#include "sim_support.h"

#include <string.h>

void place_form(const bl_sheet *sheet, const bl_form *f, unsigned turn, uint8_t *bytes)
{
    uint16_t units[BL_FORM_UNITS];
    memcpy(units, f->value, sizeof units);
    for (uint8_t i = 0; i < f->fields; i++) {
        const bl_field *d = &f->field[i];
        const bl_operand *o = bl_sheet_operand(sheet, f->operand[d->operand]);
        uint32_t bits = 5;
        if (o->kind == BL_OPERAND_ONEOF)
            bits = bl_sheet_choice(sheet, o->first + turn % o->count)->code;
        bits = bits >> d->from & ((1u << d->bits) - 1);
        units[d->unit] = (uint16_t)(units[d->unit] | bits << d->shift);
    }
    for (uint8_t i = 0; i < f->size; i++)
        bytes[i] = (uint8_t)units[i];
}

unsigned extra_cycles(const bl_sheet *sheet, const bl_form *f)
{
    unsigned sum = 0;
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++)
        if ((f->extras >> i & 1) != 0) sum += bl_sheet_extra(sheet, i)->cycles;
    return sum;
}

void load_program(const char *name, const char *source, uint8_t *memory)
{
    bl_sheet *sheet = NULL;
    bl_program *program = NULL;
    CHECK_INT(bl_sheet_open(&test_memory, (bl_text){name, strlen(name)}, &test_sink, &sheet),
              BL_OK);
    bl_asm_options o = {.memory = test_memory, .sheet = sheet, .sink = &test_sink};
    test_messages_clear();
    if (bl_assemble_text(&o, "t", (bl_text){source, strlen(source)}, &program) != BL_OK)
        test_fail(__FILE__, __LINE__, "%s", test_messages());
    memset(memory, 0, 0x10000);
    bl_image_copy(bl_program_image(program), 0, 0x10000, 0, memory);
    bl_program_close(program);
    bl_sheet_close(sheet);
}

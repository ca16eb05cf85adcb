/* cpus.c - bootlace cpus. */
#include "cli.h"

#include <jansson.h>
#include <string.h>

static const usage words = {"cpus [NAME]",
                            "Lists the CPUs that have a sheet, or shows one sheet as a table.",
                            "  bootlace cpus\n  bootlace cpus 65c02"};

static void form_texts(const bl_sheet *sheet, const bl_form *f, char *code, size_t code_room,
                       char *cycles, size_t cycles_room)
{
    size_t n = 0;
    code[0] = '\0';
    for (uint8_t i = 0; i < f->codes; i++) {
        if (f->code[i].is_slot) {
            bl_text name = bl_sheet_operand(sheet, f->operand[f->code[i].value])->name;
            n += (size_t)g_snprintf(code + n, code_room - n, "%.*s ", (int)name.length, name.at);
        } else {
            n += (size_t)g_snprintf(code + n, code_room - n, "%02X ", f->code[i].value);
        }
    }
    n = (size_t)g_snprintf(cycles, cycles_room, "%u", f->cycles);
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++) {
        if ((f->extras & (uint32_t)1 << i) == 0) continue;
        bl_text name = bl_sheet_extra(sheet, i)->name;
        n += (size_t)g_snprintf(cycles + n, cycles_room - n, " +%.*s", (int)name.length, name.at);
    }
}

/* The forms of one mnemonic together, whichever sheet they come from. */
static const bl_form **by_mnemonic(const bl_sheet *sheet)
{
    size_t count = bl_sheet_forms(sheet), n = 0;
    const bl_form **order = g_new0(const bl_form *, count + 1);
    for (size_t m = 0; m < bl_sheet_mnemonics(sheet); m++)
        for (size_t i = 0; i < count; i++)
            if (bl_sheet_form(sheet, i)->mnemonic == m) order[n++] = bl_sheet_form(sheet, i);
    return order;
}

static void show_sheet(const bl_sheet *sheet)
{
    enum { COLUMNS = 3 };
    size_t count = bl_sheet_forms(sheet), rows = (count + COLUMNS - 1) / COLUMNS;
    bl_text name = bl_sheet_name(sheet), title = bl_sheet_title(sheet);
    const bl_form **order = by_mnemonic(sheet);
    printf("%.*s: %.*s; %zu forms of %zu mnemonics\n\n", (int)name.length, name.at,
           (int)title.length, title.at, count, bl_sheet_mnemonics(sheet));
    for (size_t r = 0; r < rows; r++) {
        for (size_t c = 0; c < COLUMNS && c * rows + r < count; c++) {
            const bl_form *f = order[c * rows + r];
            char code[64], cycles[32];
            form_texts(sheet, f, code, sizeof code, cycles, sizeof cycles);
            printf("%s%-12.*s %-11s %-*s", c > 0 ? "  " : "", (int)f->written.length, f->written.at,
                   code, c + 1 < COLUMNS ? 8 : 0, cycles);
        }
        printf("\n");
    }
    g_free(order);
    printf("\n");
    for (size_t i = 0; i < bl_sheet_operands(sheet); i++) {
        static const char *const kinds[] = {"value", "address", "relative address"};
        const bl_operand *o = bl_sheet_operand(sheet, i);
        printf("  %-4.*s a %s of %u bits\n", (int)o->name.length, o->name.at, kinds[o->kind],
               o->bits);
    }
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++) {
        const bl_extra *e = bl_sheet_extra(sheet, i);
        printf("  +%-3.*s cycles: %.*s\n", (int)e->name.length, e->name.at, (int)e->meaning.length,
               e->meaning.at);
    }
}

static json_t *sheet_json(const bl_sheet *sheet)
{
    json_t *forms = json_array();
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        char code[64], cycles[32];
        form_texts(sheet, f, code, sizeof code, cycles, sizeof cycles);
        json_array_append_new(forms, json_pack("{s:s%,s:s,s:s,s:b}", "written", f->written.at,
                                               f->written.length, "code", g_strchomp(code),
                                               "cycles", cycles, "alias", f->alias));
    }
    bl_text name = bl_sheet_name(sheet), title = bl_sheet_title(sheet);
    return json_pack("{s:s%,s:s%,s:o}", "name", name.at, name.length, "title", title.at,
                     title.length, "forms", forms);
}

static int list(void)
{
    json_t *all = json_array();
    for (size_t i = 0; i < bl_sheet_shipped_count(); i++) {
        bl_sheet *sheet;
        bl_text name = bl_sheet_shipped_name(i);
        if (bl_sheet_open(&host_memory, name, &cli_sink, &sheet) != BL_OK) return EXIT_FAILED;
        bl_text title = bl_sheet_title(sheet);
        if (given.json)
            json_array_append_new(all, json_pack("{s:s%,s:s%}", "name", name.at, name.length,
                                                 "title", title.at, title.length));
        else
            printf("%-8.*s %.*s\n", (int)name.length, name.at, (int)title.length, title.at);
        bl_sheet_close(sheet);
    }
    if (given.json) {
        json_dumpf(all, stdout, JSON_INDENT(2));
        printf("\n");
    }
    json_decref(all);
    return EXIT_GOOD;
}

int command_cpus(int argc, char **argv)
{
    const GOptionEntry *tables[] = {json_options, NULL};
    bl_sheet *sheet;
    if (!cli_parse(&argc, &argv, &words, tables)) return EXIT_USAGE;
    if (argc > 2) return cli_usage("one CPU at a time");
    if (argc < 2) return list();
    if (bl_sheet_open(&host_memory, (bl_text){argv[1], strlen(argv[1])}, &cli_sink, &sheet) !=
        BL_OK)
        return EXIT_USAGE;
    if (given.json) {
        json_t *j = sheet_json(sheet);
        json_dumpf(j, stdout, JSON_INDENT(2));
        printf("\n");
        json_decref(j);
    } else {
        show_sheet(sheet);
    }
    bl_sheet_close(sheet);
    return EXIT_GOOD;
}

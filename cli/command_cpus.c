/* command_cpus.c - bootlace cpus. */
#include "cli.h"
#include "json_answer.h"
#include "project/sheets.h"

#include <jansson.h>
#include <stddef.h>
#include <string.h>

static const usage words = {
    "cpus [NAME]", "Lists the CPUs that have a sheet, or shows one sheet as a table and a map.",
    "  bootlace cpus\n  bootlace cpus z80\n  bootlace cpus mine.sheet"};

/* The widest text of a column. */
static int widest_name(const bl_sheet *sheet, size_t count,
                       const bl_row *(*row)(const bl_sheet *, size_t), size_t offset)
{
    size_t max = 0;
    for (size_t i = 0; i < count; i++) {
        const bl_text *t = (const bl_text *)((const char *)row(sheet, i) + offset);
        if (row(sheet, i)->written.length > 0 && t->length > max) max = t->length;
    }
    return (int)max;
}

/* Rows side by side, in as many columns as the terminal has room for, read downwards. */
static void show_rows(const bl_sheet *sheet, size_t count,
                      const bl_row *(*row)(const bl_sheet *, size_t))
{
    int name = widest_name(sheet, count, row, offsetof(bl_row, name));
    int written = widest_name(sheet, count, row, offsetof(bl_row, written));
    int code = widest_name(sheet, count, row, offsetof(bl_row, code));
    int cycles = widest_name(sheet, count, row, offsetof(bl_row, cycles));
    int width = name + (name > 0) + written + code + cycles + 4;
    size_t columns = (size_t)MAX(1, cli_width() / (width + 2)), n = 0;
    const bl_row **shown = g_new0(const bl_row *, count + 1);
    for (size_t i = 0; i < count; i++)
        if (row(sheet, i)->written.length > 0) shown[n++] = row(sheet, i);
    size_t rows = (n + columns - 1) / columns;
    for (size_t r = 0; r < rows; r++) {
        for (size_t c = 0; c < columns && c * rows + r < n; c++) {
            const bl_row *f = shown[c * rows + r];
            bool last = c + 1 == columns || (c + 1) * rows + r >= n;
            if (name > 0) printf("%-*.*s ", name, (int)f->name.length, f->name.at);
            printf("%-*.*s  %-*.*s  %-*.*s%s", written, (int)f->written.length, f->written.at, code,
                   (int)f->code.length, f->code.at, last ? 0 : cycles, (int)f->cycles.length,
                   f->cycles.at, last ? "\n" : "  ");
        }
    }
    g_free(shown);
}

/* ---- the map: what each first code means ---- */

enum { MAP_WAYS = 256 };

/* The mnemonic behind a prefix and a code; NULL when there is none. *prefix: what it means depends
 * on the code that follows. */
static const bl_form *matrix_cell(const bl_sheet *sheet, const int *codes, size_t count,
                                  bool *prefix)
{
    const bl_form *found = NULL;
    *prefix = false;
    for (unsigned next = 0; next < MAP_WAYS && !*prefix; next++) {
        uint16_t units[BL_FORM_UNITS] = {0};
        bl_decoded d;
        for (size_t i = 0; i < count; i++)
            units[i] = (uint16_t)codes[i];
        units[count] = (uint16_t)next;
        if (!bl_sheet_decode(sheet, units, BL_FORM_UNITS, &d)) continue;
        *prefix = found != NULL && found->mnemonic != d.form->mnemonic;
        found = d.form;
    }
    return found;
}

/* Sixteen by sixteen, as data sheets have it; prefixes get a map of their own. */
static void show_map(const bl_sheet *sheet, int first)
{
    int prefixes[MAP_WAYS];
    size_t found = 0;
    if (first < 0)
        printf("\nMap of the first code");
    else
        printf("\nMap of the code after %02X", (unsigned)first);
    int column = MIN(6, MAX(3, (cli_width() - 3) / 16 - 1)); /* of a mnemonic */
    printf(" (:: another code follows)\n   ");
    for (unsigned low = 0; low < 16; low++)
        printf(" -%-*X", column - 1, low);
    for (unsigned high = 0; high < 16; high++) {
        printf("\n%X- ", high);
        for (unsigned low = 0; low < 16; low++) {
            int codes[2] = {first < 0 ? (int)(high * 16 + low) : first, (int)(high * 16 + low)};
            bool prefix = false;
            const bl_form *f = matrix_cell(sheet, codes, first < 0 ? 1 : 2, &prefix);
            bl_text name = f != NULL ? bl_sheet_mnemonic(sheet, f->mnemonic) : (bl_text){".", 1};
            if (prefix) name = (bl_text){"::", 2};
            if (prefix) prefixes[found++] = (int)(high * 16 + low);
            printf(" %-*.*s", column, (int)MIN(name.length, (size_t)column), name.at);
        }
    }
    printf("\n");
    for (size_t i = 0; i < found && first < 0; i++)
        show_map(sheet, prefixes[i]);
}

/* Operand kinds in the words of docs/sheets.md; an exact number is part of its form and not
 * listed. */
static void show_operands(const bl_sheet *sheet)
{
    static const char *const kinds[] = {
        [BL_OPERAND_VALUE] = "a value of %u bits",
        [BL_OPERAND_NUMBER] = "a number of %u bits, not negative",
        [BL_OPERAND_SIGNED] = "a value of %u bits with a sign",
        [BL_OPERAND_ADDRESS] = "an address of %u bits",
        [BL_OPERAND_DIRECT] = "an address in the direct page, %u bits",
        [BL_OPERAND_PAGE] = "an address in the same page, %u bits",
        [BL_OPERAND_RELATIVE] = "a relative address of %u bits",
        [BL_OPERAND_EXACT] = NULL,
        [BL_OPERAND_ANYOF] = "any of",
        [BL_OPERAND_ONEOF] = "one of",
    };
    _Static_assert(G_N_ELEMENTS(kinds) == BL_OPERAND_ONEOF + 1, "one for each");
    for (size_t i = 0; i < bl_sheet_operands(sheet); i++) {
        const bl_operand *o = bl_sheet_operand(sheet, i);
        if (kinds[o->kind] == NULL) continue;
        printf("  %-5.*s ", (int)o->name.length, o->name.at);
        printf(kinds[o->kind], o->bits);
        for (uint16_t k = 0; k < o->count; k++) {
            const bl_choice *c = bl_sheet_choice(sheet, (size_t)o->first + k);
            char code[16];
            bl_value_text(code, sizeof code, c->code, 1, bl_sheet_radix(sheet));
            printf(" %.*s=%s", (int)c->name.length, c->name.at, code);
        }
        printf("\n");
    }
    for (size_t i = 0; i < bl_sheet_extras(sheet); i++) {
        const bl_extra *e = bl_sheet_extra(sheet, i);
        printf("  +%-4.*s cycles: %.*s\n", (int)e->name.length, e->name.at, (int)e->meaning.length,
               e->meaning.at);
    }
}

static void show_sheet(const bl_sheet *sheet)
{
    bl_text name = bl_sheet_name(sheet), title = bl_sheet_title(sheet);
    printf("%.*s: %.*s; %zu forms of %zu mnemonics\n\n", (int)name.length, name.at,
           (int)title.length, title.at, bl_sheet_forms(sheet), bl_sheet_mnemonics(sheet));
    show_rows(sheet, bl_sheet_rows(sheet), bl_sheet_row);
    if (bl_sheet_modes(sheet) > 0) printf("\nModes: written, code, cycles to add\n");
    show_rows(sheet, bl_sheet_modes(sheet), bl_sheet_mode);
    if (bl_sheet_suffixes(sheet) > 0) printf("\nSuffixes: operands that change, code in front\n");
    show_rows(sheet, bl_sheet_suffixes(sheet), bl_sheet_suffix);
    printf("\n");
    show_operands(sheet);
    if (bl_sheet_unit_bits(sheet) == 8 && bl_sheet_forms(sheet) > 0) show_map(sheet, -1);
}

static json_t *sheet_json(const bl_sheet *sheet)
{
    json_t *forms = json_array();
    for (size_t i = 0; i < bl_sheet_forms(sheet); i++) {
        const bl_form *f = bl_sheet_form(sheet, i);
        const bl_row *row = bl_sheet_row(sheet, f->row);
        json_array_append_new(forms,
                              json_pack("{s:s%,s:s%,s:s%,s:i,s:b}", "written", f->written.at,
                                        f->written.length, "code", row->code.at, row->code.length,
                                        "cycles", row->cycles.at, row->cycles.length, "size",
                                        f->size, "alias", f->alias));
    }
    bl_text name = bl_sheet_name(sheet), title = bl_sheet_title(sheet);
    return json_pack("{s:s%,s:s%,s:o}", "name", name.at, name.length, "title", title.at,
                     title.length, "forms", forms);
}

/* Each sheet is opened for its title. */
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
            printf("%-18.*s %.*s\n", (int)name.length, name.at, (int)title.length, title.at);
        bl_sheet_close(sheet);
    }
    if (given.json)
        answer(all);
    else
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
    if (host_sheet_open(argv[1], NULL, &cli_sink, &sheet) != BL_OK) return EXIT_USAGE;
    if (given.json) {
        json_t *j = sheet_json(sheet);
        answer(j);
    } else {
        show_sheet(sheet);
    }
    bl_sheet_close(sheet);
    return EXIT_GOOD;
}

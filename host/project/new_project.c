/* new_project.c - the examples' boards as templates. */
#include "new_project.h"

#include <glib.h>
#include <string.h>
#include <unistd.h>

#include "files/embedded.h"
#include "files/replace.h"
#include "sheets.h"

/* Which example is the board of a CPU, and the program in it that is sent to RAM. */
typedef struct board {
    const char *cpu, *example, *ram, *chip;
    const char *watch; /* what there is to see */
} board;

static const board boards[] = {
    {"65c02", "skerry-65", "lamp.asm", "U5", "its lamps flash"},
    {"z80", "skerry-80", "horn.asm", "U3", "its horn sounds"},
    {"8085", "skerry-85", "tide.asm", "U7", "its staff of lamps rises and falls"},
    {"8080", "skerry-85", "tide.asm", "U7", "its staff of lamps rises and falls"},
    {"6809", "skerry-68", "message.asm", "U2", "its lantern blinks a message"},
    {"6800", "skerry-60", "bell.asm", "U2", "its bell rings"},
    {"6502", "skerry-50", "boats.asm", "U1", "its digit counts how often its button is pressed"},
    {"ez80+z80", "skerry-24", "squares.asm", "U1", "its display says that it has no program"},
    {"own", "own", NULL, "U1", NULL},
};

char *new_project_cpus(void)
{
    GString *all = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++)
        g_string_append_printf(all, "%s%s", i > 0 ? " " : "", boards[i].cpu);
    return g_string_free(all, FALSE);
}

static const board *board_of(bl_text cpu)
{
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++)
        if (strlen(boards[i].cpu) == cpu.length &&
            g_ascii_strncasecmp(boards[i].cpu, cpu.at, cpu.length) == 0)
            return &boards[i];
    return NULL;
}

/* A variant that only adds instructions runs on the board of the CPU that it takes. */
static const board *find_board(const char *cpu, const bl_sink *sink)
{
    const board *b = board_of((bl_text){cpu, strlen(cpu)});
    bl_sheet *sheet = NULL;
    if (b == NULL && host_sheet_open(cpu, NULL, NULL, &sheet) == BL_OK) {
        bl_text taken;
        bool plus = strchr(cpu, '+') != NULL && strstr(cpu, "+plain") == NULL;
        for (size_t i = 0; plus && b == NULL && (taken = bl_sheet_taken(sheet, i)).at != NULL; i++)
            b = board_of(taken);
        bl_sheet_close(sheet);
    }
    if (b != NULL) return b;
    char *known = new_project_cpus(),
         *hint = g_strconcat("there is one for: ", known,
                             "; 'own' is a sheet of ten instructions to change", NULL);
    bl_report(sink, BL_ERROR, NULL, 0, hint, "no board comes with Bootlace for the CPU '%s'", cpu);
    g_free(known);
    g_free(hint);
    return NULL;
}

/* The bench file under its new name. */
static char *rename_bench(const char *text, const char *name, const board *b, const char *cpu)
{
    GString *out = g_string_new(NULL);
    char **lines = g_strsplit(text, "\n", 0);
    for (char **l = lines; *l != NULL; l++) {
        bool last = l[1] == NULL;
        if (l == lines && **l == '#')
            g_string_append(out, "# One machine, and what is built for it. Keys: docs/bench.md");
        else if (g_str_has_prefix(*l, "bench: "))
            g_string_append_printf(out, "bench: \"%s\"", name);
        else if (g_str_has_prefix(*l, "cpu: ") && strcmp(b->cpu, "own") != 0)
            g_string_append_printf(out, "cpu: %s", cpu);
        else
            g_string_append(out, *l);
        if (!last) g_string_append_c(out, '\n');
    }
    g_strfreev(lines);
    return g_string_free(out, FALSE);
}

/* A page that names the user's own files, so that its lines can be pasted. */
static char *readme(const char *name, const board *b, const char *cpu)
{
    if (b->ram == NULL)
        return g_strdup_printf(
            "# %s\n\nA machine with a CPU of its own: `own.sheet` is its instruction set, "
            "`bench.yaml` "
            "the machine,\n`count.asm` a program for its ROM. Change all of them.\n\n"
            "```\nbootlace build                        # assemble, place, check: out/\n"
            "bootlace cpus own.sheet               # the instructions as a table and a map\n"
            "bootlace chip plan                    # what the chip holds\n"
            "bootlace chip write %s -p sim         # burn and verify; -p /dev/ttyUSB0 the real "
            "one\n"
            "```\n\nThere is no simulator for it, so `board run` cannot show it running. A sheet "
            "is "
            "explained in docs/sheets.md.\n",
            name, b->chip);
    return g_strdup_printf(
        "# %s\n\nA board with %s %s. `bench.yaml` describes it: memory areas, devices, the chip, "
        "the "
        "serial line, and\nwhat is built. The program is in the files that end in `.asm`: %s "
        "goes into RAM, the one that ends in\n`-rom.asm` into the ROM, with the monitor "
        "(Eyelet).\n\n"
        "```\nbootlace build                        # assemble, place, check: out/\n"
        "bootlace chip write %s -p sim         # burn the ROM; every byte is verified\n"
        "bootlace board run -p sim --for 5s    # switch on: %s\n"
        "bootlace send %s -p sim --run  # after a change: only RAM, verified, started\n"
        "bootlace check %s -p sim       # is it still what was built?\n```\n\n"
        "`-p sim` is the simulated bench. With a board of your own: change `bench.yaml` to what is "
        "on it, build, burn with\n`-p` and the programmer's device (or your own programmer, with "
        "`out/%s.bin`), and send with `-p` and the board's\nserial device. `bootlace ports` "
        "lists them.\n",
        name, strchr("8aeioAEIO", *cpu) != NULL ? "an" : "a", cpu, b->ram, b->chip, b->watch,
        b->ram, b->ram, b->chip);
}

/* ---- writing ---- */

static void add_template(GArray *files, const char *name, char *text)
{
    replace_file f = {name, text, strlen(text)};
    g_array_append_val(files, f);
}

/* The folder appears whole or not at all. */
static bl_status write_all(const char *folder, const char *name, const board *b, const char *cpu,
                           const bl_sink *sink)
{
    GArray *files = g_array_new(FALSE, FALSE, sizeof(replace_file));
    size_t n = strlen(b->example);
    for (size_t i = 0; i < host_templates_count; i++) {
        const host_shipped *t = &host_templates[i];
        if (strncmp(t->name, b->example, n) != 0 || t->name[n] != '/') continue;
        char *text = g_strndup((const char *)t->bytes, t->size);
        if (strcmp(t->name + n + 1, "bench.yaml") == 0) {
            char *renamed = rename_bench(text, name, b, cpu);
            g_free(text);
            text = renamed;
        }
        add_template(files, t->name + n + 1, text);
    }
    add_template(files, "README.md", readme(name, b, cpu));
    const replace_file *all = (const replace_file *)(void *)files->data;
    bl_status status = replace_fresh(folder, all, files->len, sink);
    for (guint i = 0; i < files->len; i++)
        g_free((void *)(uintptr_t)all[i].bytes);
    g_array_free(files, TRUE);
    return status;
}

/* A name that YAML and shells take as it is. */
static bool good_name(const char *name)
{
    bool good = g_ascii_isalnum(*name);
    for (const char *p = name; *p != '\0'; p++)
        good = good && (g_ascii_isalnum(*p) || strchr("-_.+", *p) != NULL);
    return good && strlen(name) <= 60;
}

bl_status new_project_make(const char *folder, const char *cpu, const bl_sink *sink)
{
    char *name = g_path_get_basename(folder);
    const board *b = find_board(cpu, sink);
    bl_status status = b == NULL ? BL_E_NOT_FOUND : BL_OK;
    if (status == BL_OK && !good_name(name)) {
        bl_report(sink, BL_ERROR, NULL, 0, "letters, digits and - _ . +, at most 60",
                  "'%s' cannot be the name of a project", name);
        status = BL_E_ARGUMENT;
    }
    if (status == BL_OK) status = write_all(folder, name, b, cpu, sink);
    g_free(name);
    return status;
}

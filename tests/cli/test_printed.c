/* Every command line that README, docs and --help print is copied into a shell and run on the demo
 * data: it must work as it stands there. */
#include "cli_support.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MAX_LINES = 300, LINE = 300 };
static char lines[MAX_LINES][LINE];
static unsigned count;

static void keep(const char *from, size_t length)
{
    const char *comment = memmem(from, length, " #", 2);
    if (comment != NULL) length = (size_t)(comment - from);
    while (length > 0 && (from[length - 1] == ' ' || from[length - 1] == '\r'))
        length--;
    CHECK(count < MAX_LINES && length < LINE);
    snprintf(lines[count++], LINE, "%.*s", (int)length, from);
}

/* Commands in the middle of a text, `bootlace chip plan -o plan.png`; those without an option only
 * name the command. */
static void keep_spans(const char *at, size_t length)
{
    const char *end = at + length;
    while ((at = memchr(at, '`', (size_t)(end - at))) != NULL) {
        const char *close = memchr(at + 1, '`', (size_t)(end - at - 1));
        if (close == NULL) return;
        size_t n = (size_t)(close - at - 1);
        bool command = n > 9 && strncmp(at + 1, "bootlace ", 9) == 0;
        if (command && memmem(at + 1, n, " -", 2) != NULL) keep(at + 1, n);
        at = close + 1;
    }
}

/* The lines of fenced blocks that begin with a command; with prompts before them, or none. */
static void keep_block_lines(const char *text)
{
    bool fenced = false, inside = false;
    for (const char *at = text; *at != '\0';) {
        size_t n = strcspn(at, "\n");
        if (strncmp(at, "```", 3) == 0) {
            /* A block with a language is a source, not commands. */
            fenced = !fenced;
            inside = fenced && n == 3;
        } else if (inside) {
            const char *p = at + (strncmp(at, "$ ", 2) == 0 ? 2 : 0);
            bool command = strncmp(p, "bootlace ", 9) == 0 || strncmp(p, "cd ", 3) == 0 ||
                           (strncmp(p, "printf ", 7) == 0 && memmem(p, n, "bootlace", 8) != NULL);
            if (command) keep(p, n - (size_t)(p - at));
        } else {
            keep_spans(at, n);
        }
        at += n + (at[n] == '\n');
    }
}

static void keep_help_lines(const char *command)
{
    test_run r = expect_code(0, "bootlace %s --help", command);
    const char *at = strstr(r.out, "Example:");
    CHECK(at != NULL);
    for (at += 9; *at != '\0';) {
        size_t n = strcspn(at, "\n");
        const char *p = at + strspn(at, " ");
        if (strncmp(p, "bootlace ", 9) == 0 || strncmp(p, "printf ", 7) == 0)
            keep(p, n - (size_t)(p - at));
        at += n + (at[n] == '\n');
    }
}

/* Words that stand for something are no command lines: FILE, [-r RANGE], show | convert. */
static bool is_synopsis(const char *line)
{
    if (strpbrk(line, "[|") != NULL && strstr(line, "| bootlace") == NULL) return true;
    for (const char *p = line; *p != '\0'; p += strcspn(p, " "), p += strspn(p, " ")) {
        size_t n = strspn(p, "ABCDEFGHIJKLMNOPQRSTUVWXYZ");
        if (n >= 2 && (p[n] == ' ' || p[n] == '\0' || p[n] == '@' || p[n] == '.')) return true;
    }
    return false;
}

/* A real device is the simulated bench here; what serves in the background has tests of its own. */
static bool prepare(char *out, size_t capacity, const char *line)
{
    size_t n = 0;
    if (is_synopsis(line) || strchr(line, '&') != NULL || strstr(line, "state/serial") != NULL)
        return false;
    for (const char *p = line; *p != '\0' && n + 20 < capacity;) {
        if (strncmp(p, "/dev/ttyUSB", 11) == 0) {
            bool names = strstr(line, "bootlace ports") != NULL;
            n += (size_t)snprintf(out + n, capacity - n, "%s", names ? "/dev/null" : "sim");
            p += 12;
        } else {
            out[n++] = *p++;
        }
    }
    out[n] = '\0';
    return true;
}

/* A shell does not see a dollar sign where a number is meant. */
static void check_plain(const char *where, const char *line)
{
    const char *hash = strstr(line, " #");
    size_t n = hash != NULL ? (size_t)(hash - line) : strlen(line);
    for (size_t i = 0; i + 1 < n; i++)
        if (line[i] == '$' && strchr("0123456789ABCDEF", line[i + 1]) != NULL)
            test_fail(__FILE__, __LINE__, "%s: a shell eats the $ of: %s", where, line);
}

/* The files that examples speak of. */
static void make_files(void)
{
    expect_code(0, "bootlace build -q && bootlace chip write U5 -p sim -q");
    expect_code(0, "bootlace image convert out/chips.hex -r 0xC000..0xFFFF -o rom.bin");
    expect_code(0, "cp out/lamp.hex lamp.hex; cp out/lamp.hex back.hex; cp out/U5.bin U5.bin");
    expect_code(0, "bootlace assemble lamp.asm -b bench.yaml -o x.hex -y rom.sym");
    expect_code(0, "cp '%s'/sheets/tern.sheet mine.sheet", test_source_folder());
    expect_code(0, "cp '%s'/examples/own/own.sheet .", test_source_folder());
    test_write_file("boot.asm", " .org 0o200\n .word 1, 2\n");
    expect_code(0, "bootlace assemble boot.asm -c gannet -o boot.hex");
    expect_code(0, "cp '%s'/examples/wrappers/*.asm .", test_source_folder());
}

static void run_lines(const char *where, unsigned from)
{
    char line[400];
    for (unsigned i = from; i < count; i++) {
        check_plain(where, lines[i]);
        if (strncmp(lines[i], "cd ", 3) == 0 || !prepare(line, sizeof line, lines[i])) continue;
        bool asks = strstr(line, "--set") != NULL; /* for Enter, before each chip */
        /* Needs a bare board with Aglet: as the page of skerry-bare has it, above. */
        if (strstr(line, "--method acked") != NULL && strcmp(where, "send") == 0) continue;
        test_run r = test_command("%s { %s\n}", asks ? "yes '' |" : "exec </dev/null;", line);
        bool answered = strstr(line, "chip blank") != NULL && strstr(r.out, "not blank") != NULL;
        if (r.code != 0 && !answered)
            test_fail(__FILE__, __LINE__, "%s prints: %s\nit ends with %d\n%s%s", where, lines[i],
                      r.code, r.out, r.err);
    }
}

static void file_lines(const char *name)
{
    keep_block_lines(test_read_source(name, NULL));
}

TEST(commands_of_the_readme_and_of_docs_work_as_printed)
{
    static const char *const pages[] = {
        "README.md",       "docs/bench.md",     "docs/board.md",  "docs/disassembler.md",
        "docs/logbook.md", "docs/panel.md",     "docs/parts.md",  "docs/send.md",
        "docs/trace.md",   "docs/dialogue.md",  "docs/sheets.md", "docs/language.md",
        "docs/json.md",    "docs/programmer.md"};
    copy_example();
    make_files();
    count = 0;
    for (size_t i = 0; i < sizeof pages / sizeof pages[0]; i++) {
        unsigned from = count;
        file_lines(pages[i]);
        expect_code(0, "bootlace board off");
        run_lines(pages[i], from);
    }
    CHECK(count >= 10);
}

TEST(commands_of_the_examples_pages_work_as_printed)
{
    static const char *const folders[] = {"skerry-65",    "skerry-80",   "skerry-85", "skerry-68",
                                          "skerry-store", "skerry-bare", "bollard",   "thrift",
                                          "cleat",        "purser",      "petrel",    "own",
                                          "wrappers"};
    for (size_t i = 0; i < sizeof folders / sizeof folders[0]; i++) {
        char page[100];
        expect_code(0, "rm -rf ./*");
        expect_code(0, "cp '%s'/examples/%s/* .", test_source_folder(), folders[i]);
        snprintf(page, sizeof page, "examples/%s/README.md", folders[i]);
        count = 0;
        file_lines(page);
        CHECK(count > 0);
        run_lines(page, 0);
    }
}

TEST(commands_of_help_work_as_printed)
{
    static const char *const commands[] = {
        "new",           "ports",       "build",     "assemble",      "disassemble",  "image show",
        "image convert", "image join",  "image cut", "image compare", "chip plan",    "chip blank",
        "chip write",    "chip verify", "chip read", "chip label",    "chip history", "send",
        "fetch",         "check",       "console",   "panel",         "board run",    "board reset",
        "board on",      "board off",   "cpus"};
    copy_example();
    make_files();
    count = 0;
    for (size_t i = 0; i < sizeof commands / sizeof commands[0]; i++) {
        unsigned from = count;
        keep_help_lines(commands[i]);
        CHECK(count > from);
        run_lines(commands[i], from);
    }
}

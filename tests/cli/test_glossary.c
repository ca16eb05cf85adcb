/* docs/glossary.md against what users meet: the keys of the bench file, and every --help. */
#include <ctype.h>
#include <cyaml/cyaml.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bench/bench_file.h"
#include "cli_support.h"

static const char *text;

static void read_glossary(void)
{
    text = test_read_source("docs/glossary.md", NULL);
}

static bool has_row(const char *word)
{
    char row[80];
    snprintf(row, sizeof row, "\n| %s |", word);
    return strstr(text, row) != NULL;
}

/* A list is named by what it holds: "chips" is found as "chip". */
static void need_row(const char *word)
{
    char one[60];
    size_t n = strlen(word);
    if (has_row(word)) return;
    snprintf(one, sizeof one, "%.*s", (int)(n > 0 && word[n - 1] == 's' ? n - 1 : n), word);
    if (!has_row(one)) test_fail(__FILE__, __LINE__, "docs/glossary.md has no row for '%s'", word);
}

static void check_value(const cyaml_schema_value_t *value);

static unsigned check_fields(const cyaml_schema_field_t *fields)
{
    unsigned count = 0;
    for (; fields->key != NULL; fields++, count++) {
        need_row(fields->key);
        check_value(&fields->value);
    }
    return count;
}

static void check_value(const cyaml_schema_value_t *value)
{
    if (value->type == CYAML_MAPPING) CHECK(check_fields(value->mapping.fields) > 0);
    if (value->type == CYAML_SEQUENCE) check_value(value->sequence.entry);
}

TEST(every_key_of_the_bench_file_is_in_the_glossary)
{
    read_glossary();
    CHECK(check_fields(bench_schema.mapping.fields) > 10);
}

/* No word has two rows, and they stand in order. */
TEST(every_word_of_the_glossary_has_one_row)
{
    char last[60] = "", word[60];
    size_t rows = 0;
    read_glossary();
    const char *end = strstr(text, "\n| not |");
    CHECK(end != NULL);
    for (const char *p = strstr(text, "|---|") + 1; (p = strstr(p, "\n| ")) != NULL && p < end;) {
        p += 3;
        const char *bar = strchr(p, '|');
        CHECK(bar != NULL && bar - p > 1 && (size_t)(bar - p) < sizeof word);
        snprintf(word, sizeof word, "%.*s", (int)(bar - p - 1), p);
        for (char *c = word; *c != '\0'; c++)
            *c = (char)tolower((unsigned char)*c);
        if (strcmp(last, word) >= 0)
            test_fail(__FILE__, __LINE__, "'%s' stands behind '%s'", word, last);
        snprintf(last, sizeof last, "%s", word);
        rows++;
    }
    CHECK(rows > 60);
}

/* Is it there as a whole word? */
static bool uses(const char *said, const char *word)
{
    size_t n = strlen(word);
    for (const char *p = said; (p = strstr(p, word)) != NULL; p += n)
        if ((p == said || !isalnum((unsigned char)p[-1])) && !isalnum((unsigned char)p[n]))
            return true;
    return false;
}

/* The words of the second table. */
static void refuse_words(const char *said, const char *where)
{
    char word[60];
    const char *row = strstr(text, "\n| not |");
    unsigned rows = 0;
    CHECK(row != NULL);
    for (row = strstr(row, "|---|"); (row = strstr(row, "\n| ")) != NULL; rows++) {
        row += 3;
        for (const char *p = row; *p != '|';) {
            size_t n = strcspn(p, ",|");
            size_t end = n;
            while (end > 0 && p[end - 1] == ' ')
                end--;
            snprintf(word, sizeof word, "%.*s", (int)end, p);
            if (uses(said, word)) test_fail(__FILE__, __LINE__, "%s says '%s'", where, word);
            p += n;
            while (*p == ',' || *p == ' ')
                p++;
        }
    }
    CHECK(rows > 3);
}

/* The commands that a help lists are words of the glossary, and none of what it says is none. */
TEST(what_help_says_is_in_the_glossary)
{
    char names[40][24], copy[16384];
    size_t count = 0;
    read_glossary();
    test_run all = test_command("bootlace --help");
    CHECK_INT(all.code, 0);
    snprintf(copy, sizeof copy, "%s", all.out);
    refuse_words(copy, "bootlace --help");
    for (char *line = strtok(copy, "\n"); line != NULL; line = strtok(NULL, "\n")) {
        bool command = strncmp(line, "  ", 2) == 0 && islower((unsigned char)line[2]) &&
                       strncmp(line, "  cd ", 5) != 0 && strncmp(line, "  bootlace", 10) != 0;
        if (command && count < 40 && sscanf(line + 2, "%23s", names[count]) == 1) count++;
    }
    CHECK(count >= 14);
    for (size_t i = 0; i < count; i++) {
        need_row(names[i]);
        test_run r = test_command("bootlace %s --help", names[i]);
        CHECK_INT(r.code, 0);
        refuse_words(r.out, names[i]);
    }
}

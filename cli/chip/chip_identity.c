/* chip_identity.c - what a chip holds, and what was done to it: from the logbook. */
#include <string.h>

#include "bootlace/cause.h"
#include "chip_work.h"

static void tell_known(const work *k, const logbook_content *c)
{
    char *when = logbook_time_text(c->time);
    bool own = strcmp(c->bench, k->b->name) == 0 && strcmp(c->chip, k->chip->name) == 0;
    printf("%s holds what was built", k->chip->name);
    if (!own) printf(" for %s of %s", c->chip, c->bench);
    printf(" on %s%s%s\n", when, *c->version != '\0' ? ", version " : "", c->version);
    g_free(when);
}

/* Differences to what is built today, and what they may come from. */
static void compare_today(const work *k, const uint8_t *found)
{
    uint32_t size = k->chip->part->size, first = 0, different = 0;
    char name[300] = "";
    for (uint32_t i = size; i-- > 0;)
        if (found[i] != k->bytes[i]) first = i, different++;
    if (different == 0) {
        printf("  today's build is the same\n");
        return;
    }
    uint32_t address = first;
    if (bl_chip_address(k->chip, first, 0, &address))
        whereis_describe(&k->names, address, name, sizeof name);
    printf("  today's build differs in %u of %u bytes; first at %s: chip %02X, today %02X  %s\n",
           different, size, cli_offset(k->b, first), found[first], k->bytes[first], name);
}

static void tell_unknown(const work *k, const uint8_t *found)
{
    uint32_t size = k->chip->part->size;
    bl_causes causes = {.count = 0};
    printf("%s holds nothing that the logbook knows\n", k->chip->name);
    bl_causes_find(k->bytes, found, size, &causes);
    for (size_t i = 0; i < causes.count; i++) {
        char text[300];
        bl_cause_text(&causes, i, text, sizeof text);
        printf("  perhaps: %s\n", text);
    }
}

/* The logbook is asked what it is, today's build how it differs. */
int work_identify(work *k, const uint8_t *found)
{
    uint32_t size = k->chip->part->size, i = 0;
    logbook_content content;
    while (i < size && found[i] == 0xFF)
        i++;
    if (i == size) {
        printf("%s is blank: all %u bytes are FF\n", k->chip->name, size);
    } else {
        if (logbook_find(k->book, found, size, &content))
            tell_known(k, &content);
        else if (logbook_was_read(k->book))
            tell_unknown(k, found);
        tell_checksums("  ", found, size, "");
        compare_today(k, found);
    }
    unsigned wear = logbook_wear(k->book, k->b, k->chip->name, k->copy);
    if (wear > 0) printf("  written to %u time%s\n", wear, wear == 1 ? "" : "s");
    if (logbook_was_read(k->book)) return EXIT_GOOD;
    return fail("%s could not be read: what it knows of this chip is not known",
                logbook_path(k->book));
}

/* ---- history ---- */

static void show_burn(void *context, const logbook_burn *burn, const char *version)
{
    unsigned *count = context;
    char *when = logbook_time_text(burn->time), copy[16] = "";
    if ((*count)++ == 0)
        printf("%-16s  %-6s %-8s %-8s %6s  %s\n", "when", "chip", "part", "CRC-32", "pages",
               "result");
    if (burn->copy > 1) g_snprintf(copy, sizeof copy, "/%u", burn->copy);
    char *chip = g_strconcat(burn->chip, copy, NULL);
    printf("%-16s  %-6s %-8s %08X %6lu  %s%s%s\n", when, chip, burn->part, burn->crc32,
           (unsigned long)burn->pages, burn->verified ? "verified" : "NOT GOOD",
           *version != '\0' ? ", version " : "", version);
    g_free(chip);
    g_free(when);
}

int chip_history(int argc, char **argv)
{
    bench *b;
    unsigned count = 0;
    if (argc > 2) return cli_usage("one chip at a time, or all");
    int code = cli_bench(true, &b);
    if (code != EXIT_GOOD) return code;
    logbook *book = logbook_open(b, &cli_sink);
    logbook_history(book, b, argc == 2 ? argv[1] : NULL, show_burn, &count);
    if (!logbook_was_read(book))
        code = fail("%s could not be read: there may be more", logbook_path(book));
    else if (count == 0)
        say("%s: the logbook knows of no chip written for it%s%s", b->name, argc == 2 ? " as " : "",
            argc == 2 ? argv[1] : "");
    logbook_close(book);
    bench_close(b);
    return code;
}

/* chip_label.c - bootlace chip label. */
#include <string.h>

#include "chip_work.h"
#include "figure/figure_label.h"
#include "figure/map_words.h"

static char *own(GPtrArray *texts, char *text)
{
    g_ptr_array_add(texts, text);
    return text;
}

static const char *today(GPtrArray *texts)
{
    if (chip_given.date != NULL) return chip_given.date;
    GDateTime *now = g_date_time_new_now_local();
    char *text = own(texts, g_date_time_format(now, "%Y-%m-%d"));
    g_date_time_unref(now);
    return text;
}

/* "$8000..$BFFF even"; a chip with several maps tells the first and how many more. */
static char *label_range(const work *k)
{
    static const map_words words = {" even", " odd", " %u/%u", " low", " high", ""};
    const bl_chip_map *m = &k->chip->maps[0];
    char *kind = map_words_text(m, &words);
    GString *s = g_string_new(NULL);
    g_string_printf(s, "%s..%s%s", cli_address(k->b, m->cpu.first),
                    cli_address(k->b, bl_range_last(m->cpu)), kind);
    if (k->chip->map_count > 1) g_string_append_printf(s, " +%zu", k->chip->map_count - 1);
    g_free(kind);
    return g_string_free(s, FALSE);
}

static void add_label(const work *k, GArray *labels, GPtrArray *texts)
{
    const bl_chip *c = k->chip;
    uint32_t size = c->part->size;
    package_label l = {.name = c->name, .pins = c->part->pins, .narrow = chip_given.narrow};
    l.left[0] = c->copies > 1
                    ? own(texts, g_strdup_printf("%s  %u/%u", c->name, k->copy, c->copies))
                    : c->name;
    l.right[0] =
        own(texts, k->b->version != NULL ? g_strdup_printf("%s %s", k->b->name, k->b->version)
                                         : g_strdup(k->b->name));
    l.left[1] = c->part->name;
    l.right[1] = own(texts, label_range(k));
    l.left[2] = own(texts, g_strdup_printf("%08X %04X", bl_crc32(0, k->bytes, size),
                                           bl_sum16(0, k->bytes, size)));
    l.right[2] = today(texts);
    g_array_append_val(labels, l);
}

/* All copies of a chip. */
static void add_chip(work *k, size_t index, GArray *labels, GPtrArray *texts)
{
    unsigned copies = MAX(k->b->chips[index].copies, 1u);
    for (unsigned copy = 1; copy <= copies; copy++) {
        work_turn(k, index, copy);
        add_label(k, labels, texts);
    }
}

/* Without names every chip gets its label. */
static int draw(work *k, int argc, char **argv)
{
    GArray *labels = g_array_new(FALSE, FALSE, sizeof(package_label));
    GPtrArray *texts = g_ptr_array_new_with_free_func(g_free);
    int code = EXIT_GOOD;
    for (size_t i = 0; argc == 1 && i < k->b->chip_count; i++)
        add_chip(k, i, labels, texts);
    for (int i = 1; i < argc && code == EXIT_GOOD; i++) {
        size_t index;
        if (bench_find_chip(k->b, argv[i], &index))
            add_chip(k, index, labels, texts);
        else
            code = cli_usage("no chip is called '%s'; bootlace chip plan shows them", argv[i]);
    }
    if (code == EXIT_GOOD && figure_labels((package_label *)(void *)labels->data, labels->len,
                                           given.out, &cli_sink) != BL_OK)
        code = EXIT_FAILED;
    if (code == EXIT_GOOD)
        say("%s: %u label%s; print at 100 %%, do not fit to the page", given.out, labels->len,
            labels->len == 1 ? "" : "s");
    g_array_free(labels, TRUE);
    g_ptr_array_free(texts, TRUE);
    return code;
}

int chip_label(int argc, char **argv)
{
    work k;
    memset(&k, 0, sizeof k);
    if (given.out == NULL) return cli_usage("no output file: give -o with a .pdf, .svg or .png");
    if (figure_type_of(given.out) == FIGURE_NONE)
        return cli_usage("-o %s: labels are .pdf, .svg or .png", given.out);
    int code = cli_bench(true, &k.b);
    if (code == EXIT_GOOD && k.b->chip_count == 0)
        code = fail("%s: there are no chips in it", k.b->path);
    if (code == EXIT_GOOD) code = work_image(&k);
    if (code == EXIT_GOOD) code = draw(&k, argc, argv);
    work_end(&k);
    return code;
}

/* chip_plan.c - bootlace chip plan: which byte goes into which chip, and what a person must do. */
#include <string.h>

#include "bootlace/vector.h"
#include "chip_work.h"
#include "figure/figure_plan.h"
#include "figure/map_words.h"
#include "figure/strip.h"
#include "json_answer.h"

enum { MAX_MARKS = 64 };

/* A vector is shown where its bytes lie in the chip, and with what they lead to: most boards that
 * do not start have one of them wrong. */
static void plan_vectors(const work *k, const bl_chip *chip)
{
    for (size_t i = 0; i < bl_sheet_vectors(k->b->sheet); i++) {
        const bl_vector *v = bl_sheet_vector(k->b->sheet, i);
        uint32_t at = v->address * bl_sheet_unit_bytes(k->b->sheet), offset, target = at;
        uint8_t byte;
        char name[300];
        if (bl_chip_at(k->b->chips, k->b->chip_count, at, &offset) != chip) continue;
        bool set = v->runs ? bl_image_get(k->image, at, &byte)
                           : bl_vector_target(k->b->sheet, v, k->image, &target);
        if (set && !v->runs) target *= bl_sheet_unit_bytes(k->b->sheet);
        printf("    %-6.*s %s  ", (int)v->name.length, v->name.at, cli_address(k->b, at));
        if (!set) {
            printf("not set%s\n", v->needed ? " - the CPU will not start" : "");
            continue;
        }
        whereis_describe(&k->names, target, name, sizeof name);
        if (v->runs)
            printf("runs from here  %s\n", name);
        else
            printf("-> %s  %s\n", cli_address(k->b, target), name);
    }
}

/* ---- the picture ---- */

static void print_strip(const strip_mark *marks, unsigned count)
{
    static const char signs[] = {' ', '.', '+', '#'};
    putchar('|');
    for (unsigned i = 0; i < count; i++)
        putchar(signs[marks[i]]);
    putchar('|');
}

static void write_chip_range(const work *k, uint64_t first, uint64_t count, char *text,
                             size_t capacity)
{
    g_snprintf(text, capacity, "%s..%s", cli_address(k->b, (uint32_t)first),
               cli_address(k->b, (uint32_t)(first + count - 1)));
}

static void offsets_text(const work *k, uint64_t first, uint64_t count, char *text, size_t capacity)
{
    g_snprintf(text, capacity, "%s..%s", cli_offset(k->b, (uint32_t)first),
               cli_offset(k->b, (uint32_t)(first + count - 1)));
}

/* Areas and chips in one picture by address, so that a gap between them is seen. */
static void draw_memory(const work *k)
{
    strip_mark marks[MAX_MARKS];
    char text[40];
    uint64_t whole = strip_span(k->b);
    int wide = 4;
    for (size_t i = 0; i < k->b->area_count; i++)
        wide = MAX(wide, (int)strlen(k->b->areas[i].name));
    for (size_t i = 0; i < k->b->chip_count; i++)
        wide = MAX(wide, (int)strlen(k->b->chips[i].name));
    /* Two blanks, a name, the bars, and a range of two addresses of up to six digits. */
    unsigned count = MAX_MARKS;
    while (count > 16 && (int)count + wide + 22 > cli_width())
        count /= 2;
    printf("memory, a mark is %lu bytes: # image  + partly  . fill or free\n",
           (unsigned long)(whole / count));
    for (size_t i = 0; i < k->b->area_count; i++) {
        const bl_area *a = &k->b->areas[i];
        strip_of_range(k->b, bench_bytes(k->b, a->range), k->image, count, marks);
        printf("  %-*s ", wide, a->name);
        print_strip(marks, count);
        bl_range bytes = bench_bytes(k->b, a->range);
        write_chip_range(k, bytes.first, bytes.count, text, sizeof text);
        printf(" %s\n", text);
    }
    for (size_t i = 0; i < k->b->chip_count; i++) {
        strip_of_chip_at_cpu(k->b, &k->b->chips[i], k->image, count, marks);
        printf("  %-*s ", wide, k->b->chips[i].name);
        print_strip(marks, count);
        printf(" %s\n", k->b->chips[i].part->name);
    }
    printf("\n");
}

/* ---- one chip ---- */

static const map_words words = {", even bytes",  ", odd bytes",    ", bytes %u of %u",
                                ", low nibbles", ", high nibbles", ", mirrored"};

/* The bytes of the image that this map takes, a line for each run of them. */
static void plan_runs(const work *k, const bl_chip *chip, const bl_chip_map *m)
{
    for (size_t n = 0; n < bl_image_pieces(k->image); n++) {
        bl_piece p = bl_image_piece(k->image, n);
        bl_chip_run run;
        char cpu[40], chip_text[40];
        if (!bl_chip_map_run(chip, m, &p, &run)) continue;
        write_chip_range(k, run.first, (uint64_t)run.last - run.first + 1, cpu, sizeof cpu);
        offsets_text(k, run.offset, (uint64_t)run.highest - run.offset + 1, chip_text,
                     sizeof chip_text);
        printf("    %-16s %-16s %lu\n", cpu, chip_text, (unsigned long)run.count);
    }
}

static void plan_maps(const work *k, const bl_chip *chip)
{
    printf("    %-16s %-16s %s\n", "CPU", "chip offset", "bytes from the image");
    for (size_t i = 0; i < chip->map_count; i++)
        plan_runs(k, chip, &chip->maps[i]);
    for (size_t i = 0; i < chip->map_count; i++) {
        const bl_chip_map *m = &chip->maps[i];
        char cpu[40], chip_text[40], *kind = map_words_text(m, &words);
        write_chip_range(k, m->cpu.first, m->cpu.count, cpu, sizeof cpu);
        offsets_text(k, m->offset, bl_chip_map_size(chip, m), chip_text, sizeof chip_text);
        printf("    decoded: %s is offset %s%s\n", cpu, chip_text, kind);
        g_free(kind);
    }
}

/* The last bytes are where vectors stand, and where an offset by one shows. */
static void plan_last_bytes(const work *k, const bl_chip *chip, const uint8_t *bytes)
{
    enum { LAST = 8 };
    uint32_t first = chip->part->size - LAST;
    printf("    last bytes %s ", cli_offset(k->b, first));
    for (uint32_t i = 0; i < LAST; i++)
        printf(" %02X", bytes[first + i]);
    printf("\n");
}

/* How much time the CPU leaves, and which grades of the part are fast enough. */
static void plan_access(const work *k, const bl_chip *chip)
{
    uint16_t halves, own;
    char grades[80] = "";
    if (!bl_sheet_access(k->b->sheet, &halves, &own)) {
        if (bl_sheet_forms(k->b->sheet) > 0) /* without a CPU nobody waits */
            cli_print("    access time: the CPU's sheet does not tell how long memory may take");
        return;
    }
    long left = bl_access_left(k->b->clock, halves, own, k->b->decode_ns);
    for (size_t i = 0; i < BL_GRADES && chip->part->access_ns[i] != 0; i++) {
        char one[32];
        g_snprintf(one, sizeof one, "%s%u ns %s", i == 0 ? "" : ", ", chip->part->access_ns[i],
                   chip->part->access_ns[i] <= left ? "yes" : "no");
        g_strlcat(grades, one, sizeof grades);
    }
    cli_print(
        "    access time: %u half clocks of %.1f ns are %ld ns; - CPU %u - decoder %u = %ld ns for "
        "the chip",
        halves, 0.5e9 / k->b->clock, left + own + k->b->decode_ns, own, k->b->decode_ns, left);
    if (chip->access_ns == 0)
        printf("      fast enough? %s\n", grades);
    else
        printf("      its grade, %u ns, is %s\n", chip->access_ns,
               chip->access_ns <= left ? "fast enough"
                                       : "TOO SLOW: a faster part, or a slower clock");
}

/* What no programmer does by itself. */
static void plan_warnings(const work *k, const bl_chip *chip)
{
    const bl_part *p = chip->part;
    unsigned max = k->b->programmer_vpp;
    if (p->algorithm == BL_ALGORITHM_PULSE)
        cli_print("    you: erase it under ultraviolet light first (twenty minutes), and cover the "
                  "window afterwards");
    if (p->algorithm == BL_ALGORITHM_PULSE && p->vpp > max)
        cli_print(
            "    you: it is written with %u.%u V, and the programmer makes %u.%u V: connect a "
            "supply and say programmer: {vpp: %u V}",
            p->vpp / 10u, p->vpp % 10u, max / 10, max % 10, (p->vpp + 9u) / 10);
    if (chip->copies > 1)
        cli_print("    you: %u of them alike: 'chip write' asks for one after the other",
                  chip->copies);
}

/* One chip of the plan: its maps, its bytes, and what looks wrong about them. */
static void plan_chip(const work *k, const bl_chip *chip)
{
    uint32_t used;
    const bl_part *p = chip->part;
    uint8_t *bytes = g_malloc(p->size);
    bl_chip_contents(chip, k->image, bytes, &used);
    char units[40] = "";
    if (p->algorithm == BL_ALGORITHM_PAGE) g_snprintf(units, sizeof units, "s of %u", p->page);
    if (p->algorithm == BL_ALGORITHM_COMMAND)
        g_snprintf(units, sizeof units, ", sectors of %u", p->sector);
    cli_print("%s  %s, %u bytes, %u pins, %s%s: %u bytes from the image, the rest %02X", chip->name,
              p->name, p->size, p->pins, bl_algorithm_text(p->algorithm), units, used, chip->fill);
    tell_checksums("    ", bytes, p->size, "");
    plan_maps(k, chip);
    plan_last_bytes(k, chip, bytes);
    plan_vectors(k, chip);
    plan_access(k, chip);
    plan_warnings(k, chip);
    g_free(bytes);
}

/* ---- for scripts ---- */

static json_t *map_json(const bl_chip *chip, const bl_chip_map *m)
{
    return json_pack("{s:I,s:I,s:I,s:I,s:i,s:i,s:i,s:b}", "cpu", (json_int_t)m->cpu.first, "count",
                     (json_int_t)m->cpu.count, "offset", (json_int_t)m->offset, "bytes",
                     (json_int_t)bl_chip_map_size(chip, m), "lanes", MAX(m->lanes, 1), "lane",
                     m->lane, "nibble", m->nibble, "mirrored", m->mirrored);
}

/* The same as the table, for scripts; offsets are those of the chip. */
static json_t *chip_json(const work *k, const bl_chip *chip)
{
    json_t *maps = json_array();
    uint32_t used;
    uint16_t halves, own;
    uint8_t *bytes = g_malloc(chip->part->size);
    bl_chip_contents(chip, k->image, bytes, &used);
    for (size_t n = 0; n < chip->map_count; n++)
        json_array_append_new(maps, map_json(chip, &chip->maps[n]));
    json_t *all =
        json_pack("{s:s,s:s,s:I,s:i,s:s,s:I}", "chip", chip->name, "part", chip->part->name, "size",
                  (json_int_t)chip->part->size, "pins", chip->part->pins, "method",
                  bl_algorithm_text(chip->part->algorithm), "used", (json_int_t)used);
    put_checksums(all, bytes, chip->part->size);
    json_object_set_new(all, "copies", json_integer(MAX(chip->copies, 1)));
    json_object_set_new(all, "maps", maps);
    if (bl_sheet_access(k->b->sheet, &halves, &own))
        json_object_set_new(
            all, "access_ns",
            json_integer(bl_access_left(k->b->clock, halves, own, k->b->decode_ns)));
    g_free(bytes);
    return all;
}

static void plan_json(const work *k)
{
    json_t *list = json_array();
    for (size_t i = 0; i < k->b->chip_count; i++)
        json_array_append_new(list, chip_json(k, &k->b->chips[i]));
    answer(list);
}

/* ---- the catalogue ---- */

/* A part's figures as its data sheet has them, in one line. */
static void list_part(const bl_part *p)
{
    char cycle[64], grades[64] = "";
    if (p->algorithm == BL_ALGORITHM_PULSE)
        g_snprintf(cycle, sizeof cycle, "%g ms x %u%s, %g V", p->cycle_us / 1000.0, p->pulses,
                   p->over > 0 ? ", then one longer" : "", p->vpp / 10.0);
    else if (p->algorithm == BL_ALGORITHM_COMMAND)
        g_snprintf(cycle, sizeof cycle, "%u us a byte, %g ms a sector", p->cycle_us,
                   p->erase_us / 1000.0);
    else
        g_snprintf(cycle, sizeof cycle, "%g ms%s", p->cycle_us / 1000.0,
                   p->locks ? ", protection" : "");
    for (size_t i = 0; i < BL_GRADES && p->access_ns[i] != 0; i++) {
        char one[16];
        g_snprintf(one, sizeof one, "%s%u", i == 0 ? "" : " ", p->access_ns[i]);
        g_strlcat(grades, one, sizeof grades);
    }
    printf("%-10s %7u %4u  %-11s %6u  %-36s %s\n", p->name, p->size, p->pins,
           bl_algorithm_text(p->algorithm), p->sector > 0 ? p->sector : p->page, cycle, grades);
}

static int list_parts(const work *k)
{
    printf("%-10s %7s %4s  %-11s %6s  %-36s %s\n", "part", "bytes", "pins", "written by", "unit",
           "longest cycle", "access, ns");
    for (size_t i = 0; k->b != NULL && i < k->b->part_count; i++)
        list_part(&k->b->parts[i]);
    for (size_t i = 0; i < bl_parts(); i++)
        list_part(bl_part_at(i));
    return EXIT_GOOD;
}

/* ---- the subcommand ---- */

static int show_plan(const work *k)
{
    if (given.json) {
        plan_json(k);
        return EXIT_GOOD;
    }
    if (given.out != NULL) {
        if (figure_plan(k->b, k->image, given.out, &cli_sink) != BL_OK) return EXIT_FAILED;
        say("%s: the picture", given.out);
        return EXIT_GOOD;
    }
    draw_memory(k);
    for (size_t i = 0; i < k->b->chip_count; i++)
        plan_chip(k, &k->b->chips[i]);
    return EXIT_GOOD;
}

/* The plan needs the build and nothing of the machine; errors of the build are told before any
 * table. */
int chip_plan(int argc, char **argv)
{
    work k;
    (void)argv;
    memset(&k, 0, sizeof k);
    if (argc != 1) return cli_usage("plan shows all chips; it takes no operand");
    if (given.out != NULL && figure_type_of(given.out) == FIGURE_NONE)
        return cli_usage("-o %s: a picture is .png, .svg or .pdf", given.out);
    int code = cli_bench(!chip_given.parts, &k.b);
    if (code == EXIT_GOOD && chip_given.parts) {
        code = list_parts(&k);
        work_end(&k);
        return code;
    }
    if (code == EXIT_GOOD && k.b->chip_count == 0)
        code = fail("%s: there are no chips in it", k.b->path);
    if (code == EXIT_GOOD) code = work_image(&k);
    if (code == EXIT_GOOD) code = show_plan(&k);
    work_end(&k);
    return code;
}

/* Drawings: what is counted for them, their sizes, and their files. */
#include "host_support.h"

#include <math.h>
#include <string.h>

#include "figure/figure_label.h"
#include "figure/figure_lines.h"
#include "figure/figure_plan.h"
#include "figure/strip.h"

enum { MARKS = 64 };

static unsigned count(const strip_mark *marks, strip_mark what)
{
    unsigned n = 0;
    for (unsigned i = 0; i < MARKS; i++)
        n += marks[i] == what;
    return n;
}

TEST(strips_count_what_is_there)
{
    bench *b = example_bench();
    strip_mark marks[MARKS];
    bl_image *image;
    uint8_t bytes[0x0C00];
    memset(bytes, 1, sizeof bytes);
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    CHECK_INT(bl_image_put(image, 0xC000, bytes, sizeof bytes, (bl_origin){0, 0}), BL_OK);
    CHECK_INT(bl_image_put(image, 0xFFFF, bytes, 1, (bl_origin){0, 0}), BL_OK);
    strip_of_range(b, (bl_range){0xC000, 0x4000}, image, MARKS, marks);
    CHECK_INT(count(marks, STRIP_NOTHING), 48); /* a mark is 1 KiB */
    CHECK_INT(count(marks, STRIP_FULL), 3);
    CHECK_INT(count(marks, STRIP_PARTLY), 1);
    CHECK_INT(marks[63], STRIP_PARTLY);
    strip_of_chip_at_cpu(b, &b->chips[0], image, MARKS, marks);
    CHECK_INT(marks[48], STRIP_FULL);
    CHECK_INT(marks[47], STRIP_NOTHING);
    strip_of_chip(&b->chips[0], image, MARKS, marks); /* 512 bytes, the upper half is decoded */
    CHECK_INT(count(marks, STRIP_NOTHING), 32);
    CHECK_INT(count(marks, STRIP_FULL), 6);
    CHECK_INT(marks[32], STRIP_FULL);
    strip_of_range(b, (bl_range){0, 0x10000}, NULL, MARKS, marks);
    CHECK_INT(count(marks, STRIP_THERE), 64);
    bl_image_close(image);
    bench_close(b);
}

TEST(labels_are_as_long_as_their_packages)
{
    static const struct {
        unsigned pins;
        bool narrow;
        double least_mm, max_mm, height_mm;
    } all[] = {{24, false, 29, 30.5, 12.5},
               {28, false, 34, 35.5, 12.5},
               {32, false, 39, 41, 12.5},
               {28, true, 34, 35.5, 5.5}};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        package_label l = {.name = "U1", .pins = all[i].pins, .narrow = all[i].narrow};
        double width, height;
        package_label_size(&l, &width, &height);
        CHECK(width * 25.4 / 72 > all[i].least_mm && width * 25.4 / 72 < all[i].max_mm);
        CHECK(fabs(height * 25.4 / 72 - all[i].height_mm) < 0.1);
    }
}

/* Texts of every length: drawn whole, or refused with no file. */
TEST(labels_fit_or_are_refused)
{
    unsigned drawn = 0, refused = 0;
    for (size_t n = 1; n < 90; n += 4) {
        char text[100];
        memset(text, 'W', n);
        text[n] = '\0';
        package_label l = {.name = "U1", .pins = 28, .narrow = n % 8 == 1};
        l.left[0] = "U1";
        l.left[1] = text;
        test_messages_clear();
        bl_status status = figure_labels(&l, 1, test_path("label.svg"), &test_sink);
        if (status == BL_OK) {
            drawn++;
            CHECK(refused == 0 || l.narrow == false);
            CHECK(test_file_exists("label.svg"));
            CHECK_INT(remove(test_path("label.svg")), 0);
        } else {
            refused++;
            CHECK_INT(status, BL_E_RANGE);
            CHECK_CONTAINS(test_messages(), "has no room for 'WWW");
            CHECK(!test_file_exists("label.svg"));
        }
    }
    CHECK(drawn > 3 && refused > 3);
}

TEST(many_labels_fill_pages)
{
    enum { MANY = 200 };
    static package_label labels[MANY];
    size_t n;
    for (size_t i = 0; i < MANY; i++)
        labels[i] = (package_label){
            .name = "U1", .pins = i % 3 == 0 ? 24 : 28, .left = {"U1", "28C64", "0123"}};
    CHECK_INT(figure_labels(labels, MANY, test_path("many.pdf"), &test_sink), BL_OK);
    CHECK_BYTES(test_read_file("many.pdf", &n), 5, "%PDF-", 5);
    CHECK_INT(figure_labels(labels, MANY, test_path("many.png"), &test_sink), BL_OK);
    CHECK_BYTES(test_read_file("many.png", &n), 4, "\x89PNG", 4);
}

TEST(kinds_of_picture_by_their_ending)
{
    CHECK_INT(figure_type_of("a.png"), FIGURE_PNG);
    CHECK_INT(figure_type_of("a/b.SVG"), FIGURE_SVG);
    CHECK_INT(figure_type_of("x.pdf"), FIGURE_PDF);
    CHECK_INT(figure_type_of(".pdf"), FIGURE_NONE); /* a name that is only an ending */
    CHECK_INT(figure_type_of("pdf"), FIGURE_NONE);
    CHECK_INT(figure_type_of(NULL), FIGURE_NONE);
    bl_text text = {"a line\nand one more\n", 20};
    size_t n;
    CHECK_INT(figure_lines(text, test_path("t.png"), &test_sink), BL_OK);
    CHECK_BYTES(test_read_file("t.png", &n), 4, "\x89PNG", 4);
    CHECK_INT(figure_lines((bl_text){"", 0}, test_path("e.pdf"), &test_sink), BL_OK);
}

TEST(a_plan_of_any_machine_can_be_drawn)
{
    static const char *const all[] = {"skerry-65", "skerry-80", "skerry-85", "skerry-68",
                                      "skerry-store"};
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bench *b = example_bench_named(all[i]);
        bl_image *image;
        CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
        CHECK_INT(figure_plan(b, image, test_path("plan.svg"), &test_sink), BL_OK);
        size_t n;
        CHECK_CONTAINS(test_read_file("plan.svg", &n), "</svg>");
        bl_image_close(image);
        bench_close(b);
    }
}

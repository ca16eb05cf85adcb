/* The logbook: what was built, what was written, and finding it again. */
#include "host_support.h"

#include <glib.h>
#include <sqlite3.h>
#include <string.h>
#include <sys/stat.h>

#include "bootlace/crc.h"
#include "logbook.h"

static bl_image *image_with(uint8_t first)
{
    bl_image *image;
    uint8_t bytes[] = {first, 2, 3};
    CHECK_INT(bl_image_open(&test_memory, &image), BL_OK);
    CHECK_INT(bl_image_put(image, 0xC000, bytes, sizeof bytes, (bl_origin){0, 0}), BL_OK);
    return image;
}

/* The example's bench, its logbook in the test's folder. */
static bench *bench_with_book(const char *version)
{
    bench *b = example_bench();
    b->logbook = "book.sqlite";
    b->version = version;
    return b;
}

static void build(bench *b, uint8_t first)
{
    logbook *l = logbook_open(b, &test_sink);
    bl_image *image = image_with(first);
    logbook_built(l, b, image);
    bl_image_close(image);
    logbook_close(l);
}

static bool find(bench *b, uint8_t first, logbook_content *found)
{
    logbook *l = logbook_open(b, &test_sink);
    bl_image *image = image_with(first);
    static uint8_t bytes[32768];
    uint32_t used;
    bl_chip_contents(&b->chips[0], image, bytes, &used);
    bool there = logbook_find(l, bytes, sizeof bytes, found);
    bl_image_close(image);
    logbook_close(l);
    return there;
}

TEST(what_was_built_is_found_again)
{
    logbook_content found;
    bench *b = bench_with_book("one");
    CHECK(!find(b, 1, &found));
    build(b, 1);
    build(b, 1); /* the same once more is the same */
    b->version = "two";
    build(b, 7);
    CHECK(find(b, 1, &found));
    CHECK_TEXT(found.bench, "Skerry-65");
    CHECK_TEXT(found.chip, "U5");
    CHECK_TEXT(found.version, "one");
    CHECK(found.time > 1700000000);
    CHECK(find(b, 7, &found));
    CHECK_TEXT(found.version, "two");
    CHECK(!find(b, 8, &found));
    bench_close(b);
}

typedef struct seen {
    unsigned count, good;
    char versions[100];
} seen;

static void see(void *context, const logbook_burn *burn, const char *version)
{
    seen *s = context;
    s->count++;
    s->good += burn->verified;
    strcat(s->versions, version);
    strcat(s->versions, ";");
    CHECK_TEXT(burn->part, "28C256");
}

TEST(wear_and_history)
{
    bench *b = bench_with_book("one");
    logbook *l = logbook_open(b, &test_sink);
    logbook_burn burn = {.chip = "U5", .copy = 1, .part = "28C256", .size = 32768, .crc32 = 5};
    CHECK_INT(logbook_wear(l, b, "U5", 1), 0);
    burn.pages = 12, burn.verified = true;
    logbook_burned(l, b, &burn);
    burn.pages = 0; /* it held everything already: no wear */
    logbook_burned(l, b, &burn);
    burn.pages = 3, burn.verified = false;
    logbook_burned(l, b, &burn);
    burn.copy = 2;
    logbook_burned(l, b, &burn);
    CHECK_INT(logbook_wear(l, b, "U5", 1), 2);
    CHECK_INT(logbook_wear(l, b, "U5", 2), 1);
    CHECK_INT(logbook_wear(l, b, "U6", 1), 0);
    seen s = {0};
    logbook_history(l, b, NULL, see, &s);
    CHECK_INT(s.count, 4);
    CHECK_INT(s.good, 2);
    seen none = {0};
    logbook_history(l, b, "U6", see, &none);
    CHECK_INT(none.count, 0);
    b->name = "Another"; /* another machine's chips are not these */
    CHECK_INT(logbook_wear(l, b, "U5", 1), 0);
    logbook_close(l);
    bench_close(b);
}

TEST(a_file_that_is_no_logbook)
{
    logbook_content found;
    bench *b = bench_with_book("one");
    test_write_file("book.sqlite",
                    "this is a letter to the keeper, not a database, and long enough");
    test_messages_clear();
    CHECK(!find(b, 1, &found));
    CHECK_CONTAINS(test_messages(), "the logbook cannot be used");
    size_t n;
    CHECK_CONTAINS(test_read_file("book.sqlite", &n), "letter to the keeper"); /* left alone */
    bench_close(b);
}

/* ---- a logbook that cannot be used says so ---- */

static void write_book(bench *b)
{
    build(b, 1);
    logbook *l = logbook_open(b, &test_sink);
    logbook_burn burn = {
        .chip = "U5", .copy = 1, .part = "28C256", .size = 32768, .verified = true};
    logbook_burned(l, b, &burn);
    logbook_close(l);
}

static void count_burn(void *context, const logbook_burn *burn, const char *version)
{
    (void)burn, (void)version;
    ++*(unsigned *)context;
}

static unsigned history(bench *b, bool *read)
{
    unsigned count = 0;
    test_messages_clear();
    logbook *l = logbook_open(b, &test_sink);
    logbook_history(l, b, NULL, count_burn, &count);
    *read = logbook_was_read(l);
    logbook_close(l);
    return count;
}

TEST(a_damaged_or_locked_logbook_is_not_an_empty_one)
{
    bool read;
    bench *b = bench_with_book("one");
    write_book(b);
    CHECK_INT(history(b, &read), 1);
    CHECK(read);
    struct stat info;
    CHECK(stat(test_path("book.sqlite"), &info) == 0 && (info.st_mode & 077) == 0);

    sqlite3 *other;
    CHECK_INT(sqlite3_open(test_path("book.sqlite"), &other), SQLITE_OK);
    CHECK_INT(sqlite3_exec(other, "BEGIN EXCLUSIVE", NULL, NULL, NULL), SQLITE_OK);
    CHECK_INT(history(b, &read), 0);
    CHECK(!read);
    CHECK_CONTAINS(test_messages(), "the logbook cannot be used: database is locked");
    sqlite3_close(other);

    size_t n;
    const char *book = test_read_file("book.sqlite", &n);
    char *whole = g_memdup2(book, n);
    memset(whole + 4096, 0x5A, n - 4096); /* its tables */
    test_write_bytes("book.sqlite", whole, n);
    history(b, &read);
    CHECK(!read);
    test_write_file("book.sqlite", "this is no logbook, and never was one, whatever it is called");
    CHECK_INT(history(b, &read), 0);
    CHECK(!read);
    g_free(whole);
    bench_close(b);
}

/* A sending that broke off is forgotten, so that the next one looks at what is there. */
TEST(a_sending_that_broke_off_is_forgotten)
{
    bench *b = bench_with_book("one");
    bl_image *image = image_with(1), *last;
    logbook *l = logbook_open(b, &test_sink);
    logbook_sent(l, b, "sim", image);
    logbook_last_sent(l, b, "sim", &last);
    CHECK(last != NULL);
    bl_image_close(last);
    logbook_forget_sent(l, b, "sim");
    logbook_last_sent(l, b, "sim", &last);
    CHECK(last == NULL);
    logbook_close(l);
    bl_image_close(image);
    bench_close(b);
}

/* Mutations of good volumes: errors, and nothing else. No crash, no endless loop, no read outside
 * (the medium looks), and no write by what only looks. */
#include <string.h>

#include "fat_disk.h"

static bl_status forget(void *context, const void *bytes, size_t count)
{
    size_t *all = context;
    (void)bytes;
    *all += count;
    return BL_OK;
}

typedef struct paths {
    char path[12][BL_DISK_NAME];
    unsigned count;
} paths;

static bl_status keep_path(void *context, const bl_disk_entry *e)
{
    paths *p = context;
    if (p->count < 12) bl_format(p->path[p->count++], BL_DISK_NAME, "%s", e->name);
    return BL_OK;
}

static bl_status ignore_run(void *context, uint32_t first, uint32_t count, bl_disk_use use,
                            const char *path)
{
    medium *m = context;
    (void)use, (void)path;
    CHECK(count > 0 && first + count <= m->sectors.count);
    return BL_OK;
}

/* All that only looks. */
static void look_at(medium *m)
{
    bl_disk d;
    bl_disk_report r = {0};
    bl_disk_space s;
    paths p = {.count = 0};
    char text[BL_DISK_NAME];
    bl_disk_setup setup = {.sink = {0}};
    uint32_t writes = m->writes;
    if (bl_disk_open(&d, &m->sectors, &test_memory, &setup) != BL_OK) return;
    bl_disk_label(&d, text);
    bl_disk_describe(&d, text, sizeof text);
    bl_disk_space_of(&d, &s);
    bl_disk_list(&d, "", keep_path, &p);
    for (unsigned i = 0; i < p.count; i++) {
        size_t count = 0;
        bl_writer writer = {&count, forget};
        bl_disk_entry e;
        if (bl_disk_find(&d, p.path[i], &e) != BL_OK) continue;
        bl_status status = bl_disk_get(&d, p.path[i], &writer);
        if (!e.folder && status == BL_OK) CHECK_INT(count, e.size);
        bl_disk_list(&d, p.path[i], keep_path, &p);
    }
    bl_disk_map(&d, ignore_run, m);
    bl_disk_check(&d, false, &r);
    CHECK_INT(m->writes, writes);
    bl_disk_close(&d);
}

/* All that changes: it may fail, and must end. */
static void work_on(medium *m)
{
    static uint8_t bytes[4000];
    bl_disk d;
    bl_disk_report r = {0};
    bl_disk_setup setup = {.live = test_below(2) != 0};
    if (bl_disk_open(&d, &m->sectors, &test_memory, &setup) != BL_OK) return;
    medium_put(&d, "A", bytes, test_below(sizeof bytes));
    medium_put(&d, "NEW", bytes, test_below(sizeof bytes));
    bl_disk_folder(&d, "DEEP/DEEP2");
    bl_disk_delete(&d, "B", true);
    bl_disk_rename(&d, "DEEP", "OTHER");
    bl_status status = bl_disk_check(&d, true, &r);
    if (status == BL_OK) {
        /* What was mended stays so. */
        bl_status again = bl_disk_check(&d, false, &r);
        CHECK_INT(again, BL_OK);
    }
    bl_disk_close(&d);
}

static void fill_sample(medium *m)
{
    static uint8_t bytes[3000];
    bl_disk d;
    medium_open(m, &d, true);
    medium_fill(bytes, sizeof bytes, 1);
    CHECK_INT(medium_put(&d, "A", bytes, 3000), BL_OK);
    CHECK_INT(medium_put(&d, "B", bytes, 700), BL_OK);
    if (bl_disk_kind_of(&d) == BL_DISK_FAT12) {
        CHECK_INT(bl_disk_folder(&d, "DEEP"), BL_OK);
        CHECK_INT(bl_disk_folder(&d, "DEEP/DEEP2"), BL_OK);
        CHECK_INT(medium_put(&d, "DEEP/DEEP2/C", bytes, 1500), BL_OK);
    }
    bl_disk_close(&d);
}

/* Some bytes of what the file system says of itself are something else. */
static void mutate(medium *m, uint32_t first, uint32_t bytes)
{
    unsigned count = 1 + test_below(6);
    for (unsigned i = 0; i < count; i++) {
        uint8_t *p = m->bytes + first + test_below(bytes);
        unsigned how = test_below(5);
        if (how == 0) *p = (uint8_t)test_random();
        if (how == 1) *p ^= (uint8_t)(1u << test_below(8));
        if (how == 2) *p = 0xFF;
        if (how == 3) *p = 0;
        if (how == 4) memmove(p, m->bytes + test_below(bytes), 1 + test_below(31));
    }
}

static void torture(medium *m, unsigned turns, uint32_t system_bytes)
{
    size_t all = (size_t)m->sectors.count * m->sectors.size;
    uint8_t *good = m->bytes, *work = test_memory.resize(test_memory.context, NULL, all);
    CHECK(work != NULL);
    size_t blocks = test_blocks();
    for (unsigned i = 0; i < turns; i++) {
        memcpy(work, good, all);
        m->bytes = work;
        mutate(m, test_below(4) == 0 ? 0 : 512, i % 9 == 0 ? 64 : system_bytes - 600);
        look_at(m);
        work_on(m);
        CHECK_INT(test_blocks(), blocks);
        m->bytes = good;
    }
    test_memory.resize(test_memory.context, work, 0);
}

TEST(fat_mutations_give_errors_and_no_harm)
{
    medium m;
    fat_disk_begin(&m, 320, false);
    fill_sample(&m);
    torture(&m, 4000, 15 * 512);
    medium_end(&m);
}

TEST(classic_mutations_give_errors_and_no_harm)
{
    medium m;
    bl_classic l = {
        .sector = 128, .track = 10, .tracks = 30, .block = 1024, .entries = 16, .skew = 3};
    medium_begin(&m, 300, 128);
    CHECK_INT(bl_classic_format(&m.sectors, &l), BL_OK);
    bl_disk d;
    bl_disk_setup setup = {.sink = test_sink, .layouts = &l, .layout_count = 1, .live = true};
    CHECK_INT(bl_disk_open(&d, &m.sectors, &test_memory, &setup), BL_OK);
    static uint8_t bytes[3000];
    CHECK_INT(medium_put(&d, "A", bytes, 3000), BL_OK);
    CHECK_INT(medium_put(&d, "B", bytes, 700), BL_OK);
    bl_disk_close(&d);
    size_t all = 300 * 128;
    uint8_t *good = m.bytes, *work = test_memory.resize(test_memory.context, NULL, all);
    for (unsigned i = 0; i < 4000; i++) {
        memcpy(work, good, all);
        m.bytes = work;
        for (unsigned k = 0; k < 1 + i % 4; k++)
            work[test_below(512)] = (uint8_t)test_random();
        setup.sink = (bl_sink){0}, setup.kind = BL_DISK_CLASSIC, setup.live = i % 2 != 0;
        CHECK_INT(bl_disk_open(&d, &m.sectors, &test_memory, &setup), BL_OK);
        bl_disk_report r = {0};
        paths p = {.count = 0};
        uint32_t writes = m.writes;
        bl_disk_list(&d, "", keep_path, &p);
        for (unsigned k = 0; k < p.count; k++) {
            size_t count = 0;
            bl_writer writer = {&count, forget};
            bl_disk_get(&d, p.path[k], &writer);
        }
        bl_disk_check(&d, false, &r);
        bl_disk_map(&d, ignore_run, &m);
        CHECK_INT(m.writes, writes);
        medium_put(&d, "A", bytes, test_below(3000));
        bl_disk_delete(&d, "B", true);
        bl_disk_check(&d, true, &r);
        bl_disk_close(&d);
        m.bytes = good;
    }
    test_memory.resize(test_memory.context, work, 0);
    medium_end(&m);
}

TEST(bare_mutations_give_errors_and_no_harm)
{
    medium m;
    medium_begin(&m, 64, 512);
    CHECK_INT(bl_bare_format(&m.sectors, "SKERRY", 0), BL_OK);
    fill_sample(&m);
    torture(&m, 4000, 1200);
    medium_end(&m);
}

/* harness_support.c - memory that counts and fails, sinks and writers that keep, chance. */
#include <stdlib.h>
#include <string.h>

#include "harness.h"

static size_t blocks;
static long countdown;
static bool failed;

static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size == 0) {
        if (block != NULL) blocks--;
        free(block);
        return NULL;
    }
    if (countdown > 0 && --countdown == 0) {
        failed = true;
        return NULL;
    }
    void *p = realloc(block, size);
    if (p != NULL && block == NULL) blocks++;
    return p;
}

const bl_memory test_memory = {NULL, resize};

size_t test_blocks(void)
{
    return blocks;
}

void test_memory_fail_at(long nth)
{
    countdown = nth;
    failed = false;
}

bool test_memory_failed(void)
{
    return failed;
}

/* ---- kept text ---- */

typedef struct kept {
    char *text;
    size_t count, capacity;
} kept;

static kept messages, written;
static unsigned errors;

static bl_status keep(void *context, const void *bytes, size_t count)
{
    kept *k = context;
    if (k->count + count + 1 > k->capacity) {
        k->capacity = (k->count + count + 1) * 2;
        k->text = realloc(k->text, k->capacity);
        if (k->text == NULL) abort();
    }
    memcpy(k->text + k->count, bytes, count);
    k->count += count;
    k->text[k->count] = '\0';
    return BL_OK;
}

static void report(void *context, const bl_diag *diag)
{
    static const bl_writer w = {&messages, keep};
    (void)context;
    if (diag->severity == BL_ERROR) errors++;
    bl_diag_render(diag, &w, false);
}

const bl_sink test_sink = {NULL, report};
const bl_writer test_writer = {&written, keep};

const char *test_messages(void)
{
    return messages.text != NULL ? messages.text : "";
}

unsigned test_error_count(void)
{
    return errors;
}

void test_messages_clear(void)
{
    keep(&messages, "", 0);
    messages.count = 0;
    messages.text[0] = '\0';
    errors = 0;
}

const char *test_written(size_t *count)
{
    if (count != NULL) *count = written.count;
    return written.text;
}

void test_written_clear(void)
{
    keep(&written, "", 0);
    written.count = 0;
    written.text[0] = '\0';
}

/* ---- chance: xorshift ---- */

static uint64_t state = 1;

void test_seed(uint64_t seed)
{
    state = seed * 0x9E3779B97F4A7C15u + 1;
}

uint32_t test_random(void)
{
    state ^= state << 13;
    state ^= state >> 7;
    state ^= state << 17;
    return (uint32_t)(state >> 16);
}

uint32_t test_below(uint32_t limit)
{
    return test_random() % limit;
}

/* harness_command.c - temporary folders, files, and running the command as a user would. */
#include <ftw.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "harness.h"
#include "harness_private.h"

static char folder[256];
static char *contents, *source_text, *captured_out, *captured_err;

static int remove_entry(const char *path, const struct stat *s, int type, struct FTW *f)
{
    (void)s, (void)type, (void)f;
    return remove(path);
}

void test_folder_remove(void)
{
    if (folder[0] == '\0') return;
    char data[sizeof folder + 8]; /* of the user, as test_command sets it */
    snprintf(data, sizeof data, "%s.data", folder);
    nftw(folder, remove_entry, 16, FTW_DEPTH | FTW_PHYS);
    nftw(data, remove_entry, 16, FTW_DEPTH | FTW_PHYS);
    folder[0] = '\0';
}

const char *test_folder(void)
{
    if (folder[0] != '\0') return folder;
    const char *base = getenv("TMPDIR");
    snprintf(folder, sizeof folder, "%s/bootlace-test-XXXXXX", base != NULL ? base : "/tmp");
    if (mkdtemp(folder) == NULL) test_fail(__FILE__, __LINE__, "no temporary folder");
    return folder;
}

const char *test_path(const char *name)
{
    static char ring[8][512];
    static unsigned turn;
    char *path = ring[turn++ % 8];
    snprintf(path, sizeof ring[0], "%s/%s", test_folder(), name);
    return path;
}

void test_write_bytes(const char *name, const void *bytes, size_t count)
{
    FILE *f = fopen(test_path(name), "wb");
    if (f == NULL || fwrite(bytes, 1, count, f) != count || fclose(f) != 0)
        test_fail(__FILE__, __LINE__, "cannot write %s", name);
}

void test_write_file(const char *name, const char *text)
{
    test_write_bytes(name, text, strlen(text));
}

static char *read_whole(const char *path, size_t *count)
{
    FILE *f = fopen(path, "rb");
    if (f == NULL) return NULL;
    char *text = NULL;
    size_t n = 0, capacity = 0, got;
    do {
        capacity += 65536;
        text = realloc(text, capacity + 1);
        if (text == NULL) abort();
        got = fread(text + n, 1, capacity - n, f);
        n += got;
    } while (got > 0);
    fclose(f);
    text[n] = '\0';
    if (count != NULL) *count = n;
    return text;
}

const char *test_read_file(const char *name, size_t *count)
{
    free(contents);
    contents = read_whole(test_path(name), count);
    if (contents == NULL) test_fail(__FILE__, __LINE__, "cannot read %s", name);
    return contents;
}

bool test_file_exists(const char *name)
{
    return access(test_path(name), F_OK) == 0;
}

const char *test_source_folder(void)
{
    return BOOTLACE_SOURCE;
}

const char *test_build_folder(void)
{
    return BOOTLACE_BUILD;
}

const char *test_read_source(const char *name, size_t *count)
{
    char path[512];
    snprintf(path, sizeof path, "%s/%s", test_source_folder(), name);
    free(source_text);
    source_text = read_whole(path, count);
    if (source_text == NULL) test_fail(__FILE__, __LINE__, "cannot read %s", path);
    return source_text;
}

test_run test_command(const char *line, ...)
{
    char words[2048], whole[4096];
    va_list list;
    va_start(list, line);
    vsnprintf(words, sizeof words, line, list);
    va_end(list);
    snprintf(whole, sizeof whole,
             "cd '%s' && PATH='%s':'" BOOTLACE_BUILD
             "/tests':\"$PATH\" && NO_COLOR= && XDG_DATA_HOME='%s.data' && "
             "export PATH NO_COLOR XDG_DATA_HOME && (%s) >'%s.out' 2>'%s.err' </dev/null",
             test_folder(), BOOTLACE_BUILD, folder, words, folder, folder);
    int status = system(whole);
    char path[300];
    test_run r = {WIFEXITED(status) ? WEXITSTATUS(status) : -1, NULL, NULL, 0};
    free(captured_out);
    free(captured_err);
    snprintf(path, sizeof path, "%s.out", folder);
    captured_out = read_whole(path, &r.out_count);
    unlink(path);
    snprintf(path, sizeof path, "%s.err", folder);
    captured_err = read_whole(path, NULL);
    unlink(path);
    r.out = captured_out != NULL ? captured_out : "";
    r.err = captured_err != NULL ? captured_err : "";
    return r;
}

#include "cli_support.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

void copy_example_named(const char *name)
{
    test_folder();
    test_run r =
        test_command("cp '%s'/examples/%s/* . 2>cp.err; rm -rf out state cp.err; ls bench.yaml",
                     test_source_folder(), name);
    CHECK_INT(r.code, 0);
}

void copy_example(void)
{
    copy_example_named("skerry-65");
}

void edit(const char *name, const char *old, const char *fresh)
{
    char whole[20000];
    size_t n;
    const char *text = test_read_file(name, &n), *at = strstr(text, old);
    if (at == NULL || n + strlen(fresh) >= sizeof whole)
        test_fail(__FILE__, __LINE__, "'%s' is not in %s", old, name);
    snprintf(whole, sizeof whole, "%.*s%s%s", (int)(at - text), text, fresh, at + strlen(old));
    test_write_file(name, whole);
}

test_run expect_code(int code, const char *line, ...)
{
    char words[2048];
    va_list list;
    va_start(list, line);
    vsnprintf(words, sizeof words, line, list);
    va_end(list);
    test_run r = test_command("%s", words);
    if (r.code != code)
        test_fail(__FILE__, __LINE__, "%s\nended with %d, expected %d\n%s%s", words, r.code, code,
                  r.out, r.err);
    return r;
}

unsigned count_files(void)
{
    return (unsigned)strtoul(test_command("find . -type f | wc -l").out, NULL, 10);
}

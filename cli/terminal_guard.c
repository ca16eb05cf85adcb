/* terminal_guard.c - standard output when it is a terminal: control characters of names and texts
 * that come from anywhere are shown as such, whoever prints them. Only our own colours pass, in
 * disguise. */
#define _GNU_SOURCE /* fopencookie */
#include <errno.h>
#include <string.h>
#include <unistd.h>

#include "cli.h"

/* A character that no text has, U+FDD0, and a letter, stand for a colour until the last moment. */
static const char disguise[] = "\xEF\xB7\x90";

static const struct {
    char letter;
    const char *code;
} colours[] = {{'g', "\x1b[32m"}, {'y', "\x1b[33m"}, {'b', "\x1b[33;1m"}, {'0', "\x1b[0m"}};

const char *cli_green(void)
{
    return cli_colour(stdout) ? "\xEF\xB7\x90g" : "";
}

const char *cli_yellow(void)
{
    return cli_colour(stdout) ? "\xEF\xB7\x90y" : "";
}

const char *cli_bright(void)
{
    return cli_colour(stdout) ? "\xEF\xB7\x90"
                                "b"
                              : "";
}

const char *cli_plain(void)
{
    return cli_colour(stdout) ? "\xEF\xB7\x90"
                                "0"
                              : "";
}

static bl_status write_through(void *context, const void *bytes, size_t count)
{
    const char *at = bytes;
    (void)context;
    while (count > 0) {
        ssize_t n = write(STDOUT_FILENO, at, count);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return BL_E_IO;
        at += n;
        count -= (size_t)n;
    }
    return BL_OK;
}

bool cli_raw(const void *bytes, size_t count)
{
    return fflush(stdout) == 0 && write_through(NULL, bytes, count) == BL_OK;
}

/* The code of a colour at a place of the text; NULL: none stands there. */
static const char *colour_at(const char *at, size_t left)
{
    size_t n = sizeof disguise - 1;
    if (left <= n || memcmp(at, disguise, n) != 0) return NULL;
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++)
        if (colours[i].letter == at[n]) return colours[i].code;
    return NULL;
}

/* How much at the end of the text may be the beginning of a character, or of a colour. */
static size_t unfinished(const char *text, size_t count)
{
    size_t max = count < 3 ? count : 3;
    for (size_t n = 1; n <= max; n++) {
        uint8_t lead = (uint8_t)text[count - n];
        if ((lead & 0xC0) == 0x80) continue;
        bool whole = lead < 0x80 || (lead < 0xE0 && n >= 2) || (lead < 0xF0 && n >= 3);
        bool colour = n == 3 && memcmp(text + count - 3, disguise, 3) == 0;
        return whole && !colour ? 0 : n;
    }
    return 0;
}

/* The stream's own write: our colours come as characters that no text has, everything else that a
 * terminal would obey is shown. */
static ssize_t guarded_write(void *cookie, const char *bytes, size_t count)
{
    static const bl_writer through = {NULL, write_through};
    GString *text = cookie; /* with what the write before left over */
    bl_status status = BL_OK;
    g_string_append_len(text, bytes, (gssize)count);
    size_t keep = unfinished(text->str, text->len), end = text->len - keep, from = 0;
    for (size_t at = 0; at < end && status == BL_OK;) {
        const char *code = colour_at(text->str + at, end - at);
        if (code == NULL) {
            at++;
            continue;
        }
        status = bl_show((bl_text){text->str + from, at - from}, true, &through);
        if (status == BL_OK) status = write_through(NULL, code, strlen(code));
        from = at += sizeof disguise;
    }
    if (status == BL_OK) status = bl_show((bl_text){text->str + from, end - from}, true, &through);
    g_string_erase(text, 0, (gssize)end);
    return status == BL_OK ? (ssize_t)count : -1;
}

void cli_guard_terminal(void)
{
    if (!isatty(STDOUT_FILENO)) return;
#ifdef __GLIBC__ /* elsewhere stdout cannot be exchanged */
    cookie_io_functions_t functions = {.write = guarded_write};
    FILE *guarded = fopencookie(g_string_new(NULL), "w", functions);
    if (guarded == NULL) return;
    setvbuf(guarded, NULL, _IOLBF, BUFSIZ);
    stdout = guarded;
#endif
}

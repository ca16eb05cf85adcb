#include "monitor_support.h"

monitor *m;
GString *out, *said;

void begin_asking(const bench *b, const bl_target *target)
{
    m = monitor_open(b, target, NULL);
    out = g_string_new(NULL);
    said = g_string_new(NULL);
}

void end_asking(void)
{
    monitor_close(m);
    g_string_free(out, TRUE);
    g_string_free(said, TRUE);
}

static monitor_status obey(const char *line)
{
    g_string_truncate(out, 0);
    g_string_truncate(said, 0);
    return monitor_obey(m, line, out, said);
}

const char *(ask)(const char *line)
{
    if (obey(line) != MONITOR_GOOD) test_fail(__FILE__, __LINE__, "%s: %s", line, said->str);
    return out->str;
}

const char *(refused)(const char *line)
{
    CHECK_INT(obey(line), MONITOR_FAILED);
    CHECK(said->len > 0);
    return said->str;
}

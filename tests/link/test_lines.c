/* Lines of text into loaders that are slow, that echo, that accept and reject; and what each does
 * to a line that came wrong. */
#include <stdio.h>
#include <string.h>

#include "pair.h"

/* A loader at the remote: takes lines that end in \r, echoes if it is told to, says '+' or '-'.
 * Every line must carry its length and a sum of its characters: "text,LLSS". */
typedef struct loader {
    bl_transport transport;
    bool echo, silent;
    char line[200], taken[4000];
    size_t count, taken_count;
    uint8_t say[64];
    size_t say_count;
    unsigned rejected, cancelled;
    uint64_t heard_at, soonest_us;
    unsigned lost;
} loader;

static void speak(loader *l, const char *text, uint64_t now)
{
    size_t n = strlen(text), waiting = l->transport.out_count - l->transport.out_sent;
    memmove(l->say, l->say + l->say_count - waiting, waiting);
    CHECK(waiting + n <= sizeof l->say);
    memcpy(l->say + waiting, text, n);
    l->say_count = waiting + n;
    bl_transport_say(&l->transport, l->say, l->say_count, 1000000, now);
}

static bool is_good(const char *line, size_t count)
{
    unsigned length, sum = 0, told;
    if (count < 5 || line[count - 5] != ',') return false;
    if (sscanf(line + count - 4, "%2x%2x", &length, &told) != 2) return false;
    for (size_t i = 0; i < count - 5; i++)
        sum += (unsigned char)line[i];
    return length == (count - 5) && (sum & 0xFF) == told;
}

static void take_line(loader *l, uint64_t now)
{
    bool good = is_good(l->line, l->count);
    /* A record may come twice when its answer was damaged: it sets the same memory again. */
    size_t n = l->count;
    bool again = l->taken_count > n && memcmp(l->taken + l->taken_count - n - 1, l->line, n) == 0;
    if (good && !again) {
        CHECK(l->taken_count + l->count + 1 < sizeof l->taken);
        memcpy(l->taken + l->taken_count, l->line, l->count);
        l->taken_count += l->count;
        l->taken[l->taken_count++] = '\n';
        l->taken[l->taken_count] = '\0';
    }
    l->rejected += !good;
    l->count = 0;
    if (!l->silent) speak(l, good ? "\r\n+" : "\r\n-", now);
}

static void hear(bl_transport *transport, uint8_t byte, uint64_t now)
{
    loader *l = (loader *)transport;
    bool soon = l->heard_at != 0 && now < l->heard_at + l->soonest_us;
    l->heard_at = now;
    if (soon) {
        l->lost++;
        return;
    }
    char echo[2] = {(char)byte, '\0'};
    if (byte == '\r') {
        take_line(l, now);
    } else if (byte == 0x18) {
        l->cancelled++;
        l->count = 0;
    } else if (l->count < sizeof l->line) {
        l->line[l->count++] = (char)byte;
        if (l->echo) speak(l, echo, now);
    }
}

static void idle(bl_transport *transport, uint64_t now)
{
    transport->deadline = now + 1000000;
}

static const bl_transport_kind kind = {"a loader", hear, idle, NULL};
static loader far;
static bl_lines lines;
static char text[2000];

/* So many lines, each with its length and sum. */
static void make_text(unsigned count, const char *ending)
{
    size_t at = 0;
    for (unsigned i = 0; i < count; i++) {
        char body[40];
        unsigned sum = 0;
        snprintf(body, sizeof body, "line %u of tide table %X", i, (unsigned)test_below(100000));
        for (const char *p = body; *p != '\0'; p++)
            sum += (unsigned char)*p;
        at += (size_t)snprintf(text + at, sizeof text - at, "%s,%02X%02X%s", body,
                               (unsigned)strlen(body), sum & 0xFF, ending);
    }
}

static const bl_lines_manner answered = {"\r", "+", "-", "", false, 0, 0, 500000};

static bl_status send(pair *p, const bl_lines_manner *manner, uint32_t soonest_us)
{
    bool echo = far.echo, silent = far.silent;
    memset(&far, 0, sizeof far);
    far.echo = echo;
    far.silent = silent;
    far.soonest_us = soonest_us;
    bl_transport_begin(&far.transport, &kind, 9600, 0);
    far.transport.deadline = p->now + 1000000;
    bl_lines_send(&lines, 9600, (bl_text){text, strlen(text)}, manner, p->now);
    p->end[0] = &lines.transport;
    p->end[1] = &far.transport;
    return pair_run(p);
}

TEST(lines_arrive_and_are_counted)
{
    static const char *const endings[] = {"\n", "\r\n"};
    for (unsigned i = 0; i < 4; i++) {
        pair p;
        far.echo = i & 2;
        far.silent = false;
        bl_lines_manner manner = answered;
        manner.echo = far.echo;
        make_text(20, endings[i & 1]);
        pair_begin(&p, 9600, i, 0, 0);
        CHECK_INT(send(&p, &manner, 0), BL_OK);
        CHECK_INT(lines.line, 20);
        CHECK_INT(lines.transport.done, lines.transport.total);
        CHECK_INT(lines.transport.resends, 0);
        make_text(0, "");
        CHECK_INT(far.rejected, 0);
        unsigned ends = 0;
        for (const char *c = far.taken; *c != '\0'; c++)
            ends += *c == '\n';
        CHECK_INT(ends, 20);
    }
    far.echo = false;
}

/* A rejected line is sent again; what the loader took is what was sent, whatever the line did. */
TEST(rejected_lines_are_sent_again)
{
    unsigned whole = 0, again = 0;
    far.echo = far.silent = false;
    for (unsigned turn = 0; turn < 300; turn++) {
        pair p;
        make_text(6, "\n");
        pair_begin(&p, 9600, turn, 4000, 0); /* flips: each line still ends */
        bl_status status = send(&p, &answered, 0);
        again += lines.transport.resends;
        if (status != BL_OK) {
            CHECK(status == BL_E_LINE || status == BL_E_REFUSED || status == BL_E_TIMEOUT);
            continue;
        }
        whole++;
        CHECK_CONTAINS(far.taken, text);
    }
    CHECK(whole > 200);
    CHECK(again > 100);
}

/* With an echo a wrong line is never ended: it is cancelled, and typed again. */
TEST(an_echo_that_is_wrong_cancels_the_line)
{
    unsigned whole = 0, cancelled = 0;
    bl_lines_manner manner = answered;
    manner.echo = true;
    manner.cancel = "\x18";
    far.echo = true;
    far.silent = false;
    for (unsigned turn = 0; turn < 100; turn++) {
        pair p;
        make_text(6, "\n");
        pair_begin(&p, 9600, turn, 4000, 3000);
        bl_status status = send(&p, &manner, 0);
        cancelled += far.cancelled;
        if (status != BL_OK) continue;
        whole++;
        CHECK_CONTAINS(far.taken, text);
    }
    CHECK(whole > 60);
    CHECK(cancelled > 20);
    /* Without a way to cancel, it ends there, and tells the line. */
    pair p;
    manner.cancel = "";
    make_text(6, "\n");
    pair_begin(&p, 9600, 3, 300, 0);
    CHECK_INT(send(&p, &manner, 0), BL_E_LINE);
    CHECK(lines.line >= 1 && lines.line <= 6);
    far.echo = false;
}

TEST(a_loader_that_needs_time_gets_it)
{
    pair p;
    bl_lines_manner manner = answered;
    far.echo = far.silent = false;
    make_text(3, "\n");
    pair_begin(&p, 9600, 1, 0, 0);
    CHECK(send(&p, &manner, 2000) != BL_OK); /* half of the characters are lost */
    CHECK(far.lost > 0);
    manner.pace_us = 2000;
    pair_begin(&p, 9600, 1, 0, 0);
    uint64_t began = p.now;
    CHECK_INT(send(&p, &manner, 2000), BL_OK);
    CHECK_INT(far.lost, 0);
    CHECK(p.now - began > strlen(text) * 3000);
    manner.rest_us = 100000;
    manner.accept = "";
    far.silent = true; /* it says nothing at all */
    pair_begin(&p, 9600, 1, 0, 0);
    began = p.now;
    CHECK_INT(send(&p, &manner, 2000), BL_OK);
    CHECK(p.now - began > 2 * 100000);
    CHECK_CONTAINS(far.taken, text);
}

TEST(lines_that_cannot_be_sent)
{
    pair p;
    far.echo = false;
    far.silent = true;
    make_text(3, "\n");
    pair_begin(&p, 9600, 1, 0, 0);
    CHECK_INT(send(&p, &answered, 0), BL_E_TIMEOUT); /* nobody says anything */
    CHECK_INT(lines.line, 1);
    memset(text, 'x', BL_LINES_LONGEST + 1);
    text[BL_LINES_LONGEST + 1] = '\0';
    bl_lines_send(&lines, 9600, (bl_text){text, strlen(text)}, &answered, 0);
    CHECK_INT(bl_transport_status(&lines.transport), BL_E_ARGUMENT);
    text[BL_LINES_LONGEST] = '\n';
    bl_lines_send(&lines, 9600, (bl_text){text, strlen(text)}, &answered, 0);
    CHECK_INT(bl_transport_status(&lines.transport), BL_E_BUSY);
    bl_lines_send(&lines, 9600, (bl_text){"", 0}, &answered, 0);
    CHECK_INT(bl_transport_status(&lines.transport), BL_OK);
    far.silent = false;
}

/* The neighbours' monitors by themselves: what each says to what, over a line in virtual time. */
#include <string.h>

#include "harness.h"
#include "sim/neighbour/monitor.h"

enum { BAUD = 9600 };

static sim_monitor m;
static sim_wire to, from;
static uint8_t ram[0x10000];
static uint64_t now; /* nanoseconds */
static char said[2000];

static void begin(const char *name)
{
    const sim_monitor_kind *kind = sim_monitor_named(name);
    CHECK(kind != NULL);
    memset(ram, 0, sizeof ram);
    now = 1000000;
    sim_wire_begin(&to, BAUD, NULL);
    sim_wire_begin(&from, BAUD, NULL);
    sim_monitor_begin(&m, kind, ram, &to, &from, now);
    sim_monitor_say(&m, "%s", kind->greeting);
}

/* Types text with a pause after each character; returns all that comes back. */
static const char *type(const char *text, uint64_t pause_us)
{
    size_t n = 0;
    uint8_t byte;
    for (;; text++) {
        if (*text != '\0') CHECK(sim_wire_put(&to, now, (uint8_t)*text));
        now += (*text != '\0' ? pause_us + 1100 : 500000) * 1000;
        sim_monitor_run(&m, now);
        while (sim_wire_take(&from, now, &byte) && n + 1 < sizeof said)
            said[n++] = byte == 0 ? '@' : (char)byte;
        if (*text == '\0') break;
    }
    now += 2000000000;
    sim_monitor_run(&m, now);
    while (sim_wire_take(&from, now, &byte) && n + 1 < sizeof said)
        said[n++] = (char)byte;
    said[n] = '\0';
    return said;
}

TEST(who_is_there)
{
    CHECK(sim_monitor_named("keeper") == NULL);
    for (size_t i = 0; sim_monitor_name(i) != NULL; i++)
        CHECK_TEXT(sim_monitor_named(sim_monitor_name(i))->name, sim_monitor_name(i));
    CHECK(sim_monitor_name(3) != NULL && sim_monitor_name(4) == NULL);
}

TEST(thrift)
{
    begin("thrift");
    CHECK_TEXT(type("", 0), "\r\nThrift\r\n- ");
    CHECK_TEXT(type("P1234DA5D5A", 1000), "P1234\r\n- DA5\r\n- D5A\r\n- ");
    CHECK_BYTES(ram + 0x1234, 2, "\xA5\x5A", 2);
    CHECK_TEXT(type("P1234EE", 1000), "P1234\r\n- E\r\nA5\r\n- E\r\n5A\r\n- ");
    CHECK_TEXT(type("P12x", 1000), "P12x\r\n?\r\n- ");
    CHECK_TEXT(type("Z", 1000), "Z\r\n?\r\n- ");
    CHECK_TEXT(type("P2000T0003ABC", 1000), "P2000\r\n- T0003\r\n\r\n- ");
    CHECK_BYTES(ram + 0x2000, 4, "ABC\0", 4);
    CHECK_TEXT(type("P2000G0003", 1000), "P2000\r\n- G0003\r\nABC\r\n- ");
    /* Without a pause it loses every second character. */
    CHECK_INT(m.lost, 0);
    type("P2000EEEE", 0);
    CHECK(m.lost >= 4);
    type("\r", 1000);
    CHECK(!m.started);
    type("P4321R", 1000);
    CHECK(m.started);
    CHECK_INT(m.start, 0x4321);
}

TEST(cleat)
{
    begin("cleat");
    CHECK_TEXT(type("", 0), "\r\ncleat: ");
    CHECK_TEXT(type("200=7300 1205\r", 0), "200=7300 1205\r\ncleat: ");
    CHECK_BYTES(ram + 0x100, 4, "\xC0\x0E\x85\x02", 4);
    CHECK_TEXT(type("0200,3\r", 0), "0200,3\r\n0200=7300 1205 0000\r\ncleat: ");
    CHECK_CONTAINS(type("200,12\r", 0), "\r\n0210=0000 0000\r\n");
    CHECK_TEXT(type("300,302=7777\r", 0), "300,302=7777\r\ncleat: ");
    CHECK_TEXT(type("277,5\r", 0), "277,5\r\n0277=0000 7777 7777 7777 0000\r\ncleat: ");
    CHECK_CONTAINS(type("200=8\r", 0), "no: octal words behind =");
    CHECK_CONTAINS(type("200=10000\r", 0), "no: too large");
    CHECK_CONTAINS(type("10000=1\r", 0), "no: an octal address comes first");
    CHECK_CONTAINS(type("200,101\r", 0), "no: too many");
    CHECK_CONTAINS(type("200!\r", 0), "no: = or , behind the address");
    CHECK_CONTAINS(type("hello\r", 0), "no: an octal address");
    CHECK(!m.started);
    type("200 go\r", 0);
    CHECK(m.started);
    CHECK_INT(m.start, 0x100);
}

TEST(purser)
{
    begin("purser");
    CHECK_CONTAINS(type("", 0), "choice? ");
    CHECK_CONTAINS(type("2\r", 0), "from? ");
    CHECK_CONTAINS(type("0300\r", 0), "bytes? ");
    CHECK_CONTAINS(type("A9 01 8D\r", 0), "done\r\n");
    CHECK_BYTES(ram + 0x300, 4, "\xA9\x01\x8D\0", 4);
    CHECK_CONTAINS(type("1\r0300\r0309\r", 5000), "0300 A9 01 8D 00 00 00 00 00\r\n0308 00 00\r\n");
    CHECK_CONTAINS(type("1\r0300\r02FF\r", 5000), "sorry, that is no end");
    CHECK_CONTAINS(type("2\rbay\r", 5000), "sorry, that is no address");
    CHECK_CONTAINS(type("2\r0300\r1FF\r", 5000), "sorry, that is no byte");
    CHECK_CONTAINS(type("4\r", 0), "records, or a dot:");
    CHECK_TEXT(type(":03040000112233FF\r", 0), "-"); /* its sum is wrong */
    CHECK_TEXT(type(":0304000011223393\r", 0), "+");
    CHECK_TEXT(type(":03040000112233\r", 0), "-");
    CHECK_TEXT(type("hello\r", 0), "-");
    CHECK_BYTES(ram + 0x400, 4, "\x11\x22\x33\0", 4);
    CHECK_CONTAINS(type(":00000001FF\r", 0), "+\r\n1 look");
    CHECK_CONTAINS(type("4\r.\r", 5000), "choice? ");
    CHECK(!m.started);
    type("3\r0300\r", 5000);
    CHECK(m.started);
    CHECK_INT(m.start, 0x300);
}

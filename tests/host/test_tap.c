/* What is heard on a line that does not answer as it should, and transfers that are stopped. */
#include <string.h>

#include "bootlace/drive_frames.h"
#include "bootlace/drive_remote.h"
#include "bootlace/tap.h"
#include "host_support.h"
#include "sim/neighbour/monitor.h"

/* A port on which somebody says what he says, whatever is sent. */
typedef struct actor {
    uint8_t says[200];
    size_t count, said;
    bool echoes, answers; /* gives back what is sent; or one byte for each */
    uint64_t now;
} actor;

static bl_status act_send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    actor *a = context;
    for (size_t i = 0; i < count && a->count < sizeof a->says; i++)
        if (a->echoes || a->answers)
            a->says[a->count++] = a->echoes ? bytes[i] : (uint8_t)(bytes[i] * 7 + i);
    *taken = count;
    return BL_OK;
}

static bl_status act_receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    actor *a = context;
    *got = a->count - a->said < capacity ? a->count - a->said : capacity;
    memcpy(bytes, a->says + a->said, *got);
    a->said += *got;
    return BL_OK;
}

static bl_status act_wait(void *context, uint32_t microseconds)
{
    ((actor *)context)->now += microseconds + 1;
    return BL_OK;
}

static uint64_t act_now(void *context)
{
    return ((actor *)context)->now;
}

/* Asks for Eyelet, and returns what kind of remote that was. */
static bl_heard ask(actor *a, char *text, size_t capacity)
{
    bl_serial inner = {a, act_send, act_receive, act_wait, act_now, NULL};
    bl_tap tap;
    bl_exchange x;
    bl_frame hello = {.kind = BL_ASK_HELLO};
    bl_serial port = bl_tap_begin(&tap, &inner);
    bl_exchange_begin(&x, 9600);
    bl_status status = bl_drive_ask(&port, &x, &hello, 1000, 40);
    CHECK(status == BL_E_TIMEOUT || status == BL_E_LINE);
    bl_tap_text(&tap, text, capacity);
    CHECK_INT(tap.sent_count, x.bytes_out);
    CHECK_INT(tap.came_count, x.bytes_in);
    return bl_tap_heard(&tap);
}

TEST(who_does_not_answer_is_told_apart)
{
    static const uint8_t noise[] = {0x84, 0xFC, 0x9C, 0xE4, 0x00, 0x84, 0xF4, 0xE4, 0x04};
    char text[100];
    actor a = {.count = 0};
    CHECK_INT(ask(&a, text, sizeof text), BL_HEARD_NOTHING);
    CHECK_TEXT(text, "");
    a = (actor){.echoes = true};
    CHECK_INT(ask(&a, text, sizeof text), BL_HEARD_ECHO);
    a = (actor){.answers = true};
    CHECK_INT(ask(&a, text, sizeof text), BL_HEARD_ANSWERS);
    a = (actor){.count = 20};
    memcpy(a.says, "\r\n\r\nREADY\r\n  10 FOG ", 20);
    CHECK_INT(ask(&a, text, sizeof text), BL_HEARD_TEXT);
    CHECK_TEXT(text, "READY 10 FOG");
    CHECK_INT(ask(&a, text, 4), BL_HEARD_NOTHING); /* it has said it all before */
    a = (actor){.count = sizeof noise};
    memcpy(a.says, noise, sizeof noise);
    CHECK_INT(ask(&a, text, sizeof text), BL_HEARD_OTHER);
}

/* ---- stopped in the middle ---- */

static unsigned looks;

static bool until_enough(void *context, const bl_progress *p)
{
    (void)p;
    return ++looks < *(const unsigned *)context;
}

/* Wherever a transfer to a neighbour is stopped, the next one finds him ready and makes it good. */
static void stop_everywhere(const char *folder, unsigned max)
{
    static sim_bench sim;
    static bl_transfer job;
    static uint8_t bytes[300];
    bl_remote_words words;
    bench *b = example_bench_named(folder);
    bl_remote far = {b->link_dialogue, b->method, b->link_baud, 0, 0};
    for (size_t i = 0; i < sizeof bytes; i++)
        bytes[i] = (uint8_t)(test_random() & 0x0F); /* good as halves of 12 bits, too */
    bl_piece piece = {0x300, sizeof bytes, bytes};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = 32,
                             .who = BL_WHO_EYELET};
    sim_bench_begin(&sim, sim_cpu_kind_for("65c02", 5), 1000000, b->areas, b->area_count, NULL,
                    NULL, 0, b->link_baud, 9600, 1);
    sim.neighbour = sim_monitor_named(b->neighbour);
    sim_bench_power_on(&sim);
    bl_serial port = sim_line_port(&sim.board_line);
    for (unsigned limit = 1; limit <= max; limit += 2) {
        bl_drive_watch watch = {&limit, until_enough, NULL};
        looks = 0;
        bytes[limit % sizeof bytes] ^= 1;
        CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
        bl_status status = bl_drive_remote(&port, &far, &job, &watch, &words);
        CHECK(status == BL_E_BUSY || status == BL_OK);
        bl_transfer_end(&job);
        CHECK_INT(bl_transfer_begin(&job, &test_memory, &o), BL_OK);
        status = bl_drive_remote(&port, &far, &job, NULL, &words);
        if (status != BL_OK)
            test_fail(__FILE__, __LINE__, "%s after %u: %s", folder, limit, bl_status_text(status));
        CHECK_INT(job.result.proved_by, BL_PROOF_READ);
        CHECK_INT(job.result.bytes_proved, sizeof bytes);
        bl_transfer_end(&job);
        CHECK_BYTES(sim.board.ram + 0x300, sizeof bytes, bytes, sizeof bytes);
    }
    bench_close(b);
}

TEST(a_stopped_transfer_leaves_both_ends_usable)
{
    stop_everywhere("purser", 40);
    stop_everywhere("thrift", 40);
}

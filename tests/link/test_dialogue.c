/* Dialogues: files read, and conversations with devices that speak each in their own way. */
#include "harness.h"

#include <stdio.h>
#include <string.h>

static const char good[] =
    "# a device\nname \"Dot\"\nprompt \". \"\nwrite \"set {address:4}={bytes}\"\n"
    "read \"show {address} {last}\"\nanswer \"{address}/{bytes}\"\n"
    "refuse \"no\"\nseparator \",\"\nblock 8\npatience 50 ms\n";

static bl_status read_text(const char *text, bl_dialogue *d)
{
    test_messages_clear();
    return bl_dialogue_read((bl_text){text, strlen(text)}, "dot.dialogue", &test_sink, d);
}

static void refuse(const char *line, const char *said)
{
    char text[1000];
    bl_dialogue d;
    snprintf(text, sizeof text, "%s%s\n", good, line);
    CHECK_INT(read_text(text, &d), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), said);
}
#define refuse(...) TEST_CALL(refuse(__VA_ARGS__))

TEST(dialogue_files)
{
    bl_dialogue d;
    if (read_text(good, &d) != BL_OK) test_fail(__FILE__, __LINE__, "%s", test_messages());
    CHECK_TEXT(d.name, "Dot");
    CHECK_TEXT(d.ending, "\r");
    CHECK_INT(d.write_block, 8);
    CHECK_INT(d.read_block, 8);
    CHECK_INT(d.timeout_us, 50000);
    CHECK_INT(d.radix, 16);
    refuse("prompt ready", "dot.dialogue:11:8: error: text in double quotes is expected");
    refuse("number roman", "dot.dialogue:11:8: error: this is not one of what can stand here");
    CHECK_CONTAINS(test_messages(), "known: hex decimal octal");
    refuse("loader pigeon",
           "dot.dialogue:11:8: error: no such way of carrying bytes can stand here");
    refuse("dump \"D {address}\"\ndumper hex-records", "no such way of carrying bytes");
    refuse("word 12\nblock 7", "'block' must be even");
    refuse("dump \"D {address}\"", "'dump' needs a 'dumper'");
    refuse("block 65", "too small or too large");
    refuse("pace 3", "a time is expected");
    refuse("pace 2 h", "a time is expected");
    refuse("rest 2000000 s", "longer than an hour");
    refuse("promt \"x\"", "did you mean 'prompt'?");
    refuse("greeting \"hi\"", "unknown key 'greeting'");
    refuse("write \"set {bytes}\"", "'write' must contain {address");
    refuse("wake \"\\q\"", "an escape in it is unknown");
    CHECK_INT(read_text("", &d), BL_E_SYNTAX);
    CHECK_CONTAINS(test_messages(), "without a 'prompt'");
}

TEST(misspelt_fields_are_found_where_they_stand)
{
    refuse("write \"set {adress:4}={bytes}\"",
           "dot.dialogue:11:12: error: '{adress:4}' is no field");
    CHECK_CONTAINS(test_messages(), "~~~~~~~~~~");
    CHECK_CONTAINS(test_messages(), "did you mean {address}?");
    refuse("write \"set {address}={byts}\"", "did you mean {bytes}?");
    refuse("load \"x {address} {bytes}\"", "'{bytes}' is no field of 'load'");
    refuse("read \"v {address:x}\"", "'{address:x}' is no field of 'read'");
    refuse("read \"v {address\"", "the brace is never closed");
    refuse("separator \"{each:D}\"", "'separator' takes {wait:TEXT}");
    refuse("fill \"{address} {bytes}\"", "did you mean {byte}?");
    bl_dialogue d;
    char text[1000];
    snprintf(text, sizeof text, "%sprompt \"{ready}\"\nstart \"\\x7Bgo\\x7D {address}\"\n", good);
    CHECK_INT(read_text(text, &d), BL_OK); /* a prompt is what the device says; \x7B is sent */
}

TEST(what_is_read_and_what_is_written_at_once_are_two_numbers)
{
    bl_dialogue d;
    char text[1000];
    snprintf(text, sizeof text, "%sread-block 128\nwrite-block 4\n", good);
    CHECK_INT(read_text(text, &d), BL_OK);
    CHECK_INT(d.read_block, 128);
    CHECK_INT(d.write_block, 4);
    refuse("read-block 241", "too small or too large");
    refuse("write-block 65", "too small or too large");
}

/* ---- conversations ---- */

static char sent[400];
static size_t sent_count;
static uint64_t now;

static void hear(bl_talk *t, const char *text)
{
    bl_talk_input(t, (const uint8_t *)text, strlen(text), now);
}

/* Everything it wants to say, at its own pace. Returns how long that took. */
static uint64_t listen(bl_talk *t)
{
    uint64_t began = now;
    sent_count = 0;
    while (t->out_sent < t->out_count) {
        uint8_t bytes[64];
        size_t n = bl_talk_output(t, bytes, sizeof bytes, now);
        memcpy(sent + sent_count, bytes, n);
        sent_count += n;
        if (t->out_sent < t->out_count) now = bl_talk_deadline(t);
    }
    sent[sent_count] = '\0';
    return now - began;
}

TEST(what_is_said_and_heard)
{
    bl_dialogue d;
    bl_talk t;
    read_text(good, &d);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x1F0, (const uint8_t *)"\x01\xAB\xFF", 3, now);
    listen(&t);
    CHECK_TEXT(sent, "set 01F0=01,AB,FF\r");
    hear(&t, "set 01F0=01,AB,FF\r\n"); /* an echo is no answer */
    CHECK_INT(bl_talk_status(&t), BL_E_BUSY);
    hear(&t, "fine\r\n. ");
    CHECK_INT(bl_talk_status(&t), BL_OK);

    bl_talk_begin(&t, &d, BL_TALK_READ, 0x1F0, NULL, 5, now);
    listen(&t);
    CHECK_TEXT(sent, "show 1F0 1F4\r");
    hear(&t, "1F0/01,AB\r\n1F2/FF,00,7E\r\n. ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    CHECK_BYTES(t.bytes, 5, "\x01\xAB\xFF\x00\x7E", 5);
}

TEST(what_cannot_be_believed)
{
    static const struct {
        const char *answer;
        bl_status status;
    } all[] = {
        {"1F0/01,AB\r\n. ", BL_E_SYNTAX},                 /* too few */
        {"1F0/01,AB\r\n1F3/00,00,00\r\n. ", BL_E_SYNTAX}, /* a gap */
        {"1F0/01,2,03,04,05\r\n. ", BL_E_SYNTAX},         /* a digit lost */
        {"hello\r\n. ", BL_E_SYNTAX},
        {"1F0/01,AG,00,00,00\r\n. ", BL_E_SYNTAX},
        {"nonsense asked\r\n. ", BL_E_REFUSED},
        {"1F0/01,02,03,04,05", BL_E_BUSY}, /* no prompt yet */
    };
    bl_dialogue d;
    bl_talk t;
    read_text(good, &d);
    for (size_t i = 0; i < sizeof all / sizeof all[0]; i++) {
        bl_talk_begin(&t, &d, BL_TALK_READ, 0x1F0, NULL, 5, now);
        listen(&t);
        hear(&t, all[i].answer);
        CHECK_INT(bl_talk_status(&t), all[i].status);
    }
    now += 60000;
    bl_talk_tick(&t, now);
    CHECK_INT(bl_talk_status(&t), BL_E_TIMEOUT);
    CHECK_TEXT(bl_talk_expected(&t), ". ");
    CHECK_TEXT(t.said, "1F0/01,02,03,04,05");
}

/* A device with words of two bytes, asked for an odd count; a command that is too long to hold. */
TEST(nothing_is_kept_beyond_what_was_asked_for)
{
    bl_dialogue d;
    bl_talk t;
    char text[1000], far[200] = "0008/";
    snprintf(text, sizeof text, "%sword 12\nnumber octal\n", good);
    CHECK_INT(read_text(text, &d), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_READ, 16, NULL, 5, now);
    listen(&t);
    hear(&t, "10/0001,0002,0003,0004\r\n. ");
    CHECK(t.got <= 5);
    CHECK_INT(t.bytes[5], 0);
    memset(far, 'x', 118);
    snprintf(text, sizeof text, "%sblock 64\nseparator \"%.110s\"\n", good, far);
    CHECK_INT(read_text(text, &d), BL_OK);
    uint8_t bytes[64] = {0};
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0, bytes, sizeof bytes, now);
    CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
    CHECK_INT(bl_talk_output(&t, bytes, sizeof bytes, now + 1000000), 0);
    bl_talk_begin(&t, &d, BL_TALK_READ, 0, NULL, 241, now);
    CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
}

TEST(numbers_and_pace_of_the_device)
{
    bl_dialogue d;
    bl_talk t;
    char text[1000];
    snprintf(text, sizeof text, "%snumber octal\npace 2 ms\nrest 7 ms\n", good);
    CHECK_INT(read_text(text, &d), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 8, (const uint8_t *)"\xFF\x01", 2, now);
    CHECK(listen(&t) >= 15 * 2000); /* a pause before each but the first */
    CHECK_TEXT(sent, "set 0010=377,001\r");
    bl_talk_begin(&t, &d, BL_TALK_READ, 8, NULL, 2, now);
    listen(&t);
    hear(&t, "10/377,001\r. ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    CHECK_BYTES(t.bytes, 2, "\xFF\x01", 2);
    snprintf(text, sizeof text, "%snumber decimal\n", good);
    CHECK_INT(read_text(text, &d), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 1000, (const uint8_t *)"\xFF\x01", 2, now);
    listen(&t);
    CHECK_TEXT(sent, "set 1000=255,1\r");
}

/* Whatever a device says: no crash, and never bytes that were not there. */
TEST(noise_is_not_an_answer)
{
    bl_dialogue d;
    bl_talk t;
    read_text(good, &d);
    for (unsigned turn = 0; turn < 3000; turn++) {
        static const char letters[] = "0123456789ABCDEF/,. \r\n1F0";
        char noise[64];
        size_t n = test_below(sizeof noise - 1);
        for (size_t i = 0; i < n; i++)
            noise[i] = letters[test_below(sizeof letters - 1)];
        noise[n] = '\0';
        bl_talk_begin(&t, &d, BL_TALK_READ, 0x1F0, NULL, 8, now);
        listen(&t);
        hear(&t, noise);
        CHECK(t.got <= 8);
        if (bl_talk_status(&t) == BL_OK) CHECK(t.got == 8 && strstr(noise, "1F0/") != NULL);
    }
}

/* ---- monitors: questions, single letters, words of 12 bits ---- */

/* Says what is due up to the next wait, and checks it; then the remote says its part. */
static void turn(bl_talk *t, const char *expected, const char *said)
{
    uint8_t bytes[200];
    size_t n = 0, k;
    while ((k = bl_talk_output(t, bytes + n, sizeof bytes - n - 1, now)) > 0)
        n += k;
    bytes[n] = '\0';
    CHECK_TEXT((const char *)bytes, expected);
    hear(t, said);
}

static const char menu[] =
    "prompt \"choice? \"\nwrite \"2\\r{wait:from? }{address:4}\\r{wait:bytes? }"
    "{bytes}\"\nread \"1\\r{wait:from? }{address:4}\\r{wait:to? }{last:4}\"\n"
    "answer \"{address} {bytes}\"\nrefuse \"sorry\"\nstart \"3 {address:4}\"\n"
    "load \"4 {count:4}\"\nloading \"now:\\r\\n\"\nloader xmodem-1k\n"
    "fill \"5 {address} {last} {byte}\"\ndump \"6 {address}\"\ndumper bare\n"
    "leave \".\\r\"\npatience 50 ms\n";

TEST(questions_are_waited_for)
{
    bl_dialogue d;
    bl_talk t;
    CHECK_INT(read_text(menu, &d), BL_OK);
    CHECK_INT(d.loader, BL_METHOD_XMODEM_1K);
    CHECK_INT(d.dumper, BL_METHOD_BARE);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x300, (const uint8_t *)"\x0A\xFF", 2, now);
    turn(&t, "2\r", "\r\nfro");
    turn(&t, "", "m? ");
    turn(&t, "0300\r", "\r\nbytes? ");
    turn(&t, "0A FF\r", "\r\ndone\r\n\r\nchoice? ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_READ, 0x300, NULL, 3, now);
    turn(&t, "1\r", "\r\nfrom? ");
    turn(&t, "0300\r", "\r\nto? ");
    turn(&t, "0302\r", "\r\n0300 0A FF 00\r\n\r\nchoice? ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    CHECK_BYTES(t.bytes, 3, "\x0A\xFF\x00", 3);
    /* A question that never comes, and a refusal in the middle. */
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x300, (const uint8_t *)"\x0A", 1, now);
    turn(&t, "2\r", "\r\nwhere? ");
    now += 60000;
    bl_talk_tick(&t, now);
    CHECK_INT(bl_talk_status(&t), BL_E_TIMEOUT);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x300, (const uint8_t *)"\x0A", 1, now);
    turn(&t, "2\r", "\r\nfrom? ");
    turn(&t, "0300\r", "\r\nsorry, that is no address\r\n");
    CHECK_INT(bl_talk_status(&t), BL_E_REFUSED);
    CHECK_TEXT(t.said, "sorry, that is no address");
}

TEST(other_kinds_of_exchange)
{
    bl_dialogue d;
    bl_talk t;
    read_text(menu, &d);
    bl_talk_begin(&t, &d, BL_TALK_FILL, 0x300, (const uint8_t *)"\xEE", 0x100, now);
    turn(&t, "5 300 3FF EE\r", "\r\nchoice? ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_LOAD, 0x300, NULL, 0x1234, now);
    turn(&t, "4 1234\r", "\r\nnow:");
    CHECK_INT(bl_talk_status(&t), BL_E_BUSY);
    hear(&t, "\r\n");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_START, 0x300, NULL, 0, now); /* nothing comes back */
    turn(&t, "3 0300\r", "");
    CHECK_INT(bl_talk_status(&t), BL_E_BUSY);
    now = bl_talk_deadline(&t);
    bl_talk_tick(&t, now);
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_DUMP, 0x300, NULL, 5, now); /* the bytes begin at once */
    turn(&t, "6 300\r", "");
    bl_talk_tick(&t, now);
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_LEAVE, 0, NULL, 0, now);
    turn(&t, ".\r", "choice? ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
}

TEST(single_letters_with_the_prompt_between)
{
    static const char letters[] =
        "prompt \"- \"\nending \"\"\nwrite \"P{address:4}{wait}D{bytes}\"\n"
        "separator \"{wait}D\"\nread \"P{address:4}{wait}{each:E}\"\n"
        "answer \"{bytes}\"\nrefuse \"?\"\n";
    bl_dialogue d;
    bl_talk t;
    CHECK_INT(read_text(letters, &d), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x40, (const uint8_t *)"\x01\x02", 2, now);
    turn(&t, "P0040", "P0040\r\n- ");
    turn(&t, "D01", "D01\r\n- ");
    turn(&t, "D02", "D02\r\n");
    CHECK_INT(bl_talk_status(&t), BL_E_BUSY);
    hear(&t, "- ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    bl_talk_begin(&t, &d, BL_TALK_READ, 0x40, NULL, 2, now);
    turn(&t, "P0040", "P0040\r\n- ");
    turn(&t, "E", "E\r\nA5\r\n- ");
    turn(&t, "E", "E\r\n5A\r\n- ");
    CHECK_INT(bl_talk_status(&t), BL_OK);
    CHECK_BYTES(t.bytes, 2, "\xA5\x5A", 2);
    CHECK_INT(bl_dialogue_script(&d, &(bl_piece){0x40, 2, (const uint8_t *)"\x01\x02"}, false, 0,
                                 &test_writer),
              BL_OK);
    CHECK_TEXT(test_written(NULL), "P0040\nD01\nD02\n");
    CHECK_INT(bl_dialogue_script(&d, &(bl_piece){0x40, 1, (const uint8_t *)"\x01"}, true, 0,
                                 &test_writer),
              BL_E_UNSUPPORTED);
}

/* Words of 12 bits are two bytes of an image, in either order, and addresses count words. */
TEST(words_of_twelve_bits)
{
    for (int high = 0; high < 2; high++) {
        char words[300];
        bl_dialogue d;
        bl_talk t;
        const uint8_t *image = (const uint8_t *)(high ? "\x0E\x81\x00\x3F" : "\x81\x0E\x3F\x00");
        snprintf(words, sizeof words,
                 "prompt \": \"\nnumber octal\nword 12\nfirst %s\nwrite \"{address:4}={bytes}\"\n"
                 "read \"{address:4},{count}\"\nanswer \"{address}={bytes}\"\n",
                 high ? "high" : "low");
        CHECK_INT(read_text(words, &d), BL_OK);
        bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x100, image, 4, now);
        turn(&t, "0200=7201 0077\r", "\r\n: ");
        CHECK_INT(bl_talk_status(&t), BL_OK);
        bl_talk_begin(&t, &d, BL_TALK_READ, 0x100, NULL, 4, now);
        turn(&t, "0200,2\r", "\r\n0200=7201 0077\r\n: ");
        CHECK_INT(bl_talk_status(&t), BL_OK);
        CHECK_BYTES(t.bytes, 4, image, 4);
        bl_talk_begin(&t, &d, BL_TALK_READ, 0x100, NULL, 4, now);
        turn(&t, "0200,2\r", "\r\n0200=7201 077\r\n: "); /* a digit was lost */
        CHECK_INT(bl_talk_status(&t), BL_E_SYNTAX);
    }
}

/* ---- what a device, or a file, must not be able to do ---- */

static bl_dialogue words_of_12(void)
{
    bl_dialogue d;
    char text[1000];
    snprintf(text, sizeof text, "%sword 12\nblock 8\n", good);
    CHECK_INT(read_text(text, &d), BL_OK);
    return d;
}

TEST(half_a_word_is_refused)
{
    static const bl_talk_kind kinds[] = {BL_TALK_WRITE, BL_TALK_READ, BL_TALK_FILL,
                                         BL_TALK_START, BL_TALK_LOAD, BL_TALK_DUMP};
    bl_dialogue d = words_of_12();
    uint8_t bytes[8] = {0};
    bl_talk t;
    for (size_t i = 0; i < sizeof kinds / sizeof kinds[0]; i++) {
        bl_talk_begin(&t, &d, kinds[i], 0x401, bytes, 4, now);
        CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
        bl_talk_begin(&t, &d, kinds[i], 0x400, bytes, 3, now);
        CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
        CHECK_INT(t.out_sent, 0);
        CHECK_TEXT(bl_talk_expected(&t), "");
    }
}

TEST(a_reply_longer_than_asked_for_goes_nowhere)
{
    bl_dialogue d = words_of_12();
    bl_talk t;
    char line[2000] = "200/";
    d.read_block = BL_DIALOGUE_READ;
    for (size_t i = 0; i < 300; i++)
        strcat(line, "FFF,");
    for (size_t count = 2; count <= BL_DIALOGUE_READ; count += 34) {
        bl_talk_begin(&t, &d, BL_TALK_READ, 0x400, NULL, count, now);
        listen(&t);
        size_t behind = t.count;
        hear(&t, line);
        hear(&t, "\r\n. ");
        CHECK(t.got <= count);
        CHECK_INT(t.count, behind); /* what lies behind the bytes is as it was */
    }
    bl_talk_begin(&t, &d, BL_TALK_READ, 0x400, NULL, BL_DIALOGUE_READ + 2, now);
    CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
}

TEST(a_command_that_gets_too_long_is_not_cut)
{
    bl_dialogue d;
    uint8_t bytes[64] = {0};
    bl_talk t;
    read_text(good, &d);
    memset(d.separator, ',', 100);
    d.separator[100] = '\0';
    d.write_block = 64;
    bl_talk_begin(&t, &d, BL_TALK_WRITE, 0x300, bytes, 64, now);
    CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
    CHECK_INT(bl_talk_output(&t, bytes, sizeof bytes, now), 0);
    bl_piece piece = {0x300, 64, bytes};
    test_written_clear();
    CHECK_INT(bl_dialogue_script(&d, &piece, false, 0, &test_writer), BL_E_RANGE);
    size_t n;
    test_written(&n);
    CHECK_INT(n, 0);
    /* Of a load there are no bytes to be sent. */
    snprintf(d.load, sizeof d.load, "L {address} {bytes}");
    bl_talk_begin(&t, &d, BL_TALK_LOAD, 0x300, NULL, 1000, now);
    CHECK_INT(bl_talk_status(&t), BL_E_RANGE);
}

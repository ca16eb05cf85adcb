/* The simulated cassette recorder. */
#include "sim/deck.h"

#include <string.h>

#include "harness.h"

enum { RATE = 8000, SECOND = 1000000000 };

static int16_t samples[RATE * 20];
static sim_tape tape;
static sim_deck deck;

/* Half a second of 100 Hz, half a second of silence, and so on. */
static void set_up(void)
{
    tape = (sim_tape){samples, RATE * 10, BL_COUNT(samples), RATE};
    for (size_t i = 0; i < tape.count; i++)
        samples[i] = (int16_t)(i % RATE >= RATE / 2 ? 0 : i % 80 < 40 ? 20000 : -20000);
    sim_deck_begin(&deck, 3);
    sim_deck_insert(&deck, &tape);
}

/* How often the level changes in a time, looked at every 100 microseconds. */
static unsigned edges(uint64_t from, uint64_t to)
{
    unsigned count = 0;
    bool last = sim_deck_hear(&deck, from);
    for (uint64_t now = from; now < to; now += 100000) {
        bool level = sim_deck_hear(&deck, now);
        count += level != last;
        last = level;
    }
    return count;
}

TEST(a_tape_is_played_at_its_speed)
{
    set_up();
    CHECK_INT(edges(0, SECOND), 0); /* nobody has pressed play */
    CHECK(sim_deck_press(&deck, SIM_DECK_PLAYING, SECOND));
    unsigned count = edges(SECOND, 3 * (uint64_t)SECOND);
    CHECK(count >= 198 && count <= 202);
    CHECK_INT(sim_deck_place(&deck, 4 * (uint64_t)SECOND), 3);
    set_up();
    sim_deck_spoil(&deck, &(sim_deck_faults){.speed = 1500});
    CHECK(sim_deck_press(&deck, SIM_DECK_PLAYING, 0));
    edges(0, 2 * (uint64_t)SECOND);
    CHECK_INT(sim_deck_place(&deck, 4 * (uint64_t)SECOND), 6);
}

TEST(the_end_of_the_tape_stops_it)
{
    set_up();
    CHECK(sim_deck_wind(&deck, 19, 0) > 0);
    CHECK(sim_deck_press(&deck, SIM_DECK_PLAYING, 0));
    sim_deck_hear(&deck, 5 * (uint64_t)SECOND);
    CHECK_INT(deck.mode, SIM_DECK_STOPPED);
    CHECK_INT(sim_deck_place(&deck, 9 * (uint64_t)SECOND), 20);
    sim_deck_insert(&deck, NULL);
    CHECK(!sim_deck_press(&deck, SIM_DECK_PLAYING, 0));
}

TEST(faults_of_a_recorder)
{
    static const sim_deck_faults quiet = {.level = 20}, cords = {.both_cords = true},
                                 worn = {.dropouts = 1}, wow = {.wow = 50};
    const sim_deck_faults *const all[] = {&quiet, &cords, &worn, &wow};
    unsigned counts[4];
    for (size_t i = 0; i < 4; i++) {
        set_up();
        sim_deck_spoil(&deck, all[i]);
        sim_deck_press(&deck, SIM_DECK_PLAYING, 0);
        counts[i] = edges(0, 10 * (uint64_t)SECOND);
    }
    CHECK_INT(counts[0], 0);
    CHECK_INT(counts[1], 0);
    CHECK(counts[2] < 995 && counts[2] > 800);
    CHECK(counts[3] > 990 && counts[3] < 1010);
}

TEST(what_the_board_says_is_recorded)
{
    set_up();
    deck.ear = false, deck.microphone = true;
    bl_deck port;
    uint64_t now = 0;
    port = sim_deck_port(&deck, &now);
    port.wind(port.context, 2);
    CHECK(port.press(port.context, BL_DECK_RECORD));
    for (unsigned i = 0; i < 100; i++, now += 5000000)
        sim_deck_say(&deck, now, i % 2 != 0);
    CHECK(port.press(port.context, BL_DECK_STOP));
    CHECK_INT(port.place(port.context), 2);
    unsigned changes = 0;
    for (size_t i = 2 * RATE + 1; i < 2 * RATE + RATE / 2; i++)
        changes += (samples[i] > 0) != (samples[i - 1] > 0);
    CHECK(changes >= 98 && changes <= 100);
    CHECK(samples[2 * RATE - RATE / 2 - 100] != 0); /* what was before stays */
    port.wind(port.context, 2);
    deck.ear = true, deck.microphone = false;
    port.press(port.context, BL_DECK_PLAY);
    CHECK(edges(now, now + SECOND / 2 - 10000000) > 90);
}

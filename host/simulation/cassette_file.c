/* cassette_file.c - between recordings and the simulated recorder. */
#include "cassette_file.h"

#include <glib.h>

#include "sim/device/cassette.h"
#include "tape/sound_file.h"

enum { RATE = 44100 };

/* All of a recording, its first channel. */
static bl_status read_samples(sim_tape *t, const char *path, const bl_sink *sink)
{
    sound_file f;
    bl_status status = sound_open(path, sink, &f);
    if (status != BL_OK) return status;
    *t = (sim_tape){.count = (size_t)f.frames, .room = (size_t)f.frames + f.rate, .rate = f.rate};
    t->samples = g_new0(int16_t, t->room);
    int16_t *frames = g_new(int16_t, 4096 * f.channels);
    size_t done = 0;
    for (size_t got; done < t->count && (got = sound_read(&f, frames, 4096)) > 0; done += got)
        for (size_t i = 0; i < got && done + i < t->count; i++)
            t->samples[done + i] = frames[i * f.channels];
    g_free(frames);
    sound_close(&f);
    return BL_OK;
}

bl_status cassette_file_begin(cassette_file *c, simulation *s, const char *path, uint32_t from,
                              uint32_t seconds, const bl_sink *sink)
{
    sim_device *device = sim_board_device(&s->sim.board, &sim_cassette_kind);
    *c = (cassette_file){0};
    if (device == NULL) {
        bl_report(sink, BL_ERROR, s->b->path, 0,
                  "devices: - {name: cassette, kind: cassette, at: ...}",
                  "the board has no device of kind cassette");
        return BL_E_NOT_FOUND;
    }
    if (path != NULL) {
        bl_status status = read_samples(&c->tape, path, sink);
        if (status != BL_OK) return status;
    } else {
        c->tape = (sim_tape){.room = (size_t)seconds * RATE, .rate = RATE};
        c->tape.samples = g_new0(int16_t, c->tape.room);
    }
    sim_deck_begin(&c->deck, 1);
    c->deck.ear = path != NULL, c->deck.microphone = path == NULL; /* one cord at a time */
    sim_deck_spoil(&c->deck, &s->recorder);
    sim_deck_insert(&c->deck, &c->tape);
    device->deck = &c->deck;
    c->port = sim_deck_port(&c->deck, &s->sim.now);
    c->port.wind(c->port.context, from);
    c->port.press(c->port.context, path != NULL ? BL_DECK_PLAY : BL_DECK_RECORD);
    return BL_OK;
}

static bl_status write_samples(const sim_tape *t, const char *path, const bl_sink *sink)
{
    sound_writer w;
    bl_status status = sound_writer_begin(&w, sound_type_of(path), t->rate, 16, sink);
    if (status != BL_OK) return status;
    for (size_t i = 0; i < t->count && status == BL_OK; i++) {
        int32_t sample = t->samples[i] * (int32_t)65536;
        status = sound_writer_samples(&w, &sample, 1);
    }
    if (status == BL_OK) return sound_writer_end(&w, path);
    sound_writer_drop(&w);
    return status;
}

bl_status cassette_file_end(cassette_file *c, simulation *s, const char *path, const bl_sink *sink)
{
    c->port.press(c->port.context, BL_DECK_STOP);
    sim_board_device(&s->sim.board, &sim_cassette_kind)->deck = NULL;
    bl_status status = path != NULL ? write_samples(&c->tape, path, sink) : BL_OK;
    g_free(c->tape.samples);
    *c = (cassette_file){0};
    return status;
}

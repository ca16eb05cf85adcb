/* take.c - listens to all channels of a recording. */
#include "take.h"

#include <string.h>

#include "files/files.h"

enum { FRAMES = 4096, CHANNELS = 8 };

typedef struct ear {
    bl_demodulator *demodulator;
    GArray *bytes, *stretches;
} ear;

static void hear_byte(void *context, const bl_tape_byte *byte)
{
    ear *e = context;
    g_array_append_vals(e->bytes, byte, 1);
}

static void hear_stretch(void *context, const bl_tape_stretch *stretch)
{
    ear *e = context;
    g_array_append_vals(e->stretches, stretch, 1);
}

static bl_status open_ear(ear *e, const take *t)
{
    bl_demodulator_config config = {
        .rate = t->rate, .keyings = t->keyings, .count = t->keying_count};
    e->bytes = g_array_new(FALSE, FALSE, sizeof(bl_tape_byte));
    e->stretches = g_array_new(FALSE, FALSE, sizeof(bl_tape_stretch));
    return bl_demodulator_open(&host_memory, &config,
                               (bl_tape_listener){e, hear_byte, hear_stretch}, &e->demodulator);
}

static void close_ear(ear *e)
{
    bl_demodulator_close(e->demodulator);
    if (e->bytes != NULL) g_array_unref(e->bytes);
    if (e->stretches != NULL) g_array_unref(e->stretches);
}

/* How much was heard, and how surely. */
static uint64_t heard(const ear *e)
{
    uint64_t sum = 0;
    for (guint i = 0; i < e->bytes->len; i++)
        sum += g_array_index(e->bytes, bl_tape_byte, i).certainty + 1u;
    return sum;
}

static void listen_to(sound_file *f, ear *ears, unsigned channels, take *t, take_progress progress)
{
    int16_t *frames = g_new(int16_t, FRAMES * channels), *one = g_new(int16_t, FRAMES);
    uint64_t done = 0;
    for (size_t got; (got = sound_read(f, frames, FRAMES)) > 0; done += got) {
        for (unsigned c = 0; c < channels; c++) {
            for (size_t i = 0; i < got; i++)
                one[i] = frames[i * channels + c];
            bl_demodulator_feed(ears[c].demodulator, one, got);
        }
        if (progress != NULL) progress(done, f->frames);
    }
    for (unsigned c = 0; c < channels; c++)
        bl_demodulator_end(ears[c].demodulator);
    t->length = done * 1000000 / t->rate;
    g_free(frames);
    g_free(one);
}

bl_status take_hear(sound_file *f, const char *path, take_keyings keyings, take_progress progress,
                    const bl_sink *sink, take **out)
{
    ear ears[CHANNELS] = {0};
    unsigned channels = f->channels;
    bl_status status = BL_OK;
    take *t = g_new0(take, 1);
    t->path = g_strdup(path), t->rate = f->rate, t->channels = channels;
    for (size_t i = 0; i < keyings.count && i < TAKE_KEYINGS; i++)
        t->keyings[t->keying_count++] = keyings.at[i];
    for (size_t i = 0; keyings.count == 0 && bl_keying_at(i) != NULL; i++)
        t->keyings[t->keying_count++] = *bl_keying_at(i);
    for (unsigned c = 0; c < channels && status == BL_OK; c++)
        status = open_ear(&ears[c], t);
    if (status == BL_OK) {
        listen_to(f, ears, channels, t, progress);
        for (unsigned c = 1; c < channels; c++)
            if (heard(&ears[c]) > heard(&ears[t->channel])) t->channel = c;
        t->bytes = g_steal_pointer(&ears[t->channel].bytes);
        t->stretches = g_steal_pointer(&ears[t->channel].stretches);
    } else {
        bl_report(sink, BL_ERROR, path, 0, NULL, "%s", bl_status_text(status));
    }
    for (unsigned c = 0; c < channels; c++)
        close_ear(&ears[c]);
    if (status != BL_OK) take_close(t), t = NULL;
    *out = t;
    return status;
}

bl_status take_read(const char *path, take_keyings keyings, take_progress progress,
                    const bl_sink *sink, take **t)
{
    sound_file f;
    *t = NULL;
    bl_status status = sound_open(path, sink, &f);
    if (status != BL_OK) return status;
    status = take_hear(&f, path, keyings, progress, sink, t);
    sound_close(&f);
    return status;
}

void take_close(take *t)
{
    if (t == NULL) return;
    if (t->bytes != NULL) g_array_unref(t->bytes);
    if (t->stretches != NULL) g_array_unref(t->stretches);
    g_free(t->path);
    g_free(t);
}

static int compare_speeds(gconstpointer a, gconstpointer b)
{
    return (int)*(const uint16_t *)a - (int)*(const uint16_t *)b;
}

bool take_speeds(const take *t, unsigned *slow, unsigned *fast)
{
    GArray *speeds = g_array_new(FALSE, FALSE, sizeof(uint16_t));
    for (guint i = 0; i < t->stretches->len; i++) {
        const bl_tape_stretch *s = &g_array_index(t->stretches, bl_tape_stretch, i);
        if (s->purity >= TAKE_SIGNAL) g_array_append_val(speeds, s->speed);
    }
    g_array_sort(speeds, compare_speeds);
    bool any = speeds->len > 0;
    if (any) {
        *slow = g_array_index(speeds, uint16_t, speeds->len / 20);
        *fast = g_array_index(speeds, uint16_t, speeds->len - 1 - speeds->len / 20);
    }
    g_array_unref(speeds);
    return any;
}

bool take_byte_doubtful(const bl_tape_byte *b)
{
    return b->certainty < BL_CERTAIN || !b->framed;
}

guint take_doubtful(const take *t)
{
    guint count = 0;
    for (guint i = 0; i < t->bytes->len; i++)
        if (take_byte_doubtful(&g_array_index(t->bytes, bl_tape_byte, i))) count++;

    return count;
}

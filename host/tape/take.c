/* take.c - listens to all channels of a recording. */
#include "take.h"

#include <string.h>

#include "files/files.h"
#include "tape_programs.h"

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

/* How good a take is: a program that its CRC-32 proves is above anything, then blocks that are
 * whole, then bytes that are certain. */
typedef struct take_worth {
    guint proven, blocks;
    gint64 sound; /* microseconds of bytes that are certain, less those of doubtful ones */
} take_worth;

static take_worth worth_of(take *t)
{
    take_worth w = {.sound = 0};
    for (guint i = 0; i < t->bytes->len; i++) {
        const bl_tape_byte *b = &g_array_index(t->bytes, bl_tape_byte, i);
        w.sound += take_byte_doubtful(b) ? -(gint64)b->length : (gint64)b->length;
    }
    GPtrArray *programs = tape_programs_find(&t, 1);
    for (guint i = 0; i < programs->len; i++) {
        const tape_program *p = g_ptr_array_index(programs, i);
        w.proven += p->outcome == TAPE_PROVEN;
        w.blocks += p->good;
    }
    g_ptr_array_unref(programs);
    return w;
}

static bool is_better(const take_worth *a, const take_worth *b)
{
    if (a->proven != b->proven) return a->proven > b->proven;
    return a->blocks != b->blocks ? a->blocks > b->blocks : a->sound > b->sound;
}

/* So good that no other keying could make it better: proven, or hardly a byte in doubt. */
static bool is_good(const take *t, const take_worth *w)
{
    return w->proven > 0 || (t->bytes->len > 0 && take_doubtful(t) * 50 <= t->bytes->len);
}

/* Which keying it is was found out by what sounded first, or loudest: where nothing good came of
 * that, each is tried alone before anything is said. */
static bl_status hear_each(sound_file *f, take_progress progress, const bl_sink *sink, take **best)
{
    take_worth most = worth_of(*best);
    take *first = *best;
    bl_status status = BL_OK;
    for (size_t i = 0; i < first->keying_count && !is_good(*best, &most) && status == BL_OK; i++) {
        take *one;
        if (!sound_seek(f, 0)) return BL_OK;
        take_keyings alone = {&first->keyings[i], 1};
        status = take_hear(f, first->path, alone, progress, sink, &one);
        if (status != BL_OK) break;
        take_worth w = worth_of(one);
        take *worse = one;
        if (is_better(&w, &most)) worse = *best, *best = one, most = w;
        if (worse != first) take_close(worse);
    }
    if (*best != first) take_close(first);
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
    if (status == BL_OK && (*t)->keying_count > 1) status = hear_each(&f, progress, sink, t);
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

bool take_steady(const take *t, uint64_t from, uint64_t to)
{
    uint32_t loudest = 0;
    for (guint i = 0; i < t->stretches->len; i++) {
        const bl_tape_stretch *s = &g_array_index(t->stretches, bl_tape_stretch, i);
        if (s->purity >= TAKE_SIGNAL && s->level > loudest) loudest = s->level;
    }
    for (guint i = 0; i < t->stretches->len; i++) {
        const bl_tape_stretch *s = &g_array_index(t->stretches, bl_tape_stretch, i);
        if (s->at + s->length <= from || s->at >= to) continue;
        if (s->purity < TAKE_SIGNAL || s->level < loudest / 4u) return false;
    }
    return true;
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

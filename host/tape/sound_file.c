/* sound_file.c - recordings, through libsndfile. */
#include "sound_file.h"

#include <errno.h>
#include <fcntl.h>
#include <glib.h>
#include <glib/gstdio.h>
#include <sndfile.h>
#include <stdio.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include "files/files.h"
#include "files/replace.h"
#include "files/replace_steps.h"

static bl_status tell_sound(const bl_sink *sink, bl_status status, const char *path,
                            const char *problem, const char *hint)
{
    bl_report(sink, BL_ERROR, path, 0, hint, "%s", problem);
    return status;
}

/* A file without a name, for sound on its way. Returns -1 when there can be none. */
static int nameless(void)
{
    char *name = NULL;
    int file = g_file_open_tmp("bootlace-tape-XXXXXX", &name, NULL);
    if (file >= 0) g_unlink(name);
    g_free(name);
    return file;
}

/* A pipe cannot be gone back in, which some formats need: it is kept first. */
static int take_pipe(void)
{
    char buffer[65536];
    ssize_t got;
    int file = nameless();
    if (file < 0) return -1;
    while ((got = read(STDIN_FILENO, buffer, sizeof buffer)) != 0) {
        if (got < 0 && errno == EINTR) continue;
        if (got < 0 || !replace_write(file, buffer, (size_t)got)) {
            close(file);
            return -1;
        }
    }
    lseek(file, 0, SEEK_SET);
    return file;
}

/* Takes over the file. */
static bl_status open_file(int file, const char *path, const bl_sink *sink, sound_file *f)
{
    SF_INFO info = {0};
    SNDFILE *handle = sf_open_fd(file, SFM_READ, &info, SF_TRUE);
    if (handle == NULL)
        return tell_sound(sink, BL_E_SYNTAX, path, "this is no recording that can be read",
                          "WAV and FLAC files are");
    sf_command(handle, SFC_SET_SCALE_FLOAT_INT_READ, NULL, SF_TRUE);
    *f = (sound_file){handle, (uint32_t)info.samplerate, (unsigned)info.channels,
                      (uint64_t)info.frames};
    if (info.samplerate >= 6000 && info.samplerate <= 384000 && info.channels <= 8) return BL_OK;
    bl_report(sink, BL_ERROR, path, 0, "1 to 8 channels, 6000 to 384000 Hz",
              "%d channels at %d Hz cannot be read", info.channels, info.samplerate);
    sound_close(f);
    return BL_E_RANGE;
}

bl_status sound_open(const char *path, const bl_sink *sink, sound_file *f)
{
    bool pipe = strcmp(path, "-") == 0;
    *f = (sound_file){0};
    int file = pipe ? take_pipe() : g_open(path, O_RDONLY | O_CLOEXEC, 0);
    const char *name = pipe ? "standard input" : path;
    if (file < 0)
        return tell_sound(sink, errno == ENOENT ? BL_E_NOT_FOUND : BL_E_IO, name, g_strerror(errno),
                          NULL);
    if (!pipe) host_note_read(path);
    return open_file(file, name, sink, f);
}

void sound_close(sound_file *f)
{
    if (f->handle != NULL) sf_close(f->handle);
    *f = (sound_file){0};
}

size_t sound_read(sound_file *f, int16_t *samples, size_t frames)
{
    sf_count_t got = sf_readf_short(f->handle, samples, (sf_count_t)frames);
    return got > 0 ? (size_t)got : 0;
}

bool sound_seek(sound_file *f, uint64_t frame)
{
    return sf_seek(f->handle, (sf_count_t)frame, SEEK_SET) >= 0;
}

/* ---- writing ---- */

sound_type sound_type_of(const char *path)
{
    const char *dot = strrchr(path, '.');
    if (strcmp(path, "-") == 0) return SOUND_WAV;
    if (dot == NULL) return SOUND_NONE;
    if (g_ascii_strcasecmp(dot, ".wav") == 0) return SOUND_WAV;
    return g_ascii_strcasecmp(dot, ".flac") == 0 ? SOUND_FLAC : SOUND_NONE;
}

bl_status sound_writer_begin(sound_writer *w, sound_type type, uint32_t rate, unsigned bits,
                             const bl_sink *sink)
{
    int sample = bits == 24   ? SF_FORMAT_PCM_24
                 : bits == 16 ? SF_FORMAT_PCM_16
                              : (type == SOUND_WAV ? SF_FORMAT_PCM_U8 : SF_FORMAT_PCM_S8);
    SF_INFO info = {.samplerate = (int)rate, .channels = 1};
    info.format = (type == SOUND_FLAC ? SF_FORMAT_FLAC : SF_FORMAT_WAV) | sample;
    *w = (sound_writer){.file = nameless(), .sink = sink};
    if (w->file < 0)
        return tell_sound(sink, BL_E_IO, g_get_tmp_dir(), g_strerror(errno),
                          "sound is kept there before it is put in place");
    w->handle = sf_open_fd(w->file, SFM_WRITE, &info, SF_FALSE);
    if (w->handle != NULL) return BL_OK;
    sound_writer_drop(w);
    return tell_sound(sink, BL_E_UNSUPPORTED, "sound", sf_strerror(NULL), NULL);
}

bl_status sound_writer_samples(void *context, const int32_t *samples, size_t count)
{
    sound_writer *w = context;
    w->frames += count;
    if (sf_write_int(w->handle, samples, (sf_count_t)count) == (sf_count_t)count) return BL_OK;
    return tell_sound(w->sink, BL_E_IO, g_get_tmp_dir(), sf_strerror(w->handle), NULL);
}

bl_status sound_writer_review(sound_writer *w, sound_file *f)
{
    int again = dup(w->file);
    int closed = sf_close(w->handle);
    w->handle = NULL;
    *f = (sound_file){0};
    if (closed != 0 || again < 0 || lseek(again, 0, SEEK_SET) != 0) {
        if (again >= 0) close(again);
        return tell_sound(w->sink, BL_E_IO, g_get_tmp_dir(), "the sound could not be written",
                          NULL);
    }
    return open_file(again, "what was written", w->sink, f);
}

/* The file is as others find it: it has its name, and as many samples as were written. */
static bl_status read_back(const sound_writer *w, const char *path)
{
    enum { PIECE = 65536 };
    sound_file f;
    uint64_t found = 0;
    bl_status status = sound_open(path, w->sink, &f);
    if (status != BL_OK) return status;
    int16_t *piece = g_new(int16_t, PIECE * f.channels);
    for (size_t n; (n = sound_read(&f, piece, PIECE)) > 0;)
        found += n;
    g_free(piece);
    sound_close(&f);
    if (found == w->frames) return BL_OK;
    return tell_sound(w->sink, BL_E_DIFFERS, path, "not all of the sound can be read back", NULL);
}

/* What the encoder still holds belongs to the file; the header says how much there is only then. */
static bool close_encoder(sound_writer *w)
{
    if (w->handle == NULL) return true;
    int closed = sf_close(w->handle);
    w->handle = NULL;
    return closed == 0;
}

/* Copies a mapped file, so that an hour of sound is not in memory. */
bl_status sound_writer_end(sound_writer *w, const char *path)
{
    struct stat info;
    bl_status status = BL_E_IO;
    void *bytes = MAP_FAILED;
    errno = EIO;
    if (close_encoder(w) && fstat(w->file, &info) == 0 && info.st_size > 0)
        bytes = mmap(NULL, (size_t)info.st_size, PROT_READ, MAP_PRIVATE, w->file, 0);
    if (bytes == MAP_FAILED)
        tell_sound(w->sink, BL_E_IO, path, g_strerror(errno), NULL);
    else if (strcmp(path, "-") != 0)
        status = replace_one(path, bytes, (size_t)info.st_size, w->sink);
    else if (replace_write(STDOUT_FILENO, bytes, (size_t)info.st_size))
        status = BL_OK;
    else
        tell_sound(w->sink, BL_E_IO, "standard output", g_strerror(errno), NULL);
    if (bytes != MAP_FAILED) munmap(bytes, (size_t)info.st_size);
    if (status == BL_OK && strcmp(path, "-") != 0) status = read_back(w, path);
    sound_writer_drop(w);
    return status;
}

void sound_writer_drop(sound_writer *w)
{
    if (w->handle != NULL) sf_close(w->handle);
    if (w->file >= 0) close(w->file);
    *w = (sound_writer){.file = -1};
}

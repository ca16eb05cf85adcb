/* logbook.c - what was built, burned and sent: the tables of an SQLite file. */
#include "logbook.h"

#include <fcntl.h>
#include <glib.h>
#include <sqlite3.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "bootlace/crc.h"
#include "files/files.h"

struct logbook {
    sqlite3 *db; /* NULL: there is none */
    bool told;   /* that something could not be written */
    bool unread; /* something could not be read */
    const bl_sink *sink;
    char *path;
};

static const char layout[] =
    "CREATE TABLE IF NOT EXISTS contents (bench TEXT, chip TEXT, version TEXT, size INTEGER,"
    " crc32 INTEGER, crc16 INTEGER, sum16 INTEGER, time INTEGER,"
    " UNIQUE (bench, chip, version, size, crc32));"
    "CREATE TABLE IF NOT EXISTS burns (bench TEXT, chip TEXT, copy INTEGER, part TEXT, size "
    "INTEGER,"
    " crc32 INTEGER, pages INTEGER, verified INTEGER, time INTEGER);"
    "CREATE TABLE IF NOT EXISTS sendings (bench TEXT, line TEXT, records TEXT, time INTEGER,"
    " UNIQUE (bench, line));"
    "CREATE TABLE IF NOT EXISTS pieces (bench TEXT, piece TEXT, version TEXT, records TEXT,"
    " symbols TEXT, time INTEGER, UNIQUE (bench, piece, version, records));";

static void close_logbook(logbook *l, const char *why)
{
    bl_report(l->sink, BL_WARNING, l->path, 0, "nothing else depends on it",
              "the logbook cannot be used: %s", why);
    sqlite3_close(l->db);
    l->db = NULL;
    l->unread = true;
}

bool logbook_was_read(const logbook *l)
{
    return !l->unread;
}

const char *logbook_path(const logbook *l)
{
    return l->path;
}

/* What is in it can still be read. */
static void warn_unwritten(logbook *l, const char *why)
{
    if (!l->told)
        bl_report(l->sink, BL_WARNING, l->path, 0, "nothing else depends on it",
                  "the logbook cannot be written: %s", why);
    l->told = true;
}

/* Others than its owner have no business in it. */
static void make_private(const char *path)
{
    int fd = open(path, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
    if (fd >= 0) close(fd);
}

/* A logbook that cannot be used is a warning, told once, and everything goes on without it. */
logbook *logbook_open(const bench *b, const bl_sink *sink)
{
    logbook *l = g_new0(logbook, 1);
    char *error = NULL;
    l->sink = sink;
    l->path = b->logbook != NULL
                  ? host_path_in(b->folder, b->logbook)
                  : g_build_filename(g_get_user_data_dir(), "bootlace", "logbook.sqlite", NULL);
    char *folder = g_path_get_dirname(l->path);
    g_mkdir_with_parents(folder, 0700);
    g_free(folder);
    make_private(l->path);
    if (sqlite3_open(l->path, &l->db) != SQLITE_OK) {
        close_logbook(l, sqlite3_errmsg(l->db));
        return l;
    }
    sqlite3_busy_timeout(l->db, 3000);
    int result = sqlite3_exec(l->db, layout, NULL, NULL, &error);
    if (result == SQLITE_READONLY || result == SQLITE_IOERR)
        warn_unwritten(l, error); /* it may have been laid out before */
    else if (result != SQLITE_OK)
        close_logbook(l, error);
    sqlite3_free(error);
    return l;
}

void logbook_close(logbook *l)
{
    if (l == NULL) return;
    sqlite3_close(l->db);
    g_free(l->path);
    g_free(l);
}

/* ---- statements ---- */

/* kinds: a letter a value, 't' const char *, 'i' int64_t. NULL when it cannot be prepared. */
static sqlite3_stmt *prepare(logbook *l, const char *sql, const char *kinds, ...)
{
    sqlite3_stmt *s = NULL;
    va_list list;
    if (l->db == NULL) return NULL;
    if (sqlite3_prepare_v2(l->db, sql, -1, &s, NULL) != SQLITE_OK) {
        close_logbook(l, sqlite3_errmsg(l->db));
        return NULL;
    }
    va_start(list, kinds);
    for (int i = 0; kinds[i] != '\0'; i++)
        if (kinds[i] == 't')
            sqlite3_bind_text(s, i + 1, va_arg(list, const char *), -1, SQLITE_TRANSIENT);
        else
            sqlite3_bind_int64(s, i + 1, va_arg(list, int64_t));
    va_end(list);
    return s;
}

static void run_statement(logbook *l, sqlite3_stmt *s)
{
    if (s == NULL) return;
    bool good = sqlite3_step(s) == SQLITE_DONE;
    if (!good) warn_unwritten(l, sqlite3_errmsg(l->db));
    sqlite3_finalize(s);
}

/* The next row of what was asked for. False: there is no more, or it cannot be read. */
static bool next_row(logbook *l, sqlite3_stmt *s)
{
    int result = s != NULL ? sqlite3_step(s) : SQLITE_DONE;
    if (result == SQLITE_ROW) return true;
    if (result != SQLITE_DONE) {
        bl_report(l->sink, BL_WARNING, l->path, 0, NULL, "the logbook cannot be read: %s",
                  sqlite3_errmsg(l->db));
        l->unread = true;
    }
    return false;
}

static const char *column_text(sqlite3_stmt *s, int column)
{
    const unsigned char *text = sqlite3_column_text(s, column);
    return text != NULL ? (const char *)text : "";
}

static const char *version_of(const bench *b)
{
    return b->version != NULL ? b->version : "";
}

static char *whole_path(const bench *b)
{
    return g_canonicalize_filename(b->path, NULL);
}

static bl_status append_text(void *context, const void *bytes, size_t count)
{
    g_string_append_len(context, bytes, (gssize)count);
    return BL_OK;
}

/* Intel HEX; NULL: it has no room for that. */
static char *records_of(const bl_image *image)
{
    GString *records = g_string_new(NULL);
    bl_writer writer = {records, append_text};
    bool good = bl_imagefile_write(BL_FILE_HEX, image, 0, NULL, &writer) == BL_OK;
    return g_string_free(records, !good);
}

/* ---- writing ---- */

void logbook_together(logbook *l, bool begin)
{
    run_statement(l, prepare(l, begin ? "BEGIN" : "COMMIT", ""));
}

/* All chips together: one write to the disk, and none when nothing is new. */
void logbook_built(logbook *l, const bench *b, const bl_image *image)
{
    for (size_t i = 0; i < b->chip_count; i++) {
        const bl_chip *c = &b->chips[i];
        uint32_t used, size = c->part->size;
        uint8_t *bytes = g_try_malloc(size);
        if (bytes == NULL) continue;
        bl_chip_contents(c, image, bytes, &used);
        run_statement(
            l, prepare(l, "INSERT OR IGNORE INTO contents VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                       "tttiiiii", b->name, c->name, version_of(b), (int64_t)size,
                       (int64_t)bl_crc32(0, bytes, size), (int64_t)bl_crc16(0, bytes, size),
                       (int64_t)bl_sum16(0, bytes, size), (int64_t)time(NULL)));
        g_free(bytes);
    }
}

void logbook_piece(logbook *l, const bench *b, const char *piece, bl_program *program)
{
    GString *symbols = g_string_new(NULL);
    bl_writer writer = {symbols, append_text};
    char *path = whole_path(b), *records = records_of(bl_program_image(program));
    if (records != NULL && bl_symbols_write(program, &writer) == BL_OK)
        run_statement(l, prepare(l, "INSERT OR IGNORE INTO pieces VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
                                 "ttttti", path, piece, version_of(b), records, symbols->str,
                                 (int64_t)time(NULL)));
    g_string_free(symbols, TRUE);
    g_free(records);
    g_free(path);
}

void logbook_burned(logbook *l, const bench *b, const logbook_burn *burn)
{
    run_statement(l, prepare(l, "INSERT INTO burns VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
                             "ttitiiiii", b->name, burn->chip, (int64_t)burn->copy, burn->part,
                             (int64_t)burn->size, (int64_t)burn->crc32, (int64_t)burn->pages,
                             (int64_t)burn->verified, (int64_t)time(NULL)));
}

/* ---- asking ---- */

bool logbook_find(logbook *l, const uint8_t *bytes, uint32_t size, logbook_content *found)
{
    sqlite3_stmt *s =
        prepare(l,
                "SELECT bench, chip, version, time FROM contents WHERE size = ?1 AND crc32 = ?2 AND"
                " crc16 = ?3 AND sum16 = ?4 ORDER BY time DESC, rowid DESC LIMIT 1",
                "iiii", (int64_t)size, (int64_t)bl_crc32(0, bytes, size),
                (int64_t)bl_crc16(0, bytes, size), (int64_t)bl_sum16(0, bytes, size));
    if (s == NULL) return false;
    bool there = next_row(l, s);
    if (there) {
        g_strlcpy(found->bench, column_text(s, 0), sizeof found->bench);
        g_strlcpy(found->chip, column_text(s, 1), sizeof found->chip);
        g_strlcpy(found->version, column_text(s, 2), sizeof found->version);
        found->time = sqlite3_column_int64(s, 3);
    }
    sqlite3_finalize(s);
    return there;
}

unsigned logbook_wear(logbook *l, const bench *b, const char *chip, unsigned copy)
{
    sqlite3_stmt *s = prepare(
        l, "SELECT count(*) FROM burns WHERE bench = ?1 AND chip = ?2 AND copy = ?3 AND pages > 0",
        "tti", b->name, chip, (int64_t)copy);
    if (s == NULL) return 0;
    unsigned count = next_row(l, s) ? (unsigned)sqlite3_column_int64(s, 0) : 0;
    sqlite3_finalize(s);
    return count;
}

/* In order of time; only this bench's, for two machines may have chips of one name. */
void logbook_history(logbook *l, const bench *b, const char *chip, logbook_visit visit,
                     void *context)
{
    sqlite3_stmt *s = prepare(
        l,
        "SELECT chip, copy, part, size, crc32, pages, verified, time, (SELECT version FROM contents"
        " WHERE contents.crc32 = burns.crc32 AND contents.size = burns.size AND contents.bench ="
        " burns.bench LIMIT 1) FROM burns WHERE bench = ?1 AND (?2 = '' OR chip = ?2) ORDER BY "
        "time,"
        " rowid",
        "tt", b->name, chip != NULL ? chip : "");
    if (s == NULL) return;
    while (next_row(l, s)) {
        logbook_burn burn = {.chip = column_text(s, 0),
                             .copy = (unsigned)sqlite3_column_int64(s, 1),
                             .part = column_text(s, 2),
                             .size = (uint32_t)sqlite3_column_int64(s, 3),
                             .crc32 = (uint32_t)sqlite3_column_int64(s, 4),
                             .pages = (uint64_t)sqlite3_column_int64(s, 5),
                             .verified = sqlite3_column_int64(s, 6) != 0,
                             .time = sqlite3_column_int64(s, 7)};
        visit(context, &burn, column_text(s, 8));
    }
    sqlite3_finalize(s);
}

char *logbook_time_text(int64_t seconds)
{
    GDateTime *t = g_date_time_new_from_unix_local(seconds);
    char *text = t != NULL ? g_date_time_format(t, "%Y-%m-%d %H:%M") : g_strdup("long ago");
    if (t != NULL) g_date_time_unref(t);
    return text;
}

/* ---- what was sent ---- */

void logbook_sent(logbook *l, const bench *b, const char *line, const bl_image *image)
{
    char *path = whole_path(b), *records = records_of(image);
    if (records != NULL)
        run_statement(l, prepare(l, "INSERT OR REPLACE INTO sendings VALUES (?1, ?2, ?3, ?4)",
                                 "ttti", path, line, records, (int64_t)time(NULL)));
    g_free(path);
    g_free(records);
}

void logbook_forget_sent(logbook *l, const bench *b, const char *line)
{
    char *path = whole_path(b);
    run_statement(
        l, prepare(l, "DELETE FROM sendings WHERE bench = ?1 AND line = ?2", "tt", path, line));
    g_free(path);
}

void logbook_last_sent(logbook *l, const bench *b, const char *line, bl_image **image)
{
    static const bl_sink silent = {NULL, NULL};
    char *path = whole_path(b);
    sqlite3_stmt *s =
        prepare(l, "SELECT records FROM sendings WHERE bench = ?1 AND line = ?2", "tt", path, line);
    *image = NULL;
    if (next_row(l, s) && bl_image_open(&host_memory, image) == BL_OK) {
        const char *text = column_text(s, 0);
        if (bl_imagefile_read(BL_FILE_HEX, l->path, text, strlen(text), 0, *image, &silent) !=
            BL_OK) {
            bl_image_close(*image);
            *image = NULL;
        }
    }
    sqlite3_finalize(s);
    g_free(path);
}

void logbook_pieces(logbook *l, const bench *b, logbook_piece_visit visit, void *context)
{
    static const bl_sink silent = {NULL, NULL};
    char *path = whole_path(b);
    sqlite3_stmt *s = prepare(l,
                              "SELECT piece, version, time, records, symbols FROM pieces"
                              " WHERE bench = ?1 ORDER BY time DESC, rowid DESC",
                              "t", path);
    for (bool on = true; on && next_row(l, s);) {
        bl_image *image = NULL;
        const char *text = column_text(s, 3);
        if (bl_image_open(&host_memory, &image) == BL_OK &&
            bl_imagefile_read(BL_FILE_HEX, l->path, text, strlen(text), 0, image, &silent) ==
                BL_OK) {
            const logbook_built_piece piece = {column_text(s, 0), column_text(s, 1),
                                               sqlite3_column_int64(s, 2), image,
                                               column_text(s, 4)};
            on = visit(context, &piece);
        }
        bl_image_close(image);
    }
    sqlite3_finalize(s);
    g_free(path);
}

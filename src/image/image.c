/* image.c - the sparse image: a sorted array of pieces, and runs of origins sorted when asked. */
#include "bootlace/image.h"

#include "base/core.h"

typedef struct piece {
    uint32_t first;
    size_t count;
    size_t capacity;
    uint8_t *bytes;
} piece;

/* Bytes from one line. There are as many as lines: kept small. */
typedef struct run {
    uint32_t first;
    uint32_t line;
    uint16_t count;
    uint16_t file;
} run;

static bool same_origin(const run *r, bl_origin origin)
{
    return r->line == origin.line && r->file == origin.file;
}

struct bl_image {
    bl_memory memory;
    piece *pieces;
    size_t piece_count, piece_capacity;
    size_t recent; /* piece that grew last: sources mostly write in order */
    uint32_t next; /* the address behind it */
    size_t room;   /* bytes that can follow there without looking any further */
    run *runs;
    size_t run_count, run_capacity;
    bool runs_sorted;
    char **files; /* index 1 is files[0] */
    size_t file_count, file_capacity;
    bool has_entry;
    uint32_t entry;
};

bl_status bl_image_open(const bl_memory *memory, bl_image **image)
{
    bl_image *i = memory->resize(memory->context, NULL, sizeof *i);
    if (i == NULL) return BL_E_MEMORY;
    *i = (bl_image){.memory = *memory, .runs_sorted = true};
    *image = i;
    return BL_OK;
}

void bl_image_close(bl_image *image)
{
    if (image == NULL) return;
    bl_memory memory = image->memory;
    for (size_t i = 0; i < image->piece_count; i++)
        bl_release(&memory, image->pieces[i].bytes);
    for (size_t i = 0; i < image->file_count; i++)
        bl_release(&memory, image->files[i]);
    bl_release(&memory, image->pieces);
    bl_release(&memory, image->runs);
    bl_release(&memory, image->files);
    bl_release(&memory, image);
}

bl_status bl_image_file(bl_image *image, bl_text name, uint32_t *index)
{
    for (size_t i = 0; i < image->file_count; i++) {
        if (bl_text_same(bl_text_of(image->files[i]), name)) {
            *index = (uint32_t)(i + 1);
            return BL_OK;
        }
    }
    if (image->file_count == UINT16_MAX) return BL_E_RANGE;
    char **files = bl_grown(&image->memory, image->files, &image->file_capacity,
                            image->file_count + 1, sizeof *files);
    if (files == NULL) return BL_E_MEMORY;
    image->files = files;
    files[image->file_count] = bl_text_copy(&image->memory, name);
    if (files[image->file_count] == NULL) return BL_E_MEMORY;
    *index = (uint32_t)++image->file_count;
    return BL_OK;
}

const char *bl_image_file_name(const bl_image *image, uint32_t index)
{
    return index == 0 || index > image->file_count ? NULL : image->files[index - 1];
}

static uint64_t end_of(const piece *p)
{
    return (uint64_t)p->first + p->count;
}

/* The first piece that ends after address, or piece_count. */
static size_t find(const bl_image *image, uint32_t address)
{
    size_t low = 0, high = image->piece_count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (end_of(&image->pieces[middle]) <= address)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

bool bl_image_conflict(const bl_image *image, bl_range range, uint32_t *address)
{
    size_t i = find(image, range.first);
    if (i == image->piece_count) return false;
    const piece *p = &image->pieces[i];
    if (p->first >= range.first + range.count) return false;
    *address = p->first > range.first ? p->first : range.first;
    return true;
}

static bl_status append(bl_image *image, piece *p, const uint8_t *bytes, size_t count)
{
    uint8_t *grown = bl_grown(&image->memory, p->bytes, &p->capacity, p->count + count, 1);
    if (grown == NULL) return BL_E_MEMORY;
    p->bytes = grown;
    memcpy(p->bytes + p->count, bytes, count);
    p->count += count;
    return BL_OK;
}

/* Joins piece i with the next one if they touch. Failing to join for lack of memory is told. */
static bl_status join(bl_image *image, size_t i)
{
    if (i + 1 >= image->piece_count) return BL_OK;
    piece *p = &image->pieces[i], *next = p + 1;
    if (end_of(p) != next->first) return BL_OK;
    bl_status status = append(image, p, next->bytes, next->count);
    if (status != BL_OK) return status;
    bl_release(&image->memory, next->bytes);
    memmove(next, next + 1, (image->piece_count - i - 2) * sizeof *next);
    image->piece_count--;
    return BL_OK;
}

static bl_status insert(bl_image *image, size_t at, uint32_t address, const uint8_t *bytes,
                        size_t count)
{
    piece *pieces = bl_grown(&image->memory, image->pieces, &image->piece_capacity,
                             image->piece_count + 1, sizeof *pieces);
    if (pieces == NULL) return BL_E_MEMORY;
    image->pieces = pieces;
    piece fresh = {.first = address};
    bl_status status = append(image, &fresh, bytes, count);
    if (status != BL_OK) return status;
    memmove(pieces + at + 1, pieces + at, (image->piece_count - at) * sizeof *pieces);
    pieces[at] = fresh;
    image->piece_count++;
    return BL_OK;
}

static bl_status note_origin(bl_image *image, uint32_t address, size_t count, bl_origin origin)
{
    if (origin.file == 0) return BL_OK;
    size_t most = image->run_count + count / UINT16_MAX + 1; /* one run tells of so many bytes */
    run *runs = bl_grown(&image->memory, image->runs, &image->run_capacity, most, sizeof *runs);
    if (runs == NULL) return BL_E_MEMORY;
    image->runs = runs;
    run *last = image->run_count > 0 ? &runs[image->run_count - 1] : NULL;
    if (last != NULL && last->first + last->count == address && same_origin(last, origin) &&
        count <= (size_t)UINT16_MAX - last->count) {
        last->count = (uint16_t)(last->count + count);
        return BL_OK;
    }
    if (last != NULL && address < last->first) image->runs_sorted = false;
    while (count > 0) {
        uint16_t n = count > UINT16_MAX ? UINT16_MAX : (uint16_t)count;
        runs[image->run_count++] = (run){address, origin.line, n, (uint16_t)origin.file};
        address += n;
        count -= n;
    }
    return BL_OK;
}

/* Takes the bytes back out of the end of a piece or the whole piece, after a failure further on. */
static void take_back(bl_image *image, size_t at, size_t count)
{
    piece *p = &image->pieces[at];
    p->count -= count;
    if (p->count > 0) return;
    bl_release(&image->memory, p->bytes);
    memmove(p, p + 1, (image->piece_count - at - 1) * sizeof *p);
    image->piece_count--;
}

/* After a change of the pieces: what may be put behind the piece that grew last. */
static void look_ahead(bl_image *image, size_t at)
{
    const piece *p = &image->pieces[at];
    uint64_t end = end_of(p), limit = UINT32_MAX;
    if (at + 1 < image->piece_count) limit = p[1].first - (uint64_t)1; /* touching needs joining */
    image->recent = at;
    image->next = (uint32_t)end;
    image->room = end < limit ? (size_t)(limit - end) : 0;
    if (image->room > p->capacity - p->count) image->room = p->capacity - p->count;
}

/* The common case: bytes right behind what grew last, with room for them and their origin. */
static bool put_behind(bl_image *image, uint32_t address, const uint8_t *bytes, size_t count,
                       bl_origin origin)
{
    if (address != image->next || count > image->room || image->run_count == 0 ||
        image->run_count == image->run_capacity || origin.file == 0)
        return false;
    piece *p = &image->pieces[image->recent];
    run *last = &image->runs[image->run_count - 1];
    if (last->first + last->count != address) return false;
    for (size_t i = 0; i < count; i++)
        p->bytes[p->count + i] = bytes[i];
    p->count += count;
    image->room -= count;
    image->next += (uint32_t)count;
    if (same_origin(last, origin) && last->count <= UINT16_MAX - count)
        last->count = (uint16_t)(last->count + count);
    else
        image->runs[image->run_count++] =
            (run){address, origin.line, (uint16_t)count, (uint16_t)origin.file};
    return true;
}

bl_status bl_image_put(bl_image *image, uint32_t address, const void *bytes, size_t count,
                       bl_origin origin)
{
    if (count <= 16 && count > 0 && put_behind(image, address, bytes, count, origin)) return BL_OK;
    if (count == 0) return BL_OK;
    if ((uint64_t)address + count > (uint64_t)UINT32_MAX + 1) return BL_E_RANGE;
    size_t at = image->recent;
    bool fits = at < image->piece_count && end_of(&image->pieces[at]) == address &&
                (at + 1 == image->piece_count ||
                 image->pieces[at + 1].first > address + (uint32_t)(count - 1));
    bl_status status;
    if (!fits) {
        uint32_t conflict;
        if (bl_image_conflict(image, (bl_range){address, count}, &conflict)) return BL_E_OVERLAP;
        at = find(image, address);
        fits = at > 0 && end_of(&image->pieces[at - 1]) == address;
        if (fits) at--;
    }
    status = fits ? append(image, &image->pieces[at], bytes, count)
                  : insert(image, at, address, bytes, count);
    image->room = 0;
    if (status != BL_OK) return status;
    status = note_origin(image, address, count, origin);
    if (status == BL_OK) status = join(image, at);
    if (status != BL_OK) {
        take_back(image, at, count);
        return status;
    }
    look_ahead(image, at);
    return BL_OK;
}

size_t bl_image_copy(const bl_image *image, uint32_t address, size_t count, uint8_t fill,
                     uint8_t *buffer)
{
    size_t found = 0;
    uint64_t end = (uint64_t)address + count;
    memset(buffer, fill, count);
    for (size_t i = find(image, address); i < image->piece_count; i++) {
        const piece *p = &image->pieces[i];
        if (p->first >= end) break;
        uint64_t first = p->first > address ? p->first : address;
        uint64_t last = end_of(p) < end ? end_of(p) : end;
        memcpy(buffer + (first - address), p->bytes + (first - p->first), (size_t)(last - first));
        found += (size_t)(last - first);
    }
    return found;
}

void bl_image_reserve(bl_image *image, size_t origins)
{
    run *runs =
        bl_grown(&image->memory, image->runs, &image->run_capacity, origins + 1, sizeof *runs);
    if (runs != NULL) image->runs = runs;
}

uint64_t bl_image_count(const bl_image *image, bl_range range)
{
    uint64_t found = 0, end = range.first + range.count;
    for (size_t i = find(image, range.first); i < image->piece_count; i++) {
        const piece *p = &image->pieces[i];
        if (p->first >= end) break;
        uint64_t first = p->first > range.first ? p->first : range.first;
        found += (end_of(p) < end ? end_of(p) : end) - first;
    }
    return found;
}

bool bl_image_get(const bl_image *image, uint32_t address, uint8_t *byte)
{
    return bl_image_copy(image, address, 1, 0, byte) == 1;
}

size_t bl_image_pieces(const bl_image *image)
{
    return image->piece_count;
}

bl_piece bl_image_piece(const bl_image *image, size_t index)
{
    if (index >= image->piece_count) return (bl_piece){0, 0, NULL};
    const piece *p = &image->pieces[index];
    return (bl_piece){p->first, p->count, p->bytes};
}

uint64_t bl_image_size(const bl_image *image)
{
    uint64_t size = 0;
    for (size_t i = 0; i < image->piece_count; i++)
        size += image->pieces[i].count;
    return size;
}

static void sift(run *runs, size_t root, size_t count)
{
    for (;;) {
        size_t child = root * 2 + 1;
        if (child >= count) return;
        if (child + 1 < count && runs[child].first < runs[child + 1].first) child++;
        if (runs[root].first >= runs[child].first) return;
        run turn = runs[root];
        runs[root] = runs[child];
        runs[child] = turn;
        root = child;
    }
}

static void sort_runs(run *runs, size_t count)
{
    for (size_t i = count / 2; i > 0; i--)
        sift(runs, i - 1, count);
    for (size_t i = count; i > 1; i--) {
        run turn = runs[0];
        runs[0] = runs[i - 1];
        runs[i - 1] = turn;
        sift(runs, 0, i - 1);
    }
}

bl_origin bl_image_origin(bl_image *image, uint32_t address)
{
    if (!image->runs_sorted) {
        sort_runs(image->runs, image->run_count);
        image->runs_sorted = true;
    }
    size_t low = 0, high = image->run_count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (image->runs[middle].first <= address)
            low = middle + 1;
        else
            high = middle;
    }
    if (low == 0) return (bl_origin){0, 0};
    const run *r = &image->runs[low - 1];
    return address - r->first < r->count ? (bl_origin){r->file, r->line} : (bl_origin){0, 0};
}

void bl_image_set_entry(bl_image *image, uint32_t address)
{
    image->has_entry = true;
    image->entry = address;
}

bool bl_image_entry(const bl_image *image, uint32_t *address)
{
    if (image->has_entry) *address = image->entry;
    return image->has_entry;
}

/* Copies a stretch that may have many origins, run by run. */
static bl_status merge_piece(bl_image *into, bl_image *from, const bl_piece *p)
{
    size_t done = 0;
    while (done < p->count) {
        uint32_t address = p->first + (uint32_t)done;
        bl_origin origin = bl_image_origin(from, address);
        size_t count = 1;
        while (done + count < p->count) {
            bl_origin next = bl_image_origin(from, address + (uint32_t)count);
            if (next.file != origin.file || next.line != origin.line) break;
            count++;
        }
        if (origin.file != 0) {
            const char *name = bl_image_file_name(from, origin.file);
            bl_status status = bl_image_file(into, bl_text_of(name), &origin.file);
            if (status != BL_OK) return status;
        }
        bl_status status = bl_image_put(into, address, p->bytes + done, count, origin);
        if (status != BL_OK) return status;
        done += count;
    }
    return BL_OK;
}

bl_status bl_image_merge(bl_image *into, bl_image *from, uint32_t *conflict)
{
    for (size_t i = 0; i < from->piece_count; i++) {
        uint32_t address;
        bl_range range = {from->pieces[i].first, from->pieces[i].count};
        if (bl_image_conflict(into, range, &address)) {
            if (conflict != NULL) *conflict = address;
            return BL_E_OVERLAP;
        }
    }
    for (size_t i = 0; i < from->piece_count; i++) {
        bl_piece p = bl_image_piece(from, i);
        bl_status status = merge_piece(into, from, &p);
        if (status != BL_OK) return status;
    }
    if (!into->has_entry && from->has_entry) bl_image_set_entry(into, from->entry);
    return BL_OK;
}

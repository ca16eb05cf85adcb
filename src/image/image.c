/* image.c - the sparse image: pieces, and runs of origins sorted when asked. */
#include "bootlace/image.h"

#include "pieces.h"

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
    pieces set;
    piece *recent;   /* that grew last: sources mostly write in order */
    uint32_t next;   /* the address behind it */
    size_t capacity; /* bytes that can follow there without looking any further */
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
    pieces_free(&image->set, &memory);
    for (size_t i = 0; i < image->file_count; i++)
        bl_release(&memory, image->files[i]);
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

bool bl_image_conflict(const bl_image *image, bl_range range, uint32_t *address)
{
    const piece *p = pieces_at(&image->set, pieces_find(&image->set, range.first));
    if (p == NULL || p->first >= range.first + range.count) return false;
    *address = p->first > range.first ? p->first : range.first;
    return true;
}

/* Nothing lies behind the last address: what wraps begins anew. */
static bool is_behind(const run *r, uint32_t address)
{
    return (uint64_t)r->first + r->count == address;
}

/* Room for the origin of so many bytes, so that noting it cannot fail. */
static bl_status note_room(bl_image *image, size_t count, bl_origin origin)
{
    if (origin.file == 0) return BL_OK;
    size_t max = image->run_count + count / UINT16_MAX + 1; /* one run tells of so many bytes */
    run *runs = bl_grown(&image->memory, image->runs, &image->run_capacity, max, sizeof *runs);
    if (runs == NULL) return BL_E_MEMORY;
    image->runs = runs;
    return BL_OK;
}

static void note_origin(bl_image *image, uint32_t address, size_t count, bl_origin origin)
{
    if (origin.file == 0) return;
    run *runs = image->runs, *last = image->run_count > 0 ? &runs[image->run_count - 1] : NULL;
    if (last != NULL && is_behind(last, address) && same_origin(last, origin) &&
        count <= (size_t)UINT16_MAX - last->count) {
        last->count = (uint16_t)(last->count + count);
        return;
    }
    if (last != NULL && address < last->first) image->runs_sorted = false;
    while (count > 0) {
        uint16_t n = count > UINT16_MAX ? UINT16_MAX : (uint16_t)count;
        runs[image->run_count++] = (run){address, origin.line, n, (uint16_t)origin.file};
        address += n;
        count -= n;
    }
}

/* After a change of the pieces: what may be put behind the one that grew last. */
static void look_ahead(bl_image *image, uint32_t address)
{
    place where = pieces_find(&image->set, address);
    piece *p = pieces_at(&image->set, where);
    const piece *next = pieces_at(&image->set, pieces_next(&image->set, where));
    uint64_t end = piece_end(p), limit = UINT32_MAX;
    if (next != NULL) limit = next->first - (uint64_t)1; /* touching needs joining */
    image->recent = p;
    image->next = (uint32_t)end;
    image->capacity = end < limit ? (size_t)(limit - end) : 0;
    size_t left = p->capacity - p->lead - p->count;
    if (image->capacity > left) image->capacity = left;
}

/* The common case: bytes right behind what grew last, with room for them and their origin. */
static bool put_behind(bl_image *image, uint32_t address, const uint8_t *bytes, size_t count,
                       bl_origin origin)
{
    if (address != image->next || count > image->capacity || image->run_count == 0 ||
        image->run_count == image->run_capacity || origin.file == 0)
        return false;
    piece *p = image->recent;
    run *last = &image->runs[image->run_count - 1];
    if (!is_behind(last, address)) return false;
    uint8_t *to = piece_bytes(p) + p->count;
    for (size_t i = 0; i < count; i++)
        to[i] = bytes[i];
    p->count += count;
    image->capacity -= count;
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
    BL_ASSERT(count == 0 || bytes != NULL);
    if (count <= 16 && count > 0 && put_behind(image, address, bytes, count, origin)) return BL_OK;
    if (count == 0) return BL_OK;
    if ((uint64_t)address + count > (uint64_t)UINT32_MAX + 1) return BL_E_RANGE;
    uint32_t conflict;
    if (bl_image_conflict(image, (bl_range){address, count}, &conflict)) return BL_E_OVERLAP;
    image->capacity = 0;
    bl_status status = note_room(image, count, origin);
    if (status == BL_OK) status = pieces_put(&image->set, &image->memory, address, bytes, count);
    if (status != BL_OK) return status;
    note_origin(image, address, count, origin);
    look_ahead(image, address);
    return BL_OK;
}

size_t bl_image_copy(const bl_image *image, uint32_t address, size_t count, uint8_t fill,
                     uint8_t *buffer)
{
    size_t found = 0;
    uint64_t end = (uint64_t)address + count;
    memset(buffer, fill, count);
    place at = pieces_find(&image->set, address);
    for (const piece *p; (p = pieces_at(&image->set, at)) != NULL && p->first < end;
         at = pieces_next(&image->set, at)) {
        uint64_t first = p->first > address ? p->first : address;
        uint64_t last = piece_end(p) < end ? piece_end(p) : end;
        memcpy(buffer + (first - address), piece_bytes(p) + (first - p->first),
               (size_t)(last - first));
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
    place at = pieces_find(&image->set, range.first);
    for (const piece *p; (p = pieces_at(&image->set, at)) != NULL && p->first < end;
         at = pieces_next(&image->set, at)) {
        uint64_t first = p->first > range.first ? p->first : range.first;
        found += (piece_end(p) < end ? piece_end(p) : end) - first;
    }
    return found;
}

bool bl_image_get(const bl_image *image, uint32_t address, uint8_t *byte)
{
    return bl_image_copy(image, address, 1, 0, byte) == 1;
}

size_t bl_image_pieces(const bl_image *image)
{
    return pieces_total(&image->set);
}

bl_piece bl_image_piece(const bl_image *image, size_t index)
{
    const piece *p = pieces_at(&image->set, pieces_numbered(&image->set, index));
    return p == NULL ? (bl_piece){0, 0, NULL} : (bl_piece){p->first, p->count, piece_bytes(p)};
}

uint64_t bl_image_size(const bl_image *image)
{
    uint64_t size = 0;
    place at = {0, 0};
    for (const piece *p; (p = pieces_at(&image->set, at)) != NULL;
         at = pieces_next(&image->set, at))
        size += p->count;
    return size;
}

static void sift_runs(run *runs, size_t root, size_t count)
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
        sift_runs(runs, i - 1, count);
    for (size_t i = count; i > 1; i--) {
        run turn = runs[0];
        runs[0] = runs[i - 1];
        runs[i - 1] = turn;
        sift_runs(runs, 0, i - 1);
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

/* Conflicts are looked for before anything is moved: a failure leaves both as they were. */
bl_status bl_image_merge(bl_image *into, bl_image *from, uint32_t *conflict)
{
    const pieces *set = &from->set;
    place at = {0, 0};
    for (const piece *p; (p = pieces_at(set, at)) != NULL; at = pieces_next(set, at)) {
        uint32_t address;
        if (bl_image_conflict(into, (bl_range){p->first, p->count}, &address)) {
            if (conflict != NULL) *conflict = address;
            return BL_E_OVERLAP;
        }
    }
    at = (place){0, 0};
    for (const piece *p; (p = pieces_at(set, at)) != NULL; at = pieces_next(set, at)) {
        bl_piece whole = {p->first, p->count, piece_bytes(p)};
        bl_status status = merge_piece(into, from, &whole);
        if (status != BL_OK) return status;
    }
    if (!into->has_entry && from->has_entry) bl_image_set_entry(into, from->entry);
    return BL_OK;
}

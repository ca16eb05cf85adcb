/* bench_schema.c - the keys of a bench file. */
#include "bench_file.h"

#define TEXT(key, type, member)                                                                    \
    CYAML_FIELD_STRING_PTR(key, CYAML_FLAG_POINTER, type, member, 0, 200)
#define OPTIONAL_TEXT(key, type, member)                                                           \
    CYAML_FIELD_STRING_PTR(key, CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, type, member, 0, 200)
#define LIST(key, type, member, entry)                                                             \
    CYAML_FIELD_SEQUENCE(key, CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, type, member, entry, 0, 256)

static const cyaml_schema_value_t text = {CYAML_VALUE_STRING(CYAML_FLAG_POINTER, char *, 0, 200)};
static const cyaml_schema_field_t area_fields[] = {
    TEXT("name", file_area, name),
    TEXT("range", file_area, range),
    TEXT("kind", file_area, kind),
    OPTIONAL_TEXT("fill", file_area, fill),
    OPTIONAL_TEXT("repeats", file_area, repeats),
    OPTIONAL_TEXT("protect", file_area, protect),
    OPTIONAL_TEXT("under", file_area, under),
    LIST("holes", file_area, holes, &text),
    CYAML_FIELD_BOOL("battery", CYAML_FLAG_OPTIONAL, file_area, battery),
    CYAML_FIELD_END};
static const cyaml_schema_value_t area = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_area, area_fields)};

static const cyaml_schema_field_t register_fields[] = {
    TEXT("name", file_register, name), TEXT("offset", file_register, offset), CYAML_FIELD_END};
static const cyaml_schema_value_t reg = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_register, register_fields)};

static const cyaml_schema_field_t device_fields[] = {
    TEXT("name", file_device, name),
    TEXT("kind", file_device, kind),
    OPTIONAL_TEXT("at", file_device, at),
    OPTIONAL_TEXT("port", file_device, port),
    OPTIONAL_TEXT("clock", file_device, clock),
    OPTIONAL_TEXT("interrupt", file_device, interrupt),
    OPTIONAL_TEXT("reach", file_device, reach),
    CYAML_FIELD_IGNORE("wires", CYAML_FLAG_OPTIONAL), /* bench_wires.c reads its names */
    LIST("registers", file_device, registers, &reg),
    CYAML_FIELD_END};
static const cyaml_schema_value_t device = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_device, device_fields)};

static const cyaml_schema_field_t bank_fields[] = {
    TEXT("window", file_bank, window), TEXT("first", file_bank, first),
    LIST("by", file_bank, by, &text), CYAML_FIELD_END};
static const cyaml_schema_value_t bank = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_bank, bank_fields)};

static const cyaml_schema_field_t part_fields[] = {TEXT("name", file_part, name),
                                                   OPTIONAL_TEXT("like", file_part, like),
                                                   OPTIONAL_TEXT("algorithm", file_part, algorithm),
                                                   OPTIONAL_TEXT("method", file_part, method),
                                                   OPTIONAL_TEXT("size", file_part, size),
                                                   OPTIONAL_TEXT("pins", file_part, pins),
                                                   OPTIONAL_TEXT("page", file_part, page),
                                                   OPTIONAL_TEXT("cycle", file_part, cycle),
                                                   OPTIONAL_TEXT("window", file_part, window),
                                                   OPTIONAL_TEXT("pulses", file_part, pulses),
                                                   OPTIONAL_TEXT("over", file_part, over),
                                                   OPTIONAL_TEXT("vpp", file_part, vpp),
                                                   OPTIONAL_TEXT("supply", file_part, supply),
                                                   OPTIONAL_TEXT("sector", file_part, sector),
                                                   OPTIONAL_TEXT("erase", file_part, erase),
                                                   OPTIONAL_TEXT("access", file_part, access),
                                                   CYAML_FIELD_END};
static const cyaml_schema_value_t part = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_part, part_fields)};

static const cyaml_schema_field_t map_fields[] = {TEXT("cpu", file_map, cpu),
                                                  OPTIONAL_TEXT("offset", file_map, offset),
                                                  OPTIONAL_TEXT("lane", file_map, lane),
                                                  OPTIONAL_TEXT("nibble", file_map, nibble),
                                                  OPTIONAL_TEXT("mirrored", file_map, mirrored),
                                                  CYAML_FIELD_END};
static const cyaml_schema_value_t map = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_map, map_fields)};

static const cyaml_schema_field_t chip_fields[] = {TEXT("name", file_chip, name),
                                                   TEXT("part", file_chip, part),
                                                   OPTIONAL_TEXT("fill", file_chip, fill),
                                                   OPTIONAL_TEXT("access", file_chip, access),
                                                   OPTIONAL_TEXT("copies", file_chip, copies),
                                                   LIST("maps", file_chip, maps, &map),
                                                   CYAML_FIELD_END};
static const cyaml_schema_value_t chip = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_chip, chip_fields)};

static const cyaml_schema_field_t link_fields[] = {OPTIONAL_TEXT("device", file_link, device),
                                                   OPTIONAL_TEXT("baud", file_link, baud),
                                                   OPTIONAL_TEXT("monitor", file_link, monitor),
                                                   OPTIONAL_TEXT("dialogue", file_link, dialogue),
                                                   OPTIONAL_TEXT("method", file_link, method),
                                                   OPTIONAL_TEXT("packet", file_link, packet),
                                                   OPTIONAL_TEXT("rounds", file_link, rounds),
                                                   OPTIONAL_TEXT("neighbour", file_link, neighbour),
                                                   CYAML_FIELD_END};
static const cyaml_schema_field_t programmer_fields[] = {
    OPTIONAL_TEXT("baud", file_programmer, baud), OPTIONAL_TEXT("vpp", file_programmer, vpp),
    OPTIONAL_TEXT("dialogue", file_programmer, dialogue), CYAML_FIELD_END};

static const cyaml_schema_field_t set_fields[] = {TEXT("at", file_set, at),
                                                  TEXT("to", file_set, to), CYAML_FIELD_END};
static const cyaml_schema_value_t set = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_set, set_fields)};
static const cyaml_schema_field_t routine_fields[] = {
    LIST("set", file_routine, set, &set), TEXT("start", file_routine, start),
    OPTIONAL_TEXT("shows", file_routine, shows), LIST("uses", file_routine, uses, &text),
    CYAML_FIELD_END};

static const cyaml_schema_field_t mark_fields[] = {
    TEXT("at", file_mark, at), TEXT("shows", file_mark, shows), CYAML_FIELD_END};
static const cyaml_schema_value_t mark = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_mark, mark_fields)};

static const cyaml_schema_field_t tape_fields[] = {
    OPTIONAL_TEXT("baud", file_tape, baud),
    LIST("tones", file_tape, tones, &text),
    LIST("cycles", file_tape, cycles, &text),
    LIST("duration", file_tape, duration, &text),
    OPTIONAL_TEXT("data_bits", file_tape, data_bits),
    OPTIONAL_TEXT("stop_bits", file_tape, stop_bits),
    OPTIONAL_TEXT("parity", file_tape, parity),
    OPTIONAL_TEXT("order", file_tape, order),
    OPTIONAL_TEXT("rest", file_tape, rest),
    OPTIONAL_TEXT("leader", file_tape, leader),
    OPTIONAL_TEXT("gap", file_tape, gap),
    OPTIONAL_TEXT("first", file_tape, first),
    OPTIONAL_TEXT("start", file_tape, start),
    LIST("counter", file_tape, counter, &mark),
    CYAML_FIELD_MAPPING_PTR("save", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_tape, save,
                            routine_fields),
    CYAML_FIELD_MAPPING_PTR("load", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_tape, load,
                            routine_fields),
    CYAML_FIELD_END};

static const cyaml_schema_field_t layout_fields[] = {TEXT("name", file_layout, name),
                                                     TEXT("sector", file_layout, sector),
                                                     TEXT("track", file_layout, track),
                                                     TEXT("tracks", file_layout, tracks),
                                                     OPTIONAL_TEXT("system", file_layout, system),
                                                     TEXT("block", file_layout, block),
                                                     TEXT("entries", file_layout, entries),
                                                     OPTIONAL_TEXT("skew", file_layout, skew),
                                                     LIST("order", file_layout, order, &text),
                                                     OPTIONAL_TEXT("extents", file_layout, extents),
                                                     CYAML_FIELD_END};
static const cyaml_schema_value_t layout = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_layout, layout_fields)};

static const cyaml_schema_field_t field_fields[] = {TEXT("field", file_field, field),
                                                    OPTIONAL_TEXT("size", file_field, size),
                                                    OPTIONAL_TEXT("order", file_field, order),
                                                    OPTIONAL_TEXT("plus", file_field, plus),
                                                    OPTIONAL_TEXT("value", file_field, value),
                                                    OPTIONAL_TEXT("text", file_field, text),
                                                    OPTIONAL_TEXT("pad", file_field, pad),
                                                    OPTIONAL_TEXT("over", file_field, over),
                                                    CYAML_FIELD_END};
static const cyaml_schema_value_t field = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_field, field_fields)};
static const cyaml_schema_field_t wrap_fields[] = {
    TEXT("name", file_wrap, name), LIST("head", file_wrap, head, &field),
    LIST("foot", file_wrap, foot, &field), CYAML_FIELD_END};
static const cyaml_schema_value_t wrap = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_wrap, wrap_fields)};

static const cyaml_schema_field_t boot_mark_fields[] = {
    TEXT("at", file_boot_mark, at), TEXT("value", file_boot_mark, value), CYAML_FIELD_END};
static const cyaml_schema_value_t boot_mark = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_boot_mark, boot_mark_fields)};
static const cyaml_schema_field_t boot_sum_fields[] = {
    TEXT("kind", file_boot_sum, kind), TEXT("over", file_boot_sum, over),
    TEXT("at", file_boot_sum, at), TEXT("total", file_boot_sum, total), CYAML_FIELD_END};

static const cyaml_schema_field_t disk_file_fields[] = {
    OPTIONAL_TEXT("source", file_disk_file, source),
    OPTIONAL_TEXT("file", file_disk_file, file),
    LIST("lines", file_disk_file, lines, &text),
    OPTIONAL_TEXT("newline", file_disk_file, newline),
    OPTIONAL_TEXT("of", file_disk_file, of),
    OPTIONAL_TEXT("to", file_disk_file, to),
    OPTIONAL_TEXT("wrap", file_disk_file, wrap),
    OPTIONAL_TEXT("user", file_disk_file, user),
    OPTIONAL_TEXT("at", file_disk_file, at),
    CYAML_FIELD_BOOL("starts", CYAML_FLAG_OPTIONAL, file_disk_file, starts),
    CYAML_FIELD_END};
static const cyaml_schema_value_t disk_file = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_disk_file, disk_file_fields)};

static const cyaml_schema_field_t disk_fields[] = {
    OPTIONAL_TEXT("image", file_disk, image),
    OPTIONAL_TEXT("kind", file_disk, kind),
    OPTIONAL_TEXT("size", file_disk, size),
    OPTIONAL_TEXT("label", file_disk, label),
    OPTIONAL_TEXT("layout", file_disk, layout),
    OPTIONAL_TEXT("from", file_disk, from),
    OPTIONAL_TEXT("boot", file_disk, boot),
    CYAML_FIELD_BOOL("partition", CYAML_FLAG_OPTIONAL, file_disk, partition),
    LIST("boot_marks", file_disk, boot_marks, &boot_mark),
    CYAML_FIELD_MAPPING_PTR("boot_sum", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_disk,
                            boot_sum, boot_sum_fields),
    LIST("files", file_disk, files, &disk_file),
    LIST("layouts", file_disk, layouts, &layout),
    LIST("wraps", file_disk, wraps, &wrap),
    CYAML_FIELD_END};

static const cyaml_schema_field_t piece_fields[] = {
    OPTIONAL_TEXT("source", file_piece, source), OPTIONAL_TEXT("firmware", file_piece, firmware),
    TEXT("for", file_piece, for_what), CYAML_FIELD_END};
static const cyaml_schema_value_t piece = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_DEFAULT, file_piece, piece_fields)};

static const cyaml_schema_field_t bench_fields[] = {
    TEXT("bench", file_bench, bench),
    TEXT("cpu", file_bench, cpu),
    OPTIONAL_TEXT("clock", file_bench, clock),
    OPTIONAL_TEXT("radix", file_bench, radix),
    OPTIONAL_TEXT("decoder", file_bench, decoder),
    OPTIONAL_TEXT("version", file_bench, version),
    OPTIONAL_TEXT("logbook", file_bench, logbook),
    OPTIONAL_TEXT("out", file_bench, out),
    CYAML_FIELD_IGNORE("define", CYAML_FLAG_OPTIONAL), /* bench_define.c reads its names */
    OPTIONAL_TEXT("undriven", file_bench, undriven),
    LIST("areas", file_bench, areas, &area),
    LIST("banks", file_bench, banks, &bank),
    LIST("devices", file_bench, devices, &device),
    LIST("parts", file_bench, parts, &part),
    LIST("chips", file_bench, chips, &chip),
    CYAML_FIELD_MAPPING_PTR("link", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_bench, link,
                            link_fields),
    CYAML_FIELD_MAPPING_PTR("programmer", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_bench,
                            programmer, programmer_fields),
    CYAML_FIELD_MAPPING_PTR("tape", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_bench, tape,
                            tape_fields),
    CYAML_FIELD_MAPPING_PTR("disk", CYAML_FLAG_POINTER | CYAML_FLAG_OPTIONAL, file_bench, disk,
                            disk_fields),
    LIST("build", file_bench, build, &piece),
    CYAML_FIELD_END};

const cyaml_schema_value_t bench_schema = {
    CYAML_VALUE_MAPPING(CYAML_FLAG_POINTER, file_bench, bench_fields)};

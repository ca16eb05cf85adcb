/* bench_file.h - the bench file as libcyaml loads it: every value still text. */
#ifndef BOOTLACE_HOST_BENCH_FILE_H
#define BOOTLACE_HOST_BENCH_FILE_H

#include <cyaml/cyaml.h>
#include <stdbool.h>

typedef struct file_area {
    char *name, *range, *kind, *fill, *repeats, *protect, *under;
    char **holes;
    unsigned holes_count;
    bool battery;
} file_area;

typedef struct file_register {
    char *name, *offset;
} file_register;

typedef struct file_device {
    char *name, *kind, *at, *port, *clock, *interrupt, *reach;
    file_register *registers;
    unsigned registers_count;
} file_device;

typedef struct file_bank {
    char *window, *first;
    char **by;
    unsigned by_count;
} file_bank;

typedef struct file_part {
    char *name, *like, *algorithm, *method, *size, *pins, *page, *cycle, *window, *pulses, *over,
        *vpp, *supply, *sector, *erase, *access;
} file_part;

typedef struct file_map {
    char *cpu, *offset, *lane, *nibble, *mirrored;
} file_map;

typedef struct file_chip {
    char *name, *part, *fill, *access, *copies;
    file_map *maps;
    unsigned maps_count;
} file_chip;

typedef struct file_link {
    char *device, *baud, *monitor, *dialogue, *method, *packet, *rounds, *neighbour;
} file_link;

typedef struct file_programmer {
    char *baud, *vpp, *dialogue;
} file_programmer;

typedef struct file_set {
    char *at, *to;
} file_set;

typedef struct file_routine {
    file_set *set;
    unsigned set_count;
    char *start, *shows;
    char **uses;
    unsigned uses_count;
} file_routine;

typedef struct file_mark {
    char *at, *shows;
} file_mark;

typedef struct file_tape {
    char *baud, *data_bits, *stop_bits, *parity, *order, *rest, *leader, *gap, *first, *start;
    char **tones, **cycles, **duration; /* of a 0, of a 1 */
    unsigned tones_count, cycles_count, duration_count;
    file_routine *save, *load; /* of the machine's ROM */
    file_mark *counter;
    unsigned counter_count;
} file_tape;

typedef struct file_layout {
    char *name, *sector, *track, *tracks, *system, *block, *entries, *skew, *extents;
    char **order;
    unsigned order_count;
} file_layout;

typedef struct file_field {
    char *field, *size, *order, *plus, *value, *text, *pad, *over;
} file_field;

typedef struct file_wrap {
    char *name;
    file_field *head, *foot;
    unsigned head_count, foot_count;
} file_wrap;

typedef struct file_boot_mark {
    char *at, *value;
} file_boot_mark;

typedef struct file_boot_sum {
    char *kind, *over, *at, *total;
} file_boot_sum;

typedef struct file_disk_file {
    char *source, *file, *of, *to, *wrap, *user, *at, *newline;
    char **lines;
    unsigned lines_count;
    bool starts;
} file_disk_file;

typedef struct file_disk {
    char *image, *kind, *size, *label, *layout, *from, *boot;
    bool partition;
    file_boot_mark *boot_marks;
    unsigned boot_marks_count;
    file_boot_sum *boot_sum;
    file_disk_file *files;
    unsigned files_count;
    file_layout *layouts;
    unsigned layouts_count;
    file_wrap *wraps;
    unsigned wraps_count;
} file_disk;

typedef struct file_piece {
    char *source, *firmware, *for_what;
} file_piece;

typedef struct file_bench {
    file_bank *banks;
    unsigned banks_count;
    char *undriven;
    char *bench, *cpu, *clock, *radix, *decoder, *version, *logbook, *out;
    file_area *areas;
    unsigned areas_count;
    file_device *devices;
    unsigned devices_count;
    file_part *parts;
    unsigned parts_count;
    file_chip *chips;
    unsigned chips_count;
    file_link *link;
    file_programmer *programmer;
    file_tape *tape;
    file_disk *disk;
    file_piece *build;
    unsigned build_count;
} file_bench;

extern const cyaml_schema_value_t bench_schema;

#endif

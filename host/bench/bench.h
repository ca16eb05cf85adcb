/* bench.h - the bench file: one machine, and what is to be built for it. docs/bench.md. */
#ifndef BOOTLACE_BENCH_H
#define BOOTLACE_BENCH_H

#include "bootlace/bootlace.h"
#include "bootlace/device.h"

/* What bench files may name that somebody else knows: the simulator's devices and neighbours, or
 * those of a test. By index; NULL: there are no more. */
typedef struct bench_hardware {
    const bl_device_kind *(*device)(size_t index);
    /* The lines by which a CPU is interrupted, the usual one first; NULL beyond the last. */
    const char *(*request)(const bl_sheet *sheet, size_t index);
    const char *(*neighbour)(size_t index); /* whose monitors a simulated board can have */
} bench_hardware;

typedef struct bench_device {
    const char *name;
    const bl_device_kind *kind; /* NULL: other, with registers of its own */
    uint32_t at;
    bool in_ports;   /* at is a port, in the I/O space of CPUs that have one */
    uint32_t reach;  /* addresses at which its registers are seen, again and again */
    uint32_t size;   /* registers, counted to the last; 0: it has no address, only pins */
    uint32_t clock;  /* Hz; 0: the CPU's */
    uint8_t request; /* by which line it interrupts: bench_hardware's index; or BENCH_NO_REQUEST */
} bench_device;

enum { BENCH_NO_REQUEST = 0xFF };

/* What changes the memory that the CPU sees; as sim_rule. */
typedef enum bench_rule_what {
    BENCH_RULE_REPEATS, /* the first size addresses of the range, again and again */
    BENCH_RULE_BANKS,   /* the range is a window on what is stored from 'stored' on */
    BENCH_RULE_PROTECT, /* while its wire is high, or always, nothing is written */
    BENCH_RULE_UNDER,   /* RAM behind ROM: seen while its wire is high */
} bench_rule_what;

typedef struct bench_rule {
    bench_rule_what what;
    bl_range range;
    uint32_t size, stored;
    bool always; /* there is no wire */
} bench_rule;

enum { BENCH_RULES = 16, BENCH_RULE_BITS = 8 };

/* Where a wire ends. */
typedef enum bench_end_what {
    BENCH_END_DEVICE,  /* a pin of a device */
    BENCH_END_REQUEST, /* a line by which the CPU is interrupted */
    BENCH_END_RESET,
    BENCH_END_CLOCK, /* the CPU's */
    BENCH_END_LOW,   /* ground */
    BENCH_END_HIGH,  /* the supply */
    BENCH_END_RULE,  /* a rule of the memory: pin is its index times BENCH_RULE_BITS, and the bit */
} bench_end_what;

typedef struct bench_end {
    bench_end_what what;
    uint8_t device, pin; /* indices; of REQUEST: pin alone */
} bench_end;

/* Pins that are wired together. */
typedef struct bench_net {
    bench_end *ends;
    size_t count;
} bench_net;

typedef struct bench_piece {
    const char *source;   /* path as written, or NULL */
    const char *firmware; /* "eyelet", or NULL */
    bool for_chips;       /* otherwise for RAM */
    uint32_t line;        /* of the bench file */
} bench_piece;

/* What a place must hold before a tape routine of the machine's ROM is started. */
typedef enum bench_set_what {
    BENCH_SET_NUMBER, /* a number of its own */
    BENCH_SET_FIRST_LOW,
    BENCH_SET_FIRST_HIGH,
    BENCH_SET_LAST_LOW, /* of the last address */
    BENCH_SET_LAST_HIGH,
    BENCH_SET_END_LOW, /* of the address behind it */
    BENCH_SET_END_HIGH,
    BENCH_SET_PROGRAM, /* the program's number */
} bench_set_what;

enum { BENCH_SETS = 16, BENCH_USES = 8 };

typedef struct bench_routine {
    bool given;
    struct bench_set {
        uint32_t at;
        bench_set_what what;
        uint8_t value; /* of BENCH_SET_NUMBER */
    } set[BENCH_SETS];
    size_t set_count;
    uint32_t start;
    const char *shows;         /* when it went well; or NULL */
    bl_range uses[BENCH_USES]; /* where it works: no program can lie there */
    size_t uses_count;
} bench_routine;

/* Where nothing is said, milliseconds: before a program, between its blocks, to start it. */
enum { BENCH_TAPE_LEADER = 5000, BENCH_TAPE_GAP = 120, BENCH_TAPE_START = 3000 };

enum { BENCH_MARKS = 16 };

/* What a recorder's counter shows at a time from the begin of a tape. */
typedef struct bench_mark {
    uint64_t at; /* microseconds */
    uint32_t shows;
} bench_mark;

/* How cassettes are recorded. */
typedef struct bench_tape {
    bool given; /* there is such a section; else it is the Kansas City standard */
    bl_keying keying;
    uint32_t leader_ms, gap_ms; /* before a program, between its blocks */
    bool records;               /* what the machine's ROM can load: records; or else bare bytes */
    bench_routine save, load;   /* of the machine's ROM */
    bench_mark counter[BENCH_MARKS]; /* of the recorder, times rising */
    size_t counter_count;            /* 0: it is not described; else 2 or more */
    uint32_t start_ms;               /* how long it takes somebody to start what was loaded */
} bench_tape;

/* A file of the disk that is built. Of source, file and lines one is given. */
typedef struct bench_disk_file {
    const char *source; /* assembled: a program */
    const char *file;   /* as it is, or an image of a program where that is asked for */
    char **lines;       /* a text made from the addresses of the program of the file 'of' */
    size_t line_count;
    const char *newline;        /* what each of them ends with */
    const char *of, *to, *wrap; /* may be NULL */
    const char *at;             /* where a raw binary belongs; or NULL */
    uint8_t user;
    bool starts;
    uint32_t line;
} bench_disk_file;

/* Disks of the machine, and the one that is built. */
typedef struct bench_disk {
    const char *image; /* file in the folder of what is built; NULL: none is built */
    bl_disk_kind kind; /* BL_DISK_UNKNOWN: as the template has it */
    uint64_t size;     /* bytes; 0: as usual */
    const char *label, *layout, *from, *boot; /* may be NULL; boot: a source */
    bool partition;
    bool has_rule;
    bl_boot_rule rule;
    bench_disk_file *files;
    size_t file_count;
    bl_classic *layouts;
    size_t layout_count;
    bl_wrap *wraps;
    size_t wrap_count;
} bench_disk;

typedef struct bench {
    const char *path;
    const char *folder; /* that the bench file lies in */
    const char *name;
    const char *version; /* of what is built; may be NULL */
    const char *out;     /* folder for what is built; "out" beside bench.yaml */
    const char *state;   /* folder of the simulated bench's parts */
    const char *logbook; /* a file beside the bench file; NULL: in the user's data folder */
    bl_sheet *sheet;
    uint32_t clock; /* Hz */
    bl_radix radix;
    bl_area *areas; /* in the machine's addresses */
    size_t area_count;
    bl_range *holes; /* of the areas */
    bench_device *devices;
    size_t device_count;
    bench_rule rules[BENCH_RULES];
    size_t rule_count;
    const char *undriven; /* what is read where nothing is: "high", "low", "last" */
    bench_net *nets;
    size_t net_count;
    bl_part *parts; /* of its own */
    size_t part_count;
    bl_chip *chips; /* their maps count bytes of an image, as bench_bytes does */
    size_t chip_count;
    bench_piece *pieces;
    size_t piece_count;
    bl_definition *definitions; /* board.*, then those of 'define' */
    size_t definition_count;
    size_t first_define;
    bool has_link;
    const bench_device *link_device; /* may be NULL */
    uint32_t link_baud;
    bl_method method;           /* how bytes get into RAM */
    bl_dialogue *link_dialogue; /* of a monitor that is not ours; or NULL */
    uint8_t packet, rounds;     /* method packets, blind-packets; 0: as usual */
    const char *neighbour;      /* whose monitor the simulated board has; or NULL */
    uint32_t programmer_baud;
    uint8_t programmer_vpp; /* tenths of a volt that its supply can make */
    bl_dialogue *dialogue;  /* the programmer is not ours, and speaks so; or NULL */
    bench_tape tape;
    bench_disk disk;
    uint16_t decode_ns; /* the board's address decoder */
    void *owned;        /* everything above lives in here */
} bench;

/* Reads and checks a bench file; hardware need not outlive the call, what it describes must. All
 * faults go to the sink with their lines. BL_E_NOT_FOUND, BL_E_IO, BL_E_SYNTAX, BL_E_MEMORY. Close
 * with bench_close. */
bl_status bench_open(const char *path, const bench_hardware *hardware, const bl_sink *sink,
                     bench **b);
void bench_close(bench *b);

/* A range of the machine's addresses as bytes of an image: of a machine with words, two for each.
 */
static inline bl_range bench_bytes(const bench *b, bl_range range)
{
    unsigned wide = bl_sheet_unit_bytes(b->sheet);
    return (bl_range){range.first * wide, range.count * wide};
}

/* What the recorder's counter shows at a time, microseconds: in proportion between two marks, and
 * beyond the last as between the last two. False: it is not described. */
bool bench_counter(const bench *b, uint64_t at, uint32_t *shows);

/* A size as disks have it: "1440K", "1.44M", "2G", or bytes; K is 1,024. False: it is none. */
bool bench_disk_size(const char *text, uint64_t *bytes);

/* The chip of this name; in the other case of letters when that means one of them alone. */
bool bench_find_chip(const bench *b, const char *name, size_t *index);

/* The name of a firmware source that comes with Bootlace ("z80/eyelet"), for the CPU of a sheet or
 * else for the one that it takes; NULL when there is none. */
const char *bench_firmware(const bl_sheet *sheet, const char *name);

/* Does firmware for the machine's CPU reach its device 'serial'? */
bool bench_has_driver(const bench *b);

/* The timer that makes the clock of a device, and what a program has to know to set it. */
typedef struct bench_timer {
    const bench_device *device;
    const char *output; /* the pin */
    uint32_t counted;   /* Hz: the clock that it counts; 0: it divides the CPU's by itself */
} bench_timer;
/* False: its clock comes from elsewhere. */
bool bench_clock_timer(const bench *b, const bench_device *d, bench_timer *timer);
/* The source "<serial>": how the machine's CPU reaches its device 'serial' (docs/serial.md); an
 * error for the assembler where it cannot. Free with g_free. */
char *bench_serial(const bench *b);

#endif

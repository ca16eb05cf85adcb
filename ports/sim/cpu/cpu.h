/* cpu.h - what every simulated CPU has in common: the bus it sees, and how it is run.
 *
 * A CPU has a header and a source of its own (cpuNAME.h, cpuNAME.c); sim_cpu_kinds lists them.
 * Accesses of an instruction happen at its start; cycles are counted by whole instructions.
 */
#ifndef BOOTLACE_SIM_CPU_H
#define BOOTLACE_SIM_CPU_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

/* The loop that runs most instructions is one function: calls would be a third of its time. */
#ifdef __GNUC__
#define SIM_INLINE static inline __attribute__((always_inline))
#define SIM_NEVER  __builtin_unreachable()
#else
#define SIM_INLINE static inline
#define SIM_NEVER  break
#endif

/* What the CPU sees of the board. A page with memory behind it has a pointer; all else is asked
 * for. Ports are for CPUs that have an I/O space. */
typedef struct sim_bus {
    const uint8_t *read_page[256];
    uint8_t *write_page[256];
    void *context;
    uint8_t (*read)(void *context, uint16_t address);
    uint8_t (*fetch)(void *context, uint16_t address); /* code; NULL: as read */
    void (*write)(void *context, uint16_t address, uint8_t value);
    /* Beyond 64 KiB, for CPUs that reach there; NULL: there is nothing. */
    uint8_t (*read_far)(void *context, uint32_t address);
    uint8_t (*fetch_far)(void *context, uint32_t address); /* code; NULL: as read_far */
    void (*write_far)(void *context, uint32_t address, uint8_t value);
    /* The page beyond 64 KiB that was fetched from last, where it is all memory; 0: none is known.
     */
    uint32_t far_page;
    const uint8_t *far_bytes;
    uint8_t (*in)(void *context, uint16_t port);
    void (*out)(void *context, uint16_t port, uint8_t value);
    uint8_t vector; /* what an interrupting device puts on the bus, when nobody knows better */
    uint8_t (*acknowledge)(
        void *context);              /* the CPU takes an interrupt: what is on the bus; or NULL */
    void (*returned)(void *context); /* it returns from one, by RETI; or NULL */
    const uint8_t *stops;            /* a bit for each address where a run ends, or NULL */
    const uint32_t *far_stops;       /* those beyond 64 KiB */
    size_t far_stop_count;
} sim_bus;

/* What a device puts on the bus when its interrupt is taken. */
SIM_INLINE uint8_t sim_acknowledge(const sim_bus *b)
{
    return b->acknowledge != NULL ? b->acknowledge(b->context) : b->vector;
}

SIM_INLINE uint8_t sim_read(const sim_bus *b, uint16_t address)
{
    const uint8_t *page = b->read_page[address >> 8];
    return page != NULL ? page[address & 0xFF] : b->read(b->context, address);
}

/* A byte of code from anywhere. */
SIM_INLINE uint8_t sim_fetch(const sim_bus *b, uint16_t address)
{
    const uint8_t *page = b->read_page[address >> 8];
    if (page != NULL) return page[address & 0xFF];
    return b->fetch != NULL ? b->fetch(b->context, address) : b->read(b->context, address);
}

SIM_INLINE void sim_write(const sim_bus *b, uint16_t address, uint8_t value)
{
    uint8_t *page = b->write_page[address >> 8];
    if (page != NULL)
        page[address & 0xFF] = value;
    else
        b->write(b->context, address, value);
}

/* The longest instruction of any CPU here, and some. */
enum { SIM_LONGEST = 8 };

/* The stream of code: an instruction that begins before end can be fetched without looking where
 * its bytes are. */
typedef struct sim_code {
    const uint8_t *at, *start, *end;
    uint16_t end_address;
    uint8_t edge[SIM_LONGEST]; /* an instruction that does not lie in one piece of memory */
} sim_code;

/* How the structure of every CPU begins. While it runs, the program counter is in code (access.h),
 * between runs it is in pc. */
#define SIM_CPU_HEAD                                                                               \
    sim_bus *bus;                                                                                  \
    uint64_t cycles; /* since power-on; while it runs, when left will be 0: SIM_CYCLES */          \
    int64_t left;    /* cycles to run until it looks at what is due */                             \
    uint16_t pc;                                                                                   \
    bool irq;        /* level, true: requested */                                                  \
    bool nmi;        /* set by an edge, cleared when taken */                                      \
    bool rest;       /* after an instruction that waits, and until something happens */            \
    bool special;    /* something else that must be seen to before the next instruction */         \
    uint8_t line[4]; /* other requests, where a CPU has them */                                    \
    sim_code code

typedef struct sim_cpu {
    SIM_CPU_HEAD;
} sim_cpu;

_Static_assert(offsetof(sim_cpu, line) - offsetof(sim_cpu, irq) == 4 &&
                   offsetof(sim_cpu, code) - offsetof(sim_cpu, irq) >= 8,
               "what can be due is side by side, eight bytes of it");

/* Is anything due but the next instruction? What could be is side by side. */
#define SIM_ATTENTION(c) sim_attention(&(c)->irq)
SIM_INLINE bool sim_attention(const bool *eight)
{
    uint64_t all;
    memcpy(&all, eight, sizeof all);
    return all != 0;
}

/* Cycles since power-on, also in the middle of a run. */
#define SIM_CYCLES(c) ((c)->cycles - (uint64_t)(c)->left)

/* After this instruction the CPU looks at what is due: for whoever sets one of them while it runs.
 */
#define SIM_LOOK(c) ((c)->cycles -= (uint64_t)(c)->left, (c)->left = 0)

/* An instruction takes more cycles than execute returns. */
#define SIM_SPEND(c, n) ((c)->left -= (int64_t)(n))

/* A register, or another part of the state that is kept when the board is left switched on. */
typedef struct sim_register {
    const char *name; /* as in the sheet */
    uint8_t offset, bytes;
    bool shown; /* to people */
    bool flag;  /* true or false, and nothing else */
} sim_register;

/* A line by which the CPU is interrupted. The first is irq, the second, if there is one, nmi. */
typedef struct sim_request {
    const char *name;
    uint8_t offset, bit; /* in the structure; which bit of it is set */
    bool edge;           /* set by the edge; the CPU clears it */
} sim_request;

/* What irq and nmi are of every CPU that has both. */
#define SIM_REQUEST_IRQ(label)                                                                     \
    {                                                                                              \
        label, offsetof(sim_cpu, irq), 0, false                                                    \
    }
#define SIM_REQUEST_NMI(label)                                                                     \
    {                                                                                              \
        label, offsetof(sim_cpu, nmi), 0, true                                                     \
    }

typedef struct sim_cpu_kind {
    const char *const *sheets; /* names of those it executes, NULL at the end */
    size_t size;
    const sim_register *registers;
    size_t register_count;
    /* What the reset line does. */
    void (*reset)(sim_cpu *c);
    /* One instruction, or one interrupt, or one idle cycle. */
    void (*step)(sim_cpu *c);
    /* Runs until at least so many cycles have passed since power-on, or, behind its first
     * instruction, to one of the bus's stops. */
    void (*run)(sim_cpu *c, uint64_t cycles);
    bool special_stops; /* special: it has stopped, and only a reset helps */
    const sim_request *requests;
    size_t request_count;
} sim_cpu_kind;

/* Does it execute nothing until an interrupt or a reset comes? */
SIM_INLINE bool sim_cpu_waits(const sim_cpu_kind *kind, const sim_cpu *c)
{
    return c->rest || (kind->special_stops && c->special);
}

/* x(0) to x(255). As the cases of a switch over opcodes: with the opcode a constant in each, the
 * compiler takes it apart once, not at every instruction. */
#define SIM_EACH_4(x, n) x(n) x((n) + 1) x((n) + 2) x((n) + 3)
#define SIM_EACH_16(x, n)                                                                          \
    SIM_EACH_4(x, n) SIM_EACH_4(x, (n) + 4) SIM_EACH_4(x, (n) + 8) SIM_EACH_4(x, (n) + 12)
#define SIM_EACH_64(x, n)                                                                          \
    SIM_EACH_16(x, n) SIM_EACH_16(x, (n) + 16) SIM_EACH_16(x, (n) + 32) SIM_EACH_16(x, (n) + 48)
#define SIM_EACH_BYTE(x)                                                                           \
    SIM_EACH_64(x, 0) SIM_EACH_64(x, 64) SIM_EACH_64(x, 128) SIM_EACH_64(x, 192)

/* The switch over opcodes that a CPU's run is made of. instruction fetches and executes one, by
 * what the CPU's file defines as SIM_EXECUTE: it returns the cycles but for those that it added on
 * the way. */
#define SIM_ONE_OPCODE(op)                                                                         \
    case op:                                                                                       \
        spent = SIM_EXECUTE(c, op);                                                                \
        SIM_SPEND(c, spent);                                                                       \
        break;
#define SIM_INSTRUCTION(type, fetch)                                                               \
    SIM_INLINE void instruction(type *c)                                                           \
    {                                                                                              \
        unsigned spent;                                                                            \
        switch (fetch(c)) {                                                                        \
            SIM_EACH_BYTE(SIM_ONE_OPCODE)                                                          \
        default: SIM_NEVER;                                                                        \
        }                                                                                          \
    }

/* Does a run end in front of an address? */
SIM_INLINE bool sim_stops(const uint8_t *stops, uint16_t address)
{
    return stops != NULL && (stops[address / 8] >> address % 8 & 1) != 0;
}

/* What each CPU's file ends with: its functions as sim_cpu_kind wants them. begin and end stand
 * around a run; attend deals with what is due, and is true when that took the place of the next
 * instruction. */
#define SIM_RUN(type, prefix, begin, attend, end)                                                  \
    void prefix##_run(type *c, uint64_t cycles)                                                    \
    {                                                                                              \
        const uint8_t *stops = c->bus->stops;                                                      \
        begin(c);                                                                                  \
        do {                                                                                       \
            bool due = SIM_ATTENTION(c);                                                           \
            if (!due || !attend(c, cycles)) {                                                      \
                c->left = due ? 1 : (int64_t)(cycles - c->cycles);                                 \
                c->cycles += (uint64_t)c->left;                                                    \
                do                                                                                 \
                    instruction(c);                                                                \
                while (c->left > 0 && !sim_stops(stops, here(c)));                                 \
            }                                                                                      \
            SIM_LOOK(c);                                                                           \
        } while (c->cycles < cycles && !sim_stops(stops, here(c)));                                \
        end(c);                                                                                    \
    }                                                                                              \
    void prefix##_step(type *c)                                                                    \
    {                                                                                              \
        prefix##_run(c, c->cycles + 1);                                                            \
    }                                                                                              \
    static void step(sim_cpu *c)                                                                   \
    {                                                                                              \
        prefix##_step((type *)c);                                                                  \
    }                                                                                              \
    static void run(sim_cpu *c, uint64_t cycles)                                                   \
    {                                                                                              \
        prefix##_run((type *)c, cycles);                                                           \
    }
#define SIM_RESET(type, prefix)                                                                    \
    static void reset(sim_cpu *c)                                                                  \
    {                                                                                              \
        prefix##_reset((type *)c);                                                                 \
    }
#define SIM_REGISTER(type, name, field, shown)                                                     \
    {                                                                                              \
        name, offsetof(type, field), sizeof(((type *)0)->field), shown,                            \
            _Generic(((type *)0)->field, bool                                                      \
                     : true, default                                                               \
                     : false)                                                                      \
    }

enum { SIM_REQUESTS_USUAL = 2, SIM_REQUESTS = 5 };
extern const sim_request sim_requests[SIM_REQUESTS_USUAL]; /* irq and nmi */

/* The kind that executes a sheet, by its name (not terminated); NULL when there is none. */
const sim_cpu_kind *sim_cpu_kind_for(const char *sheet, size_t length);
/* The names of all sheets that are executed; NULL beyond the last. */
const char *sim_cpu_name(size_t index);

uint64_t sim_register_get(const sim_cpu *c, const sim_register *r);
void sim_register_set(sim_cpu *c, const sim_register *r, uint64_t value);

#endif

/* ppi8255.c - three ports, three modes. */
#include "ppi8255.h"

#include <string.h>

#include "lines.h"

static const char *const pins[] = {"pa0", "pa1", "pa2", "pa3", "pa4", "pa5", "pa6", "pa7", "pb0",
                                   "pb1", "pb2", "pb3", "pb4", "pb5", "pb6", "pb7", "pc0", "pc1",
                                   "pc2", "pc3", "pc4", "pc5", "pc6", "pc7", NULL};
static const bl_device_port ports[] = {{0, 8, SIM_PPI_PORT_A, 0, false},
                                       {8, 8, SIM_PPI_PORT_B, 0, false},
                                       {16, 8, SIM_PPI_PORT_C, 0, false},
                                       {0}};

/* Lines of port C in the modes with handshake, for A and for B. */
enum { INTR_A = 3, STB_A = 4, IBF_A = 5, ACK_A = 6, OBF_A = 7 };
enum { INTR_B = 0, READY_B = 1, STROBE_B = 2 }; /* IBF or OBF; STB or ACK */

typedef struct ppi {
    uint8_t mode; /* the control word */
    uint8_t output[3];
    uint8_t latched[2];         /* A and B: what was strobed in */
    bool full[2];               /* an input waits to be read */
    bool waits[2];              /* an output waits to be taken */
    bool in_on[2];              /* interrupt enables: of inputs, */
    bool out_on[2];             /* of outputs */
    bool in_due[2], out_due[2]; /* interrupt requests */
} ppi;

static ppi *ppi_of(sim_device *d)
{
    return (ppi *)(void *)d->state.bytes;
}

static const ppi *ppi_seen(const sim_device *d)
{
    return (const ppi *)(const void *)d->state.bytes;
}

/* The mode of port A, or B: 0, 1, 2. */
static unsigned mode_of(const ppi *p, unsigned port)
{
    if (port == 1) return p->mode >> 2 & 1u;
    unsigned mode = p->mode >> 5 & 3u;
    return mode > 2 ? 2 : mode;
}

static bool is_input(const ppi *p, unsigned port)
{
    return (p->mode & (port == 0 ? 0x10 : 0x02)) != 0;
}

/* Without handshake reading is nothing but reading. */
static bool read_stirs_ppi(const sim_device *d)
{
    return mode_of(ppi_seen(d), 0) != 0 || mode_of(ppi_seen(d), 1) != 0;
}

static void set_mode(ppi *p, uint8_t mode)
{
    memset(p, 0, sizeof *p);
    p->mode = mode;
}

static void begin_ppi(sim_device *d, bool power)
{
    (void)power;
    set_mode(ppi_of(d), 0x9B); /* all ports are inputs */
}

/* Does port A, or B, put anything out, or take anything in, by handshake? */
static bool strobes_in(const ppi *p, unsigned port)
{
    return mode_of(p, port) == 2 || (mode_of(p, port) == 1 && is_input(p, port));
}

static bool strobes_out(const ppi *p, unsigned port)
{
    return mode_of(p, port) == 2 || (mode_of(p, port) == 1 && !is_input(p, port));
}

/* ---- port C ---- */

static bool interrupt_of(const ppi *p, unsigned port)
{
    return (p->in_due[port] && p->in_on[port]) || (p->out_due[port] && p->out_on[port]);
}

/* Which lines of port C are the handshake's, and what its outputs among them are. */
static uint8_t handshake_lines(const ppi *p, uint8_t *outputs, uint8_t *levels)
{
    unsigned lines = 0, out = 0, high = 0;
    if (mode_of(p, 0) != 0) {
        lines = out = 1u << INTR_A;
        high |= (unsigned)interrupt_of(p, 0) << INTR_A;
    }
    if (strobes_in(p, 0)) {
        lines |= 1u << STB_A | 1u << IBF_A, out |= 1u << IBF_A;
        high |= (unsigned)p->full[0] << IBF_A;
    }
    if (strobes_out(p, 0)) {
        lines |= 1u << ACK_A | 1u << OBF_A, out |= 1u << OBF_A;
        high |= (unsigned)!p->waits[0] << OBF_A;
    }
    if (mode_of(p, 1) != 0) {
        bool ready = is_input(p, 1) ? p->full[1] : !p->waits[1];
        lines |= 7, out |= 1u << INTR_B | 1u << READY_B;
        high |= (unsigned)interrupt_of(p, 1) << INTR_B | (unsigned)ready << READY_B;
    }
    *outputs = (uint8_t)out;
    *levels = (uint8_t)high;
    return (uint8_t)lines;
}

/* Port C as it is driven: the halves as the mode says, but for the handshake's lines. */
static uint8_t c_direction(const ppi *p, uint8_t *levels)
{
    uint8_t outputs, high, lines = handshake_lines(p, &outputs, &high);
    unsigned plain = ((p->mode & 0x08) == 0 ? 0xF0u : 0) | ((p->mode & 0x01) == 0 ? 0x0Fu : 0);
    *levels = (uint8_t)((p->output[2] & ~lines) | high);
    return (uint8_t)((plain & ~(unsigned)lines) | outputs);
}

static uint8_t read_c(const sim_device *d)
{
    uint8_t levels, driven = c_direction(ppi_seen(d), &levels);
    return (uint8_t)((sim_lines_read(d, SIM_PPI_PIN_PC) & ~driven) | (levels & driven));
}

/* ---- registers ---- */

static uint8_t read_ppi(sim_device *d, uint64_t now, unsigned reg)
{
    ppi *p = ppi_of(d);
    (void)now;
    if (reg == SIM_PPI_PORT_C) return read_c(d);
    if (reg == SIM_PPI_CONTROL) return 0xFF; /* it cannot be read */
    if (strobes_in(p, reg)) {
        p->full[reg] = p->in_due[reg] = false;
        return p->latched[reg];
    }
    return is_input(p, reg) ? sim_lines_read(d, reg * 8) : p->output[reg];
}

/* A single bit of port C; where that is a line of the handshake it is an interrupt enable. */
static void set_bit(ppi *p, uint8_t value)
{
    unsigned bit = value >> 1 & 7;
    bool on = (value & 1) != 0;
    if (strobes_in(p, 0) && bit == STB_A) {
        p->in_on[0] = on;
    } else if (strobes_out(p, 0) && bit == ACK_A) {
        p->out_on[0] = on;
    } else if (mode_of(p, 1) == 1 && bit == STROBE_B) {
        p->in_on[1] = on && is_input(p, 1);
        p->out_on[1] = on && !is_input(p, 1);
    } else {
        p->output[2] = (uint8_t)(on ? p->output[2] | 1u << bit : p->output[2] & ~(1u << bit));
    }
}

static void write_ppi(sim_device *d, uint64_t now, unsigned reg, uint8_t value)
{
    ppi *p = ppi_of(d);
    (void)now;
    if (reg == SIM_PPI_CONTROL) {
        if ((value & 0x80) != 0)
            set_mode(p, value);
        else
            set_bit(p, value);
        return;
    }
    p->output[reg] = value;
    if (reg == SIM_PPI_PORT_C || !strobes_out(p, reg)) return;
    p->waits[reg] = true;
    p->out_due[reg] = false;
}

/* ---- pins ---- */

static bool interrupt_ppi(const sim_device *d)
{
    return interrupt_of(ppi_seen(d), 0) || interrupt_of(ppi_seen(d), 1);
}

/* In mode 2 port A is driven only while the other side acknowledges. */
static sim_level drives_ppi(const sim_device *d, unsigned pin)
{
    const ppi *p = ppi_seen(d);
    unsigned port = pin / 8, bit = pin % 8;
    uint8_t levels, driven;
    if (port == 2) {
        driven = c_direction(p, &levels);
        return sim_lines_drive(levels, driven, bit);
    }
    if (mode_of(p, port) == 2)
        return sim_device_sees(d, SIM_PPI_PIN_PC + ACK_A, true)
                   ? SIM_FLOATS
                   : sim_lines_drive(p->output[0], 0xFF, bit);
    return sim_lines_drive(p->output[port], is_input(p, port) ? 0 : 0xFF, bit);
}

/* The strobe brings an input when it falls; its end asks for the interrupt. */
static void strobe(sim_device *d, unsigned port, bool high)
{
    ppi *p = ppi_of(d);
    if (high) {
        if (p->full[port]) p->in_due[port] = true;
        return;
    }
    p->latched[port] = sim_lines_read(d, port * 8);
    p->full[port] = true;
}

static void acknowledge(ppi *p, unsigned port, bool high)
{
    if (high) {
        if (!p->waits[port]) p->out_due[port] = true;
    } else {
        p->waits[port] = false;
    }
}

static void edge_ppi(sim_device *d, uint64_t now, unsigned pin, bool high)
{
    ppi *p = ppi_of(d);
    (void)now;
    if (pin == SIM_PPI_PIN_PC + STB_A && strobes_in(p, 0)) strobe(d, 0, high);
    if (pin == SIM_PPI_PIN_PC + ACK_A && strobes_out(p, 0)) acknowledge(p, 0, high);
    if (pin != SIM_PPI_PIN_PC + STROBE_B) return;
    if (strobes_in(p, 1)) strobe(d, 1, high);
    if (strobes_out(p, 1)) acknowledge(p, 1, high);
}

#define FLAGS(member)                                                                              \
    {#member "_a", offsetof(ppi, member[0]), 1, SIM_FIELD_FLAG},                                   \
    {                                                                                              \
#member "_b", offsetof(ppi, member[1]), 1, SIM_FIELD_FLAG                                  \
    }
static const sim_device_field fields[] = {
    SIM_FIELD(ppi, mode, SIM_FIELD_NUMBER),
    SIM_FIELD(ppi, output, SIM_FIELD_ROW),
    SIM_FIELD(ppi, latched, SIM_FIELD_ROW),
    FLAGS(full),
    FLAGS(waits),
    FLAGS(in_on),
    FLAGS(out_on),
    FLAGS(in_due),
    FLAGS(out_due),
    {0},
};

_Static_assert(sizeof(ppi) <= SIM_DEVICE_STATE, "a device has room for it");

const sim_device_kind sim_ppi_kind = {
    .about = {.name = "ppi-8255",
              .what = "three ports in three modes",
              .registers = {"port_a", "port_b", "port_c", "control"},
              .pins = pins,
              .ports = ports},
    .group = "ppi",
    .size = sizeof(ppi),
    .begin = begin_ppi,
    .read = read_ppi,
    .write = write_ppi,
    .interrupt = interrupt_ppi,
    .drives = drives_ppi,
    .read_stirs = read_stirs_ppi,
    .edge = edge_ppi,
    .fields = fields,
};

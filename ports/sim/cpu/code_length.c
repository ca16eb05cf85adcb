/* code_length.c - how long an instruction is, by its first bytes (code_length.h). */
#include "code_length.h"

/* ---- the 6502 family: by the column of the table ---- */

static unsigned m65_length(uint8_t op)
{
    unsigned column = op & 15;
    if (op == 0x20) return 3; /* JSR */
    if (column >= 12) return 3;
    if (column == 9 || column == 11) return (op & 0x10) != 0 ? 3 : 2;
    return 2;
}

unsigned sim_6502_length(const uint8_t *code)
{
    return m65_length(code[0]);
}

unsigned sim_65c02_length(const uint8_t *code)
{
    unsigned column = code[0] & 15;
    if (code[0] == 0xCB || code[0] == 0xDB) return 2;             /* WAI, STP */
    return column == 3 || column == 11 ? 1 : m65_length(code[0]); /* reserved, of one cycle */
}

/* ---- the 6800 family: by the row ---- */

/* Behind the opcode of the upper half, when its operand is in the code: one byte or two. */
static unsigned immediate(uint8_t op, bool wide_sums)
{
    unsigned low = op & 15;
    return low == 12 || low == 14 || (low == 3 && wide_sums) ? 2 : 1;
}

unsigned sim_6800_length(const uint8_t *code)
{
    switch (code[0] >> 4) {
    case 0x7:
    case 0xB:
    case 0xF: return 3;
    case 0x8:
    case 0xC: return 1 + immediate(code[0], false);
    default: return 2;
    }
}

/* From the byte that says how the index is used, which is the last of so many bytes. */
static unsigned m6809_index_length(const uint8_t *code, unsigned count, unsigned have)
{
    if (have < count) return count;
    uint8_t how = code[count - 1];
    if ((how & 0x80) == 0) return count;
    switch (how & 15) {
    case 8:
    case 12: return count + 1;
    case 9:
    case 13:
    case 15: return count + 2;
    default: return count;
    }
}

/* $10 to $1F, $30 to $3F: what follows the opcode. */
static unsigned m6809_mixed_operand(uint8_t op)
{
    switch (op) {
    case 0x16:
    case 0x17: return 2;
    case 0x1A:
    case 0x1C:
    case 0x1E:
    case 0x1F:
    case 0x34:
    case 0x35:
    case 0x36:
    case 0x37:
    case 0x3C: return 1;
    default: return 0;
    }
}

unsigned sim_6809_length(const uint8_t *code, unsigned have)
{
    bool other = code[0] == 0x10 || code[0] == 0x11;
    if (other && have < 2) return 2;
    uint8_t op = code[other];
    unsigned count = other ? 2 : 1, whole = count;
    switch (op >> 4) {
    case 0x0:
    case 0x9:
    case 0xD: whole += 1; break;
    case 0x1: whole += other ? 0 : m6809_mixed_operand(op); break;
    case 0x2: whole += other ? 2 : 1; break;
    case 0x3:
        if (op < 0x34 && !other) return m6809_index_length(code, count + 1, have);
        whole += other ? 0 : m6809_mixed_operand(op);
        break;
    case 0x4:
    case 0x5: break;
    case 0x6:
    case 0xA:
    case 0xE: return m6809_index_length(code, count + 1, have);
    case 0x7:
    case 0xB:
    case 0xF: whole += 2; break;
    default: whole += immediate(op, true);
    }
    return whole < 2 ? 2 : whole;
}

/* ---- the 8080, the 8085 and the Z80 ---- */

/* What all of them have in one place. */
static unsigned little_length(uint8_t op)
{
    unsigned z = op & 7;
    if (op < 0x40) {
        if (z == 1) return (op & 8) == 0 ? 3 : 1;
        if (z == 2) return op >= 0x20 ? 3 : 1;
        return z == 6 ? 2 : 1;
    }
    if (op < 0xC0) return 1;
    if (z == 2 || z == 4 || op == 0xC3 || op == 0xCD) return 3;
    return z == 6 || op == 0xD3 || op == 0xDB ? 2 : 1;
}

unsigned sim_8080_length(const uint8_t *code, bool later)
{
    uint8_t op = code[0];
    bool again = op == 0xCB || op == 0xDD || op == 0xED || op == 0xFD; /* jump and call once more */
    return again && !later ? 3 : little_length(op);
}

/* Has it (HL), which with an index register takes a distance? */
static bool z80_reaches_memory(uint8_t op)
{
    if (op < 0x40) return op >= 0x34 && op <= 0x36;
    if (op >= 0xC0 || op == 0x76) return false;
    return (op & 7) == 6 || (op & 0xF8) == 0x70;
}

unsigned sim_z80_length(const uint8_t *code, unsigned have)
{
    uint8_t op = code[0];
    bool indexed = op == 0xDD || op == 0xFD;
    if ((indexed || op == 0xED) && have < 2) return 2;
    if (op == 0xED) return (code[1] & 0xC7) == 0x43 ? 4 : 2;
    if (indexed) {
        op = code[1];
        if (op == 0xCB) return 4;
        if (op == 0xDD || op == 0xFD || op == 0xED) return 2;
    }
    if (op == 0xCB) return 2;
    bool jumps = op < 0x40 && (op & 7) == 0 && op >= 0x10; /* DJNZ and JR */
    return (indexed ? 1u : 0u) + (jumps ? 2 : little_length(op)) +
           (indexed && z80_reaches_memory(op) ? 1u : 0u);
}

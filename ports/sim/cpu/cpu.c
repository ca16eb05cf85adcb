/* cpu.c - which CPUs there are, and their registers by name. */
#include "cpu.h"

#include <string.h>

#include "cpu6502.h"
#include "cpu65c02.h"
#include "cpu6800.h"
#include "cpu6809.h"
#include "cpu8080.h"
#include "cpuez80.h"
#include "cpuz80.h"

static const sim_cpu_kind *const kinds[] = {&sim_6502_kind, &sim_65c02_kind, &sim_6800_kind,
                                            &sim_6809_kind, &sim_8080_kind,  &sim_8085_kind,
                                            &sim_z80_kind,  &sim_ez80_kind};
enum { KINDS = sizeof kinds / sizeof kinds[0] };

const sim_request sim_requests[] = {SIM_REQUEST_IRQ("irq"), SIM_REQUEST_NMI("nmi")};

static bool same_nocase(const char *a, const char *b, size_t length)
{
    for (size_t i = 0; i < length; i++) {
        char x = a[i] >= 'A' && a[i] <= 'Z' ? (char)(a[i] + 32) : a[i];
        if (x != b[i]) return false; /* the names here are in small letters */
    }
    return b[length] == '\0';
}

const sim_cpu_kind *sim_cpu_kind_for(const char *sheet, size_t length)
{
    for (size_t i = 0; i < KINDS; i++)
        for (const char *const *name = kinds[i]->sheets; *name != NULL; name++)
            if (strlen(*name) == length && same_nocase(sheet, *name, length)) return kinds[i];
    return NULL;
}

const char *sim_cpu_name(size_t index)
{
    for (size_t i = 0; i < KINDS; i++)
        for (const char *const *name = kinds[i]->sheets; *name != NULL; name++)
            if (index-- == 0) return *name;
    return NULL;
}

uint64_t sim_register_get(const sim_cpu *c, const sim_register *r)
{
    const void *at = (const char *)c + r->offset;
    uint16_t wide;
    uint32_t widest;
    if (r->bytes == 1) return *(const uint8_t *)at;
    if (r->bytes == 4) {
        memcpy(&widest, at, sizeof widest);
        return widest;
    }
    memcpy(&wide, at, sizeof wide);
    return wide;
}

void sim_register_set(sim_cpu *c, const sim_register *r, uint64_t value)
{
    void *at = (char *)c + r->offset;
    uint16_t wide = (uint16_t)value;
    uint32_t widest = (uint32_t)value & 0xFFFFFF; /* no register is wider than 24 bits */
    if (r->bytes == 1)
        *(uint8_t *)at = (uint8_t)value;
    else if (r->bytes == 4)
        memcpy(at, &widest, sizeof widest);
    else
        memcpy(at, &wide, sizeof wide);
}

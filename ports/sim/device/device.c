/* device.c - which kinds of devices there are. */
#include "device.h"

#include <string.h>

#include "ata.h"
#include "cassette.h"
#include "latch.h"
#include "port8.h"
#include "serial/acia.h"
#include "serial/acia6850.h"
#include "serial/sio.h"
#include "serial/uart16550.h"
#include "serial/usart8251.h"

static const sim_device_kind *const kinds[] = {
    &sim_acia_kind,  &sim_6850_kind,     &sim_8250_kind, &sim_16450_kind,
    &sim_16550_kind, &sim_8251_kind,     &sim_sio_kind,  &sim_latch_kind,
    &sim_port8_kind, &sim_cassette_kind, &sim_ata_kind,
};
enum { KINDS = sizeof kinds / sizeof kinds[0] };

const sim_device_kind *sim_device_kind_at(size_t index)
{
    return index < KINDS ? kinds[index] : NULL;
}

const sim_device_kind *sim_device_kind_named(const char *name)
{
    for (size_t i = 0; i < KINDS; i++)
        if (strcmp(kinds[i]->about.name, name) == 0) return kinds[i];
    return NULL;
}

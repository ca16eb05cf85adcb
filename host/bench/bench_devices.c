/* bench_devices.c - which devices there are, where, and by which line they interrupt. */
#include <glib.h>
#include <string.h>

#include "bench_read.h"

/* The kind that a device is said to be; "other" is none of those that are known. */
static bool find_kind(reader *r, yaml_node_t *node, const char *name, bench_device *d)
{
    GString *known;
    const bl_device_kind *kind;
    if (strcmp(name, "other") == 0) return true;
    for (size_t i = 0; (kind = r->hardware->device(i)) != NULL; i++) {
        if (strcmp(kind->name, name) != 0) continue;
        d->kind = kind;
        return true;
    }
    known = g_string_new("known:");
    for (size_t i = 0; (kind = r->hardware->device(i)) != NULL; i++)
        g_string_append_printf(known, " %s,", kind->name);
    g_string_append(known, " other (with registers)");
    yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "kind"), known->str,
               "no kind of device is called '%s'", name);
    g_string_free(known, TRUE);
    return false;
}

static void define_register(reader *r, const char *device, bl_text name, uint32_t at)
{
    bench_define(r, g_strdup_printf("board.%s.%.*s", device, (int)name.length, name.at), at);
}

/* A known kind brings its registers; others list their own, with offsets. */
static void take_registers(reader *r, yaml_node_t *node, const file_device *f, bench_device *d)
{
    unsigned known = d->kind != NULL ? bl_device_register_count(d->kind) : 0;
    bl_text name;
    d->size = d->kind != NULL ? known : 1;
    for (unsigned k = 0; k < known; k++)
        for (unsigned n = 0; (name = bl_device_register_name(d->kind, k, n)).length > 0; n++)
            define_register(r, f->name, name, d->at + k);
    yaml_node_t *list = yaml_key(&r->yaml, node, "registers");
    if (d->kind != NULL && f->registers_count > 0)
        yaml_fault(&r->yaml, list, "use kind: other for your own",
                   "a '%s' brings its own registers", f->kind);
    for (unsigned k = 0; d->kind == NULL && k < f->registers_count; k++) {
        yaml_node_t *item = yaml_item(&r->yaml, list, k);
        uint32_t offset = 0;
        if (!bench_identifier(r, yaml_key(&r->yaml, item, "name"), f->registers[k].name)) continue;
        if (!bench_number(r, yaml_key(&r->yaml, item, "offset"), f->registers[k].offset, 0xFFFF,
                          &offset))
            continue;
        define_register(r, f->name, bench_text(f->registers[k].name), d->at + offset);
        if (offset + 1 > d->size) d->size = offset + 1;
    }
}

/* A device that is decoded incompletely repeats its registers. */
static void take_reach(reader *r, yaml_node_t *node, const file_device *f, bench_device *d)
{
    uint32_t reach = 0;
    yaml_node_t *at = yaml_key(&r->yaml, node, "reach");
    d->reach = d->size;
    if (f->reach == NULL || !bench_number(r, at, f->reach, 0x10000, &reach)) return;
    if (reach < d->size)
        yaml_fault(&r->yaml, at, NULL, "device '%s' has %lu registers: it reaches as far at least",
                   d->name, (unsigned long)d->size);
    else
        d->reach = reach;
}

static void place_device(reader *r, yaml_node_t *node, const bench_device *d)
{
    bl_range taken = {d->at, d->reach};
    bool inside = d->in_ports;
    for (size_t i = 0; i < r->b->area_count; i++)
        inside |= r->b->areas[i].kind == BL_AREA_IO && bl_range_holds(r->b->areas[i].range, taken);
    if (!inside)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "at"),
                   "describe an area of kind io that holds its registers",
                   "device '%s' ($%04lX..$%04lX) lies in no io area", d->name, (unsigned long)d->at,
                   (unsigned long)bl_range_last(taken));
    if (d->in_ports && d->at + d->reach > 0x100)
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "port"), NULL,
                   "device '%s' has %lu registers: the last would be beyond port $FF", d->name,
                   (unsigned long)d->size);
    for (const bench_device *o = r->b->devices; o < d; o++)
        if (o->size > 0 && d->in_ports == o->in_ports &&
            bl_range_meet(taken, (bl_range){o->at, o->reach}))
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "at"),
                       "two chips that answer at one address drive the bus against each other",
                       "device '%s' overlaps device '%s' at $%04lX", d->name, o->name,
                       (unsigned long)(d->at > o->at ? d->at : o->at));
}

/* An address, or a port; none for what is wired to the pins of others. */
static bool take_place(reader *r, yaml_node_t *node, const file_device *f, bench_device *d)
{
    uint32_t top = (uint32_t)(((uint64_t)1 << bl_sheet_address_bits(r->b->sheet)) - 1);
    const char *key = f->port != NULL ? "port" : "at", *text = f->port != NULL ? f->port : f->at;
    bool pins_alone = d->kind != NULL && bl_device_register_count(d->kind) == 0;
    d->in_ports = f->port != NULL;
    if (pins_alone && text != NULL) {
        yaml_fault(&r->yaml, yaml_key(&r->yaml, node, key), "wires: {PIN: DEVICE.PIN}",
                   "a '%s' has no registers, only pins", f->kind);
        return false;
    }
    if (pins_alone) return true;
    if (text == NULL && d->kind != NULL && d->kind->at_pins) {
        d->size = 0;
        return true;
    }
    if ((f->at == NULL) == (f->port == NULL)) {
        yaml_fault(&r->yaml, node, "at: ADDRESS, or port: NUMBER for CPUs that have ports",
                   "device '%s' has one place, an address or a port", f->name);
        return false;
    }
    return bench_number(r, yaml_key(&r->yaml, node, key), text, d->in_ports ? 0xFF : top, &d->at);
}

/* The clock of a device that has one of its own, where it is said; wires may say it, too
 * (bench_clocks.c). */
static void take_clock(reader *r, yaml_node_t *node, const file_device *f, bench_device *d)
{
    bool clocked = d->kind != NULL && d->kind->clocked;
    yaml_node_t *at = yaml_key(&r->yaml, node, "clock");
    if (f->clock != NULL && !clocked && d->kind != NULL)
        yaml_fault(&r->yaml, at, NULL, "a '%s' has no clock of its own", f->kind);
    else if (f->clock != NULL && !bench_clock(f->clock, &d->clock))
        yaml_fault(&r->yaml, at, "like 1.8432 MHz, 153.6 kHz", "'%s' is not a clock rate",
                   f->clock);
}

uint8_t bench_request(reader *r, const char *name)
{
    const char *known;
    for (size_t i = 0; (known = r->hardware->request(r->b->sheet, i)) != NULL; i++)
        if (g_ascii_strcasecmp(known, name) == 0) return (uint8_t)i;
    return BENCH_NO_REQUEST;
}

char *bench_request_list(reader *r)
{
    GString *list = g_string_new(NULL);
    const char *known;
    for (size_t i = 0; (known = r->hardware->request(r->b->sheet, i)) != NULL; i++)
        g_string_append_printf(list, "%s, ", known);
    return g_string_free(list, FALSE);
}

/* By which line it interrupts: the usual one when nothing is said. */
static void take_request(reader *r, yaml_node_t *node, const file_device *f, bench_device *d)
{
    d->request = r->hardware->request(r->b->sheet, 0) != NULL ? 0 : BENCH_NO_REQUEST;
    if (f->interrupt == NULL) return;
    d->request = bench_request(r, f->interrupt);
    if (d->request != BENCH_NO_REQUEST || strcmp(f->interrupt, "none") == 0) return;
    char *list = bench_request_list(r), *known = g_strdup_printf("known: %snone", list);
    yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "interrupt"), known,
               "this CPU has no interrupt line called '%s'", f->interrupt);
    g_free(known);
    g_free(list);
}

/* A device that is wrong in one way is still looked at for others: all faults of a file are told.
 */
void bench_take_devices(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "devices");
    bench *b = r->b;
    b->devices = g_new0(bench_device, r->file->devices_count + 1);
    for (unsigned i = 0; i < r->file->devices_count; i++) {
        const file_device *f = &r->file->devices[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        bench_device *d = &b->devices[i];
        d->name = f->name;
        if (!bench_identifier(r, yaml_key(&r->yaml, node, "name"), f->name)) continue;
        if (strcmp(f->name, "cpu") == 0)
            yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                       "no device can be called 'cpu': wires to cpu.nmi mean the CPU");
        for (unsigned j = 0; j < i; j++)
            if (strcmp(b->devices[j].name, f->name) == 0)
                yaml_fault(&r->yaml, yaml_key(&r->yaml, node, "name"), NULL,
                           "device '%s' is described twice", f->name);
        if (!find_kind(r, node, f->kind, d)) continue;
        take_clock(r, node, f, d);
        take_request(r, node, f, d);
        if (!take_place(r, node, f, d)) continue;
        if (d->kind != NULL &&
            (bl_device_register_count(d->kind) == 0 || (f->at == NULL && f->port == NULL)))
            continue;
        take_registers(r, node, f, d);
        bench_define(r, g_strdup_printf("board.%s.at_port", f->name), d->in_ports);
        take_reach(r, node, f, d);
        place_device(r, node, d);
    }
    b->device_count = r->file->devices_count;
    if (bench_has_driver(b)) bench_define(r, g_strdup("board.serial.driver"), 1);
}

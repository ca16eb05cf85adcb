/* bench_clocks.c - where the devices with a clock of their own have it from: a number, an
 * oscillator, the CPU's clock, or the output of a timer, which firmware sets to that number. */
#include <glib.h>
#include <string.h>

#include "bench_read.h"

static const bench_net *net_of(const bench *b, size_t device, int pin)
{
    for (size_t i = 0; i < b->net_count; i++)
        for (size_t k = 0; k < b->nets[i].count; k++) {
            const bench_end *e = &b->nets[i].ends[k];
            if (e->what == BENCH_END_DEVICE && e->device == device && e->pin == pin)
                return &b->nets[i];
        }
    return NULL;
}

static bool is_oscillator(const bench_device *d)
{
    return d->kind != NULL && strcmp(d->kind->name, "oscillator") == 0;
}

/* What pin of a timer makes a square wave or pulses by itself. */
static bool is_timer_output(const bench_device *d, uint8_t pin)
{
    const char *name = d->kind->pins[pin];
    return (strcmp(d->kind->name, "z80-ctc") == 0 && g_str_has_prefix(name, "zc")) ||
           (strcmp(d->kind->name, "via-6522") == 0 && strcmp(name, "pb7") == 0);
}

/* The rate at a net that nobody has to set; 0: there is none. */
static uint32_t fixed_rate(const bench *b, const bench_net *net)
{
    for (size_t k = 0; k < net->count; k++) {
        const bench_end *e = &net->ends[k];
        if (e->what == BENCH_END_CLOCK) return b->clock;
        if (e->what == BENCH_END_DEVICE && is_oscillator(&b->devices[e->device]))
            return b->devices[e->device].clock;
    }
    return 0;
}

bool bench_clock_timer(const bench *b, const bench_device *d, bench_timer *timer)
{
    if (d->kind == NULL || !d->kind->clocked) return false;
    const bench_net *net =
        net_of(b, (size_t)(d - b->devices), bl_device_pin(d->kind, bench_text("clock")));
    for (size_t k = 0; net != NULL && k < net->count; k++) {
        const bench_end *e = &net->ends[k];
        if (e->what != BENCH_END_DEVICE || !is_timer_output(&b->devices[e->device], e->pin))
            continue;
        const bench_device *source = &b->devices[e->device];
        *timer = (bench_timer){source, source->kind->pins[e->pin], 0};
        if (timer->output[0] == 'z') { /* a channel that may count a clock */
            char trigger[] = {'t', 'r', 'g', timer->output[2], '\0'};
            const bench_net *counted =
                net_of(b, e->device, bl_device_pin(source->kind, bench_text(trigger)));
            if (counted != NULL) timer->counted = fixed_rate(b, counted);
        }
        return true;
    }
    return false;
}

/* What is wired to the clock pin of a device. */
static void take_wired(reader *r, yaml_node_t *node, bench_device *d, const bench_net *net)
{
    bench_timer timer;
    uint32_t rate = fixed_rate(r->b, net);
    yaml_node_t *at = yaml_key(&r->yaml, node, "clock");
    if (rate != 0 && at != NULL && d->clock != rate)
        yaml_fault(&r->yaml, at, "leave 'clock' out: the wire says it",
                   "device '%s' gets %u Hz by its wire, not %u", d->name, rate, d->clock);
    else if (rate != 0)
        d->clock = rate;
    else if (!bench_clock_timer(r->b, d, &timer))
        yaml_fault(&r->yaml, node, "wire it to an oscillator, cpu.clock, CTC.zc0 to zc2, VIA.pb7",
                   "what the clock pin of device '%s' is wired to makes no clock", d->name);
    else if (at == NULL)
        yaml_fault(&r->yaml, node, "like clock: 153.6 kHz: what the timer is to make",
                   "device '%s' has its clock from %s.%s, which a program sets", d->name,
                   timer.device->name, timer.output);
}

void bench_take_clocks(reader *r)
{
    yaml_node_t *list = yaml_key(&r->yaml, yaml_root(&r->yaml), "devices");
    for (size_t i = 0; i < r->b->device_count; i++) {
        bench_device *d = &r->b->devices[i];
        yaml_node_t *node = yaml_item(&r->yaml, list, i);
        if (d->kind == NULL || !d->kind->clocked) continue;
        const bench_net *net = net_of(r->b, i, bl_device_pin(d->kind, bench_text("clock")));
        if (net != NULL)
            take_wired(r, node, d, net);
        else if (d->clock == 0)
            d->clock = d->kind->usual_clock;
        if (net == NULL && d->clock == 0)
            yaml_fault(&r->yaml, node, "like clock: 1.8432 MHz: what its clock pin gets",
                       "device '%s' needs a clock: its rate comes from it", d->name);
        if (d->clock != 0) bench_define(r, g_strdup_printf("board.%s.clock", d->name), d->clock);
    }
}

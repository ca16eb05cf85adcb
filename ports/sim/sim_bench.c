/* sim_bench.c - everything on the bench, one clock. */
#include "sim_bench.h"

#include <string.h>

#include "sim/device/port8.h"
#include "sim_past.h"

#include "bootlace/assert.h"

static void begin_line(sim_bench *s, sim_line *line, uint32_t baud)
{
    line->bench = s;
    line->faults = (sim_line_faults){.chance = {sim_chance_next(&s->chance)}};
    sim_wire_begin(&line->to_pc, baud, &line->faults);
    sim_wire_begin(&line->from_pc, baud, &line->faults);
}

void sim_bench_begin(sim_bench *s, const sim_cpu_kind *kind, uint32_t clock, const bl_area *areas,
                     size_t area_count, const bl_chip *chips, uint8_t **cells, size_t chip_count,
                     uint32_t board_baud, uint32_t socket_baud, uint64_t seed)
{
    memset(s, 0, sizeof *s);
    s->chance.state = seed;
    if (chip_count > SIM_CHIPS) chip_count = SIM_CHIPS;
    for (size_t i = 0; i < chip_count; i++)
        sim_part_begin(&s->parts[i], chips[i].part, cells[i]);
    begin_line(s, &s->board_line, board_baud);
    begin_line(s, &s->socket_line, socket_baud);
    sim_board_begin(&s->board, kind, clock, areas, area_count, chips, s->parts, chip_count);
    sim_socket_begin(&s->socket, NULL, &s->socket_line.from_pc, &s->socket_line.to_pc);
}

void sim_bench_insert(sim_bench *s, size_t chip)
{
    BL_ASSERT(chip < SIM_CHIPS);
    s->socket.chip = &s->parts[chip];
}

void sim_bench_power_on(sim_bench *s)
{
    s->powered = true;
    sim_board_power_on(&s->board, &s->chance, s->now);
    if (s->neighbour == NULL) return;
    sim_bench_neighbour(s);
    sim_monitor_say(&s->monitor, "%s", s->neighbour->greeting);
    sim_monitor_run(&s->monitor, s->now); /* it begins to speak now, not when somebody looks */
}

void sim_bench_neighbour(sim_bench *s)
{
    sim_monitor_begin(&s->monitor, s->neighbour, s->board.ram, &s->board_line.from_pc,
                      &s->board_line.to_pc, s->now);
}

void sim_bench_reset(sim_bench *s)
{
    sim_board_reset(&s->board);
    if (s->neighbour == NULL) return;
    sim_bench_neighbour(s);
    sim_monitor_say(&s->monitor, "%s", s->neighbour->greeting);
    sim_monitor_run(&s->monitor, s->now);
}

/* Until the monitor starts a program, the CPU has nothing to do that anybody sees. */
static void run_neighbour(sim_bench *s, uint64_t until)
{
    sim_monitor *m = &s->monitor;
    sim_monitor_run(m, until);
    sim_board_stand(&s->board, until);
    if (!m->started) return;
    const sim_cpu_kind *kind = s->board.kind;
    for (size_t i = 0; i < kind->register_count; i++)
        if (strcmp(kind->registers[i].name, "pc") == 0)
            sim_register_set(&s->board.cpu, &kind->registers[i], m->start);
    m->kind = NULL;
}

/* Until a moment, or until something stops the CPU: returns when that was. */
static uint64_t run_powered(sim_bench *s, uint64_t until)
{
    if (s->monitor.kind != NULL) {
        run_neighbour(s, until);
    } else if (s->stands || s->stop != BL_STOP_NOT) {
        sim_board_stand(&s->board, until);
    } else {
        bl_stop why = sim_board_run(&s->board, until);
        if (why == BL_STOP_NOT || why == BL_STOP_WAITS) return until;
        uint64_t at = sim_board_now(&s->board);
        s->stop = why;
        return at > s->now ? at : s->now;
    }
    return until;
}

static bl_stop stop_of(const sim_bench *s)
{
    if (s->stop != BL_STOP_NOT || !s->powered) return s->stop;
    return sim_cpu_waits(s->board.kind, &s->board.cpu) ? BL_STOP_WAITS : BL_STOP_NOT;
}

bl_stop sim_bench_run(sim_bench *s, uint64_t until)
{
    uint8_t byte;
    if (until <= s->now) return stop_of(s);
    if (s->past != NULL) sim_past_look(s->past);
    if (s->powered) until = run_powered(s, until);
    /* Nobody listens at a board without power. */
    while ((!s->powered || (s->stands && s->monitor.kind == NULL)) &&
           sim_wire_take(&s->board_line.from_pc, until, &byte))
        continue;
    sim_socket_run(&s->socket, until);
    s->now = until;
    return stop_of(s);
}

void sim_bench_step(sim_bench *s)
{
    BL_ASSERT(s->powered);
    if (s->past != NULL) sim_past_look(s->past);
    sim_board_step(&s->board);
    s->stop = BL_STOP_ASKED;
    sim_bench_run(s, sim_board_now(&s->board));
}

static bl_status line_send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    sim_line *line = context;
    *taken = 0;
    while (*taken < count && sim_wire_put(&line->from_pc, line->bench->now, bytes[*taken]))
        ++*taken;
    if (line->bench->past != NULL) sim_past_changed(line->bench->past);
    return BL_OK;
}

bl_status sim_line_break(sim_line *line, uint64_t length)
{
    if (!sim_wire_break(&line->from_pc, line->bench->now, length)) return BL_E_RANGE;
    if (line->bench->past != NULL) sim_past_changed(line->bench->past);
    return BL_OK;
}

static bl_status line_receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    sim_line *line = context;
    *got = 0;
    while (*got < capacity && sim_wire_take(&line->to_pc, line->bench->now, &bytes[*got]))
        ++*got;
    return BL_OK;
}

/* Steps of at most a byte time: a byte that begins in a step arrives after it, so none is seen
 * late. */
static bl_status line_wait(void *context, uint32_t microseconds)
{
    sim_line *line = context;
    sim_bench *s = line->bench;
    uint64_t end = s->now + (uint64_t)microseconds * 1000,
             step = sim_wire_byte_time(line->to_pc.baud);
    while (sim_wire_next(&line->to_pc) > s->now && s->now < end) {
        uint64_t until = s->now + step, arrival = sim_wire_next(&line->to_pc);
        if (until > end) until = end;
        if (until > arrival) until = arrival;
        sim_bench_run(s, until);
    }
    return BL_OK;
}

static uint64_t line_now(void *context)
{
    sim_line *line = context;
    return line->bench->now / 1000;
}

bl_serial sim_line_port(sim_line *line)
{
    return (bl_serial){.context = line,
                       .send = line_send,
                       .receive = line_receive,
                       .wait = line_wait,
                       .now = line_now};
}

/* ---- the parallel port ---- */

static sim_port8 *port_of(void *context)
{
    sim_bench *s = context;
    sim_device *d = sim_board_device(&s->board, &sim_port8_kind);
    return d != NULL ? sim_port8_of(d) : NULL;
}

static void lines_data(void *context, uint8_t byte)
{
    sim_port8 *p = port_of(context);
    if (p != NULL) p->lines = byte;
}

static void lines_strobe(void *context, bool up)
{
    sim_bench *s = context;
    sim_port8 *p = port_of(s);
    if (p != NULL) sim_port8_strobe(p, up);
    if (s->powered) sim_board_refresh(&s->board);
}

static bool lines_ready(void *context)
{
    const sim_bench *s = context;
    const sim_port8 *p = port_of(context);
    return s->powered && p != NULL && !p->full;
}

static void lines_wait(void *context, uint32_t microseconds)
{
    enum { STEP_NS = 2000 };
    sim_bench *s = context;
    uint64_t end = s->now + (uint64_t)microseconds * 1000;
    bool before = lines_ready(s);
    while (s->now < end && lines_ready(s) == before)
        sim_bench_run(s, s->now + STEP_NS);
}

static uint64_t lines_now(void *context)
{
    return ((sim_bench *)context)->now / 1000;
}

bl_parallel sim_parallel_port(sim_bench *s)
{
    return (bl_parallel){.context = s,
                         .data = lines_data,
                         .strobe = lines_strobe,
                         .ready = lines_ready,
                         .wait = lines_wait,
                         .now = lines_now};
}

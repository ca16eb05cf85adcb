/* own_programmer.c - the programmer's device side as a whole program.
 *
 * run() is the main loop of a microcontroller: bytes from the UART into the state machine, bytes
 * from it to the UART, its deadline looked after, the socket's pins behind bl_pins. For a board of
 * your own you write the five functions that board needs. Here they belong to a simulated 28C64 in
 * a simulated socket, and main plays the PC's side of the line.
 */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "bootlace/bootlace.h"
#include "bootlace/drive_frames.h"
#include "pins/pins.h"
#include "sim/part/zif.h"

/* ---- what a board supplies ---- */

typedef struct board {
    bool (*heard)(uint8_t *byte); /* a byte from the UART, if there is one */
    void (*say)(uint8_t byte);    /* a byte to the UART */
    uint64_t (*micros)(void);     /* a timer that never goes back */
    bl_pins pins;
} board;

/* ---- the program ---- */

static bl_programmer programmer;
static bl_pin_bus pin_bus;

static void begin(const board *b)
{
    static bl_chip_bus bus;
    bus = bl_pin_bus_begin(&pin_bus, &b->pins, &programmer.part);
    bl_programmer_begin(&programmer, &bus, "a programmer of my own");
}

/* Once round; main() of a microcontroller does this for ever. */
static void run(const board *b)
{
    uint8_t byte;
    while (b->heard(&byte))
        bl_programmer_input(&programmer, &byte, 1, b->micros());
    if (b->micros() >= bl_programmer_deadline(&programmer))
        bl_programmer_tick(&programmer, b->micros());
    while (bl_programmer_output(&programmer, &byte, 1) == 1)
        b->say(byte);
}

/* ---- a board on this table: simulated ---- */

static sim_zif socket_;
static sim_part chip;
static uint8_t cells[8192], to_device[4096], to_pc[4096];
static size_t to_device_count, to_device_at, to_pc_count;

static bool heard(uint8_t *byte)
{
    if (to_device_at == to_device_count) return false;
    *byte = to_device[to_device_at++];
    return true;
}

static void say(uint8_t byte)
{
    if (to_pc_count < sizeof to_pc) to_pc[to_pc_count++] = byte;
}

static uint64_t micros(void)
{
    return socket_.now / 1000;
}

static board table = {heard, say, micros, {0}};

/* ---- the PC's end of the line ---- */

static bl_status send(void *context, const uint8_t *bytes, size_t count, size_t *taken)
{
    (void)context;
    to_device_at = to_device_count = 0;
    *taken = count < sizeof to_device ? count : sizeof to_device;
    memcpy(to_device, bytes, *taken);
    to_device_count = *taken;
    return BL_OK;
}

static bl_status receive(void *context, uint8_t *bytes, size_t capacity, size_t *got)
{
    (void)context;
    *got = to_pc_count < capacity ? to_pc_count : capacity;
    memcpy(bytes, to_pc, *got);
    memmove(to_pc, to_pc + *got, to_pc_count - *got);
    to_pc_count -= *got;
    return BL_OK;
}

static bl_status wait(void *context, uint32_t microseconds)
{
    uint64_t end = micros() + microseconds;
    (void)context;
    while (micros() < end && to_pc_count == 0) {
        run(&table);
        table.pins.delay(table.pins.context, 20000);
    }
    return BL_OK;
}

static uint64_t now(void *context)
{
    (void)context;
    return micros();
}

/* The C library's allocator. */
static void *resize(void *context, void *block, size_t size)
{
    (void)context;
    if (size > 0) return realloc(block, size);
    free(block);
    return NULL;
}

int main(void)
{
    static const bl_memory memory = {NULL, resize};
    static const bl_serial line = {NULL, send, receive, wait, now, NULL};
    static uint8_t wanted[sizeof cells];
    static bl_exchange exchange;
    bl_transfer job;
    const bl_part *part = bl_part_named((bl_text){"28C64", 5});
    memset(cells, 0xFF, sizeof cells);
    for (size_t i = 0; i < sizeof wanted; i++)
        wanted[i] = (uint8_t)(i * 7);
    sim_part_begin(&chip, part, cells);
    sim_zif_begin(&socket_, &chip);
    table.pins = sim_zif_pins(&socket_);
    begin(&table);

    bl_piece piece = {0, sizeof wanted, wanted};
    bl_transfer_options o = {.goal = BL_GOAL_WRITE,
                             .pieces = &piece,
                             .piece_count = 1,
                             .block = part->page,
                             .region = 4096,
                             .who = BL_WHO_PROGRAMMER,
                             .part = part,
                             .sum_ns = 5000};
    bl_exchange_begin(&exchange, 115200);
    bl_status status = bl_transfer_begin(&job, &memory, &o);
    if (status == BL_OK) status = bl_drive_transfer(&line, &exchange, &job, NULL);
    printf("%s: %zu pages written into a %s, %lu bytes proved: %s\n", job.result.name,
           job.result.blocks_written, part->name, (unsigned long)job.result.bytes_proved,
           status == BL_OK ? "all right" : bl_status_text(status));
    bl_transfer_end(&job);
    return status == BL_OK && memcmp(cells, wanted, sizeof cells) == 0 ? 0 : 1;
}

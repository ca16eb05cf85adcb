/* uart.h - what all serial interfaces have alike: two shift registers at a line, and the format of
 * a character.
 *
 * The line carries what a PC sends and hears: 8 data bits, no parity, one stop bit. A chip in
 * another format takes the same bits apart in its own way: with 7 data bits and parity a character
 * is as long, with parity beside 8 bits the stop bit stands where parity is expected. At another
 * rate (more than 4 % off) the bits are sampled at the wrong places.
 */
#ifndef BOOTLACE_SIM_UART_H
#define BOOTLACE_SIM_UART_H

#include "sim/device/device.h"

typedef enum sim_parity {
    SIM_PARITY_NONE,
    SIM_PARITY_ODD,
    SIM_PARITY_EVEN,
    SIM_PARITY_MARK,
    SIM_PARITY_SPACE
} sim_parity;

/* What is wrong with a character that was received. */
enum { SIM_UART_PARITY = 1, SIM_UART_FRAMING = 2, SIM_UART_BREAK = 4 };

typedef struct sim_uart {
    uint32_t rate; /* baud; 0: its clock stands still */
    uint8_t bits;  /* of a character, 5 to 8 */
    uint8_t parity;
    uint8_t halves;  /* of stop bits: 2, 3, 4 */
    uint8_t waiting; /* the byte that waits for the shift register */
    bool has_waiting;
    bool breaks;         /* it holds the line low */
    bool held;           /* the other side does: a break is under way */
    uint64_t held_since; /* when that began */
    bool alone;          /* nothing is at its line, though the device has one: a second channel */
    uint64_t shift_free; /* when the last character's stop bits end */
} sim_uart;

/* 8 data bits, no parity, one stop bit, at a rate. */
void sim_uart_begin(sim_uart *u, uint32_t rate);
/* How long a character takes, nanoseconds; 1 s when its clock stands still. */
uint64_t sim_uart_time(const sim_uart *u);
/* The next character that has arrived by now; what is wrong with it in *errors. A break is one
 * character, a 0 without a stop bit; held says when it ends. */
bool sim_uart_take(sim_uart *u, sim_device *d, uint64_t now, uint8_t *byte, unsigned *errors);
/* A byte to send: into the shift register if that is free, or else it waits, in place of one that
 * waits already. */
void sim_uart_put(sim_uart *u, sim_device *d, uint64_t now, uint8_t byte);
/* True: the byte that waited has gone into the shift register. To be asked until it is false. */
bool sim_uart_shifts(sim_uart *u, sim_device *d, uint64_t now);
/* Switches a break on or off: on, the other side hears a 0 without a stop bit. */
void sim_uart_break(sim_uart *u, sim_device *d, uint64_t now, bool on);
/* When a character arrives; or, while it sends, when the waiting byte begins. */
uint64_t sim_uart_next(const sim_uart *u, const sim_device *d, bool sends);

/* The fields of a sim_uart that are saved; the format follows from the chip's registers, or is
 * saved beside them. */
#define SIM_UART_FIELDS(state, uart)                                                               \
    SIM_UART_FIELD(state, uart, rate, SIM_FIELD_NUMBER),                                           \
        SIM_UART_FIELD(state, uart, bits, SIM_FIELD_NUMBER),                                       \
        SIM_UART_FIELD(state, uart, parity, SIM_FIELD_NUMBER),                                     \
        SIM_UART_FIELD(state, uart, halves, SIM_FIELD_NUMBER),                                     \
        SIM_UART_FIELD(state, uart, waiting, SIM_FIELD_NUMBER),                                    \
        SIM_UART_FIELD(state, uart, has_waiting, SIM_FIELD_FLAG),                                  \
        SIM_UART_FIELD(state, uart, breaks, SIM_FIELD_FLAG),                                       \
        SIM_UART_FIELD(state, uart, held, SIM_FIELD_FLAG),                                         \
        SIM_UART_FIELD(state, uart, held_since, SIM_FIELD_TIME),                                   \
        SIM_UART_FIELD(state, uart, shift_free, SIM_FIELD_TIME)
#define SIM_UART_FIELD(state, uart, member, form)                                                  \
    {                                                                                              \
#member, offsetof(state, uart) + offsetof(sim_uart, member),                               \
            sizeof(((sim_uart *)0)->member), form                                                  \
    }

/* After loading: is the format one? */
bool sim_uart_sound(const sim_uart *u);

#endif

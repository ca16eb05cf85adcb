/* device.c - which kinds of devices there are. */
#include "device.h"

#include <string.h>

#include "ata.h"
#include "cassette.h"
#include "front/button.h"
#include "front/buzzer.h"
#include "front/digit.h"
#include "front/display.h"
#include "front/keypad.h"
#include "front/lamp.h"
#include "latch.h"
#include "oscillator.h"
#include "parallel/buffer.h"
#include "parallel/ctc.h"
#include "parallel/pia6821.h"
#include "parallel/ppi8255.h"
#include "parallel/riot6532.h"
#include "parallel/shift_out.h"
#include "parallel/via6522.h"
#include "port8.h"
#include "serial/acia.h"
#include "serial/acia6850.h"
#include "serial/bits.h"
#include "serial/sio.h"
#include "serial/uart16550.h"
#include "serial/usart8251.h"
#include "store/eeprom.h"

/* In the order of docs/bench.md. */
static const sim_device_kind *const kinds[] = {
    &sim_acia_kind,        &sim_6850_kind,         &sim_8250_kind,         &sim_16450_kind,
    &sim_16550_kind,       &sim_8251_kind,         &sim_sio_kind,          &sim_bits_kind,
    &sim_via_kind,         &sim_6520_kind,         &sim_pia_kind,          &sim_ppi_kind,
    &sim_ctc_kind,         &sim_riot_kind,         &sim_latch_kind,        &sim_buffer_kind,
    &sim_shift_out_kind,   &sim_eeprom_kind,       &sim_port8_kind,        &sim_cassette_kind,
    &sim_ata_kind,         &sim_display_16x2_kind, &sim_display_20x4_kind, &sim_cathode_digit_kind,
    &sim_anode_digit_kind, &sim_lamp_kind,         &sim_button_kind,       &sim_clean_button_kind,
    &sim_switch_kind,      &sim_keypad_kind,       &sim_buzzer_kind,       &sim_oscillator_kind,
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

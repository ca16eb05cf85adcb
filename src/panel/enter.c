/* enter.c - the hand at the switches: toggles an image in, and reads it back from the lamps. */
#include "base/core.h"
#include "bootlace/panel.h"

typedef struct hand {
    const bl_front_panel *port;
    bl_panel_entry *entry;
    bool started;
    uint32_t at; /* the address that the panel shows */
} hand;

static void press_key(hand *h, bl_panel_key key)
{
    h->port->press(h->port->context, key);
    h->entry->presses++;
}

static void set_hand_switches(hand *h, uint32_t switches)
{
    h->port->set(h->port->context, switches);
}

/* Shows an address, by the next key when that is enough. */
static void go_to(hand *h, uint32_t address)
{
    if (h->started && address == h->at) return;
    if (h->started && address == h->at + 1) {
        press_key(h, BL_KEY_EXAMINE_NEXT);
    } else {
        set_hand_switches(h, address);
        press_key(h, BL_KEY_EXAMINE);
    }
    h->started = true;
    h->at = address;
}

static void deposit_unit(void *context, uint32_t address, uint32_t value)
{
    hand *h = context;
    bool next = h->started && address == h->at + 1;
    if (!next) go_to(h, address);
    set_hand_switches(h, value);
    press_key(h, next ? BL_KEY_DEPOSIT_NEXT : BL_KEY_DEPOSIT);
    h->at = address;
    h->entry->deposited++;
}

/* What do the lamps say? */
static void look_at_unit(void *context, uint32_t address, uint32_t value)
{
    hand *h = context;
    go_to(h, address);
    bl_panel_lamps lamps = h->port->lamps(h->port->context);
    h->entry->read_back++;
    if (lamps.address == address && lamps.data == value) return;
    if (h->entry->wrong++ > 0) return;
    h->entry->where = address;
    h->entry->expected = value;
    h->entry->found = lamps.address == address ? lamps.data : UINT32_MAX;
}

/* With deposits, or without. */
static bl_status work_at_panel(const bl_panel *panel, const bl_front_panel *port, bool deposits,
                               bl_panel_entry *entry)
{
    memset(entry, 0, sizeof *entry);
    hand h = {.port = port, .entry = entry};
    press_key(&h, BL_KEY_STOP);
    if (port->lamps(port->context).running) return BL_E_BUSY;
    if (deposits) bl_panel_each(panel, deposit_unit, &h);
    h.started = false;
    bl_panel whole = *panel; /* all of it, also what was there before */
    whole.have = NULL;
    bl_panel_each(&whole, look_at_unit, &h);
    return entry->wrong > 0 ? BL_E_DIFFERS : BL_OK;
}

bl_status bl_panel_examine(const bl_panel *panel, const bl_front_panel *port, bl_panel_entry *entry)
{
    return work_at_panel(panel, port, false, entry);
}

bl_panel_lamps bl_panel_step(const bl_front_panel *port, uint32_t address)
{
    port->set(port->context, address);
    port->press(port->context, BL_KEY_EXAMINE);
    port->press(port->context, BL_KEY_STEP);
    return port->lamps(port->context);
}

bl_status bl_panel_enter(const bl_panel *panel, const bl_front_panel *port, bl_panel_entry *entry)
{
    return work_at_panel(panel, port, true, entry);
}

void bl_panel_run(const bl_front_panel *port, uint32_t entry)
{
    port->set(port->context, entry);
    port->press(port->context, BL_KEY_EXAMINE);
    port->press(port->context, BL_KEY_RUN);
}

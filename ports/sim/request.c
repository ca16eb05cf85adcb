/* request.c - the CPU's interrupt lines: which devices pull them, who is served first. */
#include <string.h>

#include "board.h"
#include "bootlace/assert.h"

/* Somebody begins or ends pulling a line: how many do is counted (wired or), so that a register
 * that is read in a waiting loop costs one look at one device. An edge is the first who begins. */
static void pull(sim_board *b, uint8_t request, bool pulls)
{
    const sim_request *r = &b->kind->requests[request];
    uint8_t *to = (uint8_t *)&b->cpu + r->offset, before = b->pulling[request];
    BL_ASSERT(pulls || before > 0);
    b->pulling[request] = (uint8_t)(pulls ? before + 1 : before - 1);
    uint8_t bit = (uint8_t)(1u << r->bit);
    if (b->pulling[request] > 0 && (!r->edge || before == 0))
        *to |= bit;
    else if (b->pulling[request] == 0 && !r->edge)
        *to &= (uint8_t)~bit;
    if (b->pulling[request] > 0) SIM_LOOK(&b->cpu);
}

/* Of devices with vectors those behind one that is being served have to wait. */
static bool waits_its_turn(const sim_board *b, size_t device)
{
    if (!b->chained || b->devices[device].kind->acknowledge == NULL) return false;
    for (size_t i = 0; i < device; i++) {
        const sim_device *d = &b->devices[i];
        if (d->kind->in_service != NULL && d->request == b->devices[device].request &&
            d->kind->in_service(d))
            return true;
    }
    return false;
}

void sim_board_note(sim_board *b, size_t device)
{
    sim_device *d = &b->devices[device];
    if (d->kind->interrupt == NULL || d->request == SIM_NO_REQUEST) return;
    bool pulls = !d->missing && d->kind->interrupt(d) && !waits_its_turn(b, device);
    if (pulls == d->pulls) {
        if (pulls) SIM_LOOK(&b->cpu);
        return;
    }
    d->pulls = pulls;
    pull(b, d->request, pulls);
}

void sim_board_refresh(sim_board *b)
{
    for (size_t i = 0; i < b->device_count; i++)
        sim_board_note(b, i);
}

/* What pulls is worked out anew; an edge that was seen before is none now. */
void sim_board_loaded(sim_board *b)
{
    const sim_request *r = b->kind->requests;
    uint8_t seen[SIM_REQUESTS];
    memset(b->pulling, 0, sizeof b->pulling);
    for (size_t i = 0; i < b->kind->request_count; i++) {
        uint8_t *to = (uint8_t *)&b->cpu + r[i].offset, bit = (uint8_t)(1u << r[i].bit);
        seen[i] = *to & bit;
        *to &= (uint8_t)~bit;
    }
    for (size_t i = 0; i < b->device_count; i++)
        b->devices[i].pulls = false;
    sim_board_refresh(b);
    sim_nets_begin(b);
    for (size_t i = 0; i < b->kind->request_count; i++) {
        if (!r[i].edge) continue;
        uint8_t *to = (uint8_t *)&b->cpu + r[i].offset, bit = (uint8_t)(1u << r[i].bit);
        *to = (uint8_t)((*to & ~bit) | seen[i]);
    }
}

void sim_board_pin(sim_board *b, uint8_t pin, bool high)
{
    if (pin != SIM_NET_RESET) {
        pull(b, pin, !high);
        return;
    }
    b->begins |= b->held && high;
    b->held = !high;
    SIM_LOOK(&b->cpu);
}

uint8_t sim_board_acknowledge(void *board)
{
    sim_board *b = board;
    for (size_t i = 0; b->chained && i < b->device_count; i++) {
        sim_device *d = &b->devices[i];
        if (d->request != 0 || !d->pulls || d->kind->acknowledge == NULL) continue;
        uint8_t vector = d->kind->acknowledge(d, sim_board_now(b));
        sim_board_refresh(b);
        return vector;
    }
    return b->bus.vector;
}

void sim_board_returned(void *board)
{
    sim_board *b = board;
    for (size_t i = 0; b->chained && i < b->device_count; i++) {
        sim_device *d = &b->devices[i];
        if (d->kind->in_service == NULL || !d->kind->in_service(d)) continue;
        d->kind->returned(d, sim_board_now(b));
        sim_board_refresh(b);
        return;
    }
}

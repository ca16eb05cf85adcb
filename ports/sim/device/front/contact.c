/* contact.c - bouncing. */
#include "contact.h"

enum { BOUNCES = 6 };

/* Shorter and shorter: 700 us to 100 us. */
static uint64_t interval(const sim_contact *c)
{
    return (uint64_t)(100 + c->bounces * 100) * 1000;
}

void sim_contact_set(sim_contact *c, uint64_t now, bool closed, bool bounces)
{
    if (closed == c->wanted) return;
    c->wanted = c->closed = closed;
    c->bounces = bounces ? BOUNCES : 0;
    c->next = now + interval(c);
}

void sim_contact_update(sim_contact *c, uint64_t now)
{
    while (c->bounces > 0 && now >= c->next) {
        c->closed = !c->closed;
        c->bounces--;
        c->next += interval(c);
    }
    if (c->bounces == 0) c->closed = c->wanted;
}

uint64_t sim_contact_next(const sim_contact *c)
{
    return c->bounces > 0 ? c->next : UINT64_MAX;
}

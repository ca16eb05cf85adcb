/* contact.h - a contact that somebody closes and opens, and that bounces: six more changes within
 * about 2.5 ms before it stays.
 */
#ifndef BOOTLACE_SIM_CONTACT_H
#define BOOTLACE_SIM_CONTACT_H

#include "sim/device/device.h"

typedef struct sim_contact {
    bool wanted, closed; /* what it will be; what it is now */
    uint8_t bounces;     /* changes that are still to come */
    uint64_t next;       /* when the next of them is */
} sim_contact;

void sim_contact_set(sim_contact *c, uint64_t now, bool closed, bool bounces);
void sim_contact_update(sim_contact *c, uint64_t now);
uint64_t sim_contact_next(const sim_contact *c);

#define SIM_CONTACT_FIELDS(state, contact)                                                         \
    {"wanted", offsetof(state, contact) + offsetof(sim_contact, wanted), 1, SIM_FIELD_FLAG},       \
        {"closed", offsetof(state, contact) + offsetof(sim_contact, closed), 1, SIM_FIELD_FLAG},   \
        {"bounces", offsetof(state, contact) + offsetof(sim_contact, bounces), 1,                  \
         SIM_FIELD_NUMBER},                                                                        \
    {                                                                                              \
        "next", offsetof(state, contact) + offsetof(sim_contact, next), 8, SIM_FIELD_TIME          \
    }

#endif

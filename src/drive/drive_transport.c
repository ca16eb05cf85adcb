/* drive_transport.c - carries any of the transports over a port. */
#include "bootlace/drive_transport.h"

static bl_status send_all(const bl_serial *port, bl_transport *transport)
{
    uint8_t out[256];
    size_t n;
    while ((n = bl_transport_output(transport, out, sizeof out, port->now(port->context))) > 0) {
        bl_status status = bl_drive_send(port, out, n);
        if (status != BL_OK) return status;
    }
    return BL_OK;
}

bl_status bl_drive_send(const bl_serial *port, const uint8_t *bytes, size_t count)
{
    while (count > 0) {
        size_t taken = 0;
        bl_status status = port->send(port->context, bytes, count, &taken);
        if (status == BL_OK && taken == 0) status = port->wait(port->context, 500);
        if (status != BL_OK) return status;
        bytes += taken;
        count -= taken;
    }
    return BL_OK;
}

bl_status bl_drive_drain(const bl_serial *port)
{
    const uint32_t slice_us = 50000, longest_us = 10000000;
    bl_status status = BL_E_BUSY;
    if (port->drain == NULL) return BL_OK;
    for (uint32_t waited = 0; status == BL_E_BUSY && waited < longest_us; waited += slice_us)
        status = port->drain(port->context, slice_us);
    return status == BL_E_BUSY ? BL_E_TIMEOUT : status;
}

/* The last bytes leave also when the transport is over: they tell the remote. */
bl_status bl_drive_transport(const bl_serial *port, bl_transport *transport,
                             const bl_transport_watch *watch)
{
    const uint32_t longest_us = 50000; /* between two looks of whoever watches */
    uint8_t in[256];
    for (;;) {
        size_t got = 0;
        bl_status status = send_all(port, transport);
        if (status != BL_OK) return status;
        bool over = bl_transport_status(transport) != BL_E_BUSY;
        if (over && transport->out_sent == transport->out_count) {
            status = bl_drive_drain(port);
            return status != BL_OK ? status : bl_transport_status(transport);
        }
        if (!over && watch != NULL && !watch->progress(watch->context, transport)) return BL_E_BUSY;
        uint64_t now = port->now(port->context), deadline = bl_transport_deadline(transport);
        uint64_t left = deadline > now ? deadline - now : 0;
        status = port->wait(port->context, left > longest_us ? longest_us : (uint32_t)left);
        if (status == BL_OK) status = port->receive(port->context, in, sizeof in, &got);
        if (status != BL_OK) return status;
        bl_transport_input(transport, in, got, port->now(port->context));
    }
}

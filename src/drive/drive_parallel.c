/* drive_parallel.c - carries rows over a parallel port. */
#include "bootlace/drive_parallel.h"

bl_status bl_drive_rows(const bl_parallel *port, bl_rows *rows)
{
    enum { LOOK_US = 1000 };
    void *c = port->context;
    while (bl_rows_status(rows) == BL_E_BUSY) {
        uint8_t byte = 0;
        switch (bl_rows_next(rows, port->ready(c), port->now(c), &byte)) {
        case BL_LINES_PUT:
            port->data(c, byte);
            port->strobe(c, true);
            break;
        case BL_LINES_RELEASE: port->strobe(c, false); break;
        default: port->wait(c, LOOK_US); break;
        }
    }
    port->strobe(c, false);
    return bl_rows_status(rows);
}

/* The handshake is two lines; time passes only in the port's wait. */
bl_status bl_drive_parallel(const bl_parallel *port, bl_transfer *job)
{
    static const char name[] = "Grommet";
    const bl_transfer_options *o = &job->options;
    bl_rows rows;
    for (size_t i = 0; i < sizeof name; i++)
        job->result.name[i] = name[i];
    job->result.stage = BL_STAGE_READ;
    if (o->goal != BL_GOAL_WRITE) return BL_E_UNSUPPORTED;
    job->result.stage = BL_STAGE_HELLO;
    bl_rows_begin(&rows, o->pieces, o->piece_count, o->run, o->entry, port->now(port->context));
    if (bl_rows_status(&rows) == BL_E_RANGE) {
        if (!bl_pieces_reach(o->pieces, o->piece_count, 0x10000, &job->result.where))
            job->result.where = o->entry;
        return BL_E_RANGE;
    }
    bl_status status = bl_drive_rows(port, &rows);
    if (rows.done > 0) job->result.stage = BL_STAGE_WRITE;
    if (rows.piece < rows.piece_count)
        job->result.where = o->pieces[rows.piece].first + (uint32_t)rows.at;
    if (status != BL_OK) return status;
    job->result.bytes_written = job->result.bytes_proved = job->result.bytes_total;
    job->result.blocks_written = job->result.blocks;
    job->result.proved_by = BL_PROOF_ROWS;
    job->result.run_asked = o->run;
    return BL_OK;
}

/* upload.h - what send, check, fetch and console share. */
#ifndef BOOTLACE_CLI_TRANSFER_H
#define BOOTLACE_CLI_TRANSFER_H

#include "connect/connect.h"
#include "payload.h"

enum { TRANSFER_BLOCK = 128, TRANSFER_REGION = 2048 };

typedef struct transfer_wish {
    bool compare; /* otherwise send */
    bool all, run;
    bool store;     /* it is kept, and starts at power-on */
    bool hold;      /* a program that waits is to wait on after a comparison */
    bool stay;      /* somebody goes on listening: what a program says at once is left to them */
    uint32_t entry; /* filled in by transfer_look */
} transfer_wish;

/* --method, when it was given, instead of the bench file's. Returns an exit code, after telling. */
int transfer_method(bench *b, const char *name);

/* Can it be sent at all? To be asked before connecting. Returns an exit code, after telling. */
int transfer_look(const bench *b, const payload *l, transfer_wish *w);
/* Sends or compares, and tells how it went. Returns an exit code. */
int transfer_payload(connection *c, payload *l, const transfer_wish *w);

/* As JSON has it: "sums", "reading". */
const char *proof_name(bl_proof by);

/* Fetches a range into a file. Returns an exit code, after telling. */
int transfer_fetch(connection *c, bl_range range, const char *path, bl_filetype type);
/* Understands a range of the bench's machine; in the console digits alone are in its radix. Returns
 * an exit code, after telling. */
int transfer_range(const bench *b, const char *text, bool in_console, bl_range *range);

#endif

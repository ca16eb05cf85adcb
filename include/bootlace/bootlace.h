/* bootlace.h - all of the library's headers, and what holds for each of them unless it says
 * otherwise.
 *
 * Threads: nothing in the library keeps state of its own, so objects that share nothing may be used
 * by as many threads as there are; one object is used by one thread at a time.
 * Interrupts: state machines (exchange.h, transport.h, talk, programmer.h, parallel.h) allocate
 * nothing and take bounded time; they may be used from an interrupt. Whatever takes a bl_memory,
 * and drive_*.h, may not. Ownership: what is passed by pointer stays the caller's and is used
 * during the call only; what an object keeps a pointer to is said at its begin or open, and must
 * outlive it. What is opened is closed with the function of that name; closing NULL does nothing.
 * Errors: bl_status (base.h); after a failure the objects are usable or freed, never half changed.
 * Texts that are returned are terminated where they are char *, and have a length where they are
 * bl_text.
 */
#ifndef BOOTLACE_BOOTLACE_H
#define BOOTLACE_BOOTLACE_H

#include "acked.h"
#include "asm.h"
#include "assert.h"
#include "bare.h"
#include "baredisk.h"
#include "base.h"
#include "cause.h"
#include "chip.h"
#include "classic.h"
#include "crc.h"
#include "debug.h"
#include "demodulate.h"
#include "device.h"
#include "diag.h"
#include "dialogue.h"
#include "disasm.h"
#include "disk.h"
#include "diskboot.h"
#include "drive_frames.h"
#include "drive_parallel.h"
#include "drive_remote.h"
#include "drive_talk.h"
#include "drive_target.h"
#include "drive_transport.h"
#include "exchange.h"
#include "fat.h"
#include "format.h"
#include "formula.h"
#include "frame.h"
#include "image.h"
#include "imagefile.h"
#include "keying.h"
#include "lines.h"
#include "method.h"
#include "modulate.h"
#include "number.h"
#include "pack.h"
#include "packets.h"
#include "panel.h"
#include "parallel.h"
#include "part.h"
#include "port.h"
#include "programmer.h"
#include "quantity.h"
#include "ramtest.h"
#include "sectors.h"
#include "sheet.h"
#include "tap.h"
#include "tapeblock.h"
#include "target.h"
#include "transfer.h"
#include "transport.h"
#include "unseen.h"
#include "vector.h"
#include "wrap.h"
#include "xmodem.h"

#endif

/* bootlace.h - all of the library's headers. */
#ifndef BOOTLACE_BOOTLACE_H
#define BOOTLACE_BOOTLACE_H

#include "acked.h"
#include "asm.h"
#include "bare.h"
#include "base.h"
#include "cause.h"
#include "chip.h"
#include "crc.h"
#include "diag.h"
#include "dialogue.h"
#include "disasm.h"
#include "exchange.h"
#include "format.h"
#include "frame.h"
#include "image.h"
#include "imagefile.h"
#include "lines.h"
#include "number.h"
#include "packets.h"
#include "panel.h"
#include "parallel.h"
#include "part.h"
#include "port.h"
#include "programmer.h"
#include "sheet.h"
#include "transfer.h"
#include "vector.h"
#include "way.h"
#include "xmodem.h"

#endif

; The bell as it is sent to RAM, to try a change without touching the chip.

        .use "out/eyelet.sym" as eyelet

bell_at = area.scratch.first

        .place program
        .entry ring
        .include "ring.asm"

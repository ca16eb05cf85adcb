; The counter as it is sent to RAM, to try a change without touching the chip.

        .use "out/eyelet.sym" as eyelet

        .place program
        .entry count
        .include "count.asm"

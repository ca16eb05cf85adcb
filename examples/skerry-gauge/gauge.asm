; The gauge as it is sent to RAM.

        .use "out/eyelet.sym" as eyelet

        .place program
        .entry tide
        .include "tide.asm"

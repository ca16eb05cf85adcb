; The counter in ROM: it starts at power-on.

        .use "out/eyelet.sym" as eyelet

        .place rom
        .include "count.asm"

        .org eyelet.autostart
        .word count

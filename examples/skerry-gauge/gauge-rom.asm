; The gauge in ROM: it starts at power-on.

        .use "out/eyelet.sym" as eyelet

        .place rom
        .include "tide.asm"

        .org eyelet.autostart
        .word tide

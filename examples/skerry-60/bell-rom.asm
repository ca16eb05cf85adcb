; The bell as it is burned into the ROM: it starts by itself at power-on.

        .use "out/eyelet.sym" as eyelet

bell_at = area.scratch.first

        .place rom
        .include "ring.asm"

        .org eyelet.autostart
        .word ring

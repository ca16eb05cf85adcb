; The message as it is burned into the ROM: it starts by itself at power-on.

        .use "out/eyelet.sym" as eyelet

        .place rom
        .include "blink.asm"

        .org eyelet.autostart
        .word blink

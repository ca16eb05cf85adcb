; The tide staff as it is burned into the ROM: it starts by itself at power-on.

        .use "out/eyelet.sym" as eyelet

        .place rom
        .word staff             ; here Eyelet looks for what to start
        .assert area.rom.first == eyelet.autostart, "the ROM begins with the address to start"
        .include "staff.asm"

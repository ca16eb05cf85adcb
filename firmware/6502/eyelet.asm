; Eyelet for the 6502: that of the 65C02, with other ways where a 6502 has no such instruction.

NMOS = 1
        .include "<65c02/eyelet>"

; How a 6502 times the bits of the line itself: as a 65C02 does.

        .include "<65c02/bits>"

; Driver where there is no serial interface: a bit out and a bit in, at a port or at an address of their own, timed by the
; program. What it needs of the bench file: an area serial_zero, 4 bytes of RAM (on the 6502 family and the 6800 in page
; zero). The code is in <CPU/bits>, which is included once, where there is room for it: serial_code.

        .if defined(board.serial.tx)
SERIAL_OUT = board.serial.tx
OUT_BIT    = board.serial.tx_mask
SERIAL_IN  = board.serial.rx
IN_BIT     = board.serial.rx_mask
AT_PORT    = board.serial.tx_at_port
        .else
SERIAL_OUT = board.serial.data
OUT_BIT    = %00000001
SERIAL_IN  = board.serial.data
IN_BIT     = %10000000
AT_PORT    = board.serial.at_port
        .end

; A bit has so many cycles of the CPU. Between two bytes Eyelet needs its time, and has what is over of the stop bit.
BIT_CYCLES = (board.clock + board.link.baud / 2) / board.link.baud

; Driver of the 8250 kind of serial interface.

FIFO = 0                        ; it has none: the register is read only
        .include "<serial/uart-family>"

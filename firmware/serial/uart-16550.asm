; Driver of the 16550 kind of serial interface.

FIFO = %00000111                ; on, both emptied
        .include "<serial/uart-family>"

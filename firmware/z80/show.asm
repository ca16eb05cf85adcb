; Two macros by which a program shows where it is, through Tongue (docs/tongue.md). They change nothing of the program's.

        .macro show_registers
        call tongue.registers
        .end
        .macro show_range FIRST, LAST
        call tongue.range
        .word FIRST, LAST
        .end

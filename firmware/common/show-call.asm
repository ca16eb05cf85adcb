; Two macros by which a program shows where it is, through Tongue,
; where a routine is called by CALL (docs/tongue.md). They change nothing of the program's.

        .macro show_registers
        call tongue.registers
        .end
        .macro show_range FIRST, LAST
        call tongue.range
        .word FIRST, LAST
        .end

; Two macros by which a program shows where it is, through Tongue,
; where a routine is called by JSR (docs/tongue.md). They change nothing of the program's.

        .macro show_registers
        jsr tongue.registers
        .end
        .macro show_range FIRST, LAST
        jsr tongue.range
        .word FIRST, LAST
        .end

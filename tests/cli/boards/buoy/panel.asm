; How often the button was pressed, on the third line of the display: the button interrupts.
        .use "out/eyelet.sym" as eyelet
        .place program
        .entry start
start:  lda #'0'
        sta count
        sta shown
        ldx #pressed
        stx eyelet.irq_hook
        lda #%00000101          ; CA1 falls, interrupts
        sta board.ports.control_a
        ldb #$38
        bsr command
        ldb #$0C
        bsr command
        ldb #$01
        bsr command
        andcc #$EF              ; interrupts on
show:   ldb #$80 | $14
        bsr command
        ldb count
        bsr letter
wait:   jsr eyelet.poll
        lda count
        cmpa shown
        beq wait
        sta shown
        bra show
pressed:
        lda board.ports.port_a  ; clears it
        inc count
        rti
command:
        tst board.glass.command
        bmi command
        stb board.glass.command
        rts
letter: tst board.glass.command
        bmi letter
        stb board.glass.data
        rts
count:  .reserve 1
shown:  .reserve 1

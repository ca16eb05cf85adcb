; The boot sector of Skerry's disk: which file it starts.

        .include "<z80/boot-fat12>"
name:   .byte "TIDE    RUN"

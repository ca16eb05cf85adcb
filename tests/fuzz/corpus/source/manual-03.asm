        .text "Fog bank ahead", 13, 10 ending 0
        .text "LAMP" counted
        .text "HORN" marked
        .byte "tide ", 1 + 2, $FF
        .word $C000, -2
        .triple $012345

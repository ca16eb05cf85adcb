        .alphabet display, "0123456789", 0, "ABCDEF", 10, " -", $10
        .alphabet display
        .byte "- 42"
        .alphabet ascii

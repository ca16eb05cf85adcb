squares:
        .repeat 16, I
        .byte I * I
        .end
wave:   .repeat 8, I
        .byte 128 + pick(I mod 8, 0, 90, 127, 90, 0, -90, -127, -90)
        .end

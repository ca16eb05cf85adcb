table = $1234
        lda #lo(table + 1)
        ldx #>table
        .word table / 2 + 3 * 4, table >> 4 & %1111, -1
        .byte pick(2, 10, 20, 30), 17 mod 5, 'A' + 1, 37q

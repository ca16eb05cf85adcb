; How an 8085 times the bits of the line itself: as an 8080, with its own times.

IS_8085 = 1
        .include "<8080/bits>"

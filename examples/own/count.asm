; Counts the hours of the watch down at port 2, then shows the last of them at port 3.

        .place rom
start:  LDA #12
_next:  STA hours
        OUT 2
        ADD #-1
        JZ  _done
        JMP _next
_done:  LDA hours
        OUT 3
        HALT

        .place ram
hours:  .reserve 1

; What every Eyelet has alike: the words of docs/link.md, and the serial interface.

VERSION  = 1
EYELET   = 1                    ; who answers, in the hello
PAYLOAD  = 240                  ; the most that a frame carries
FLAG     = $7E
ESCAPE   = $7D
FLIP     = $20
GOOD_FCS = $F0B8

SUMS     = $04                  ; of the kinds that ask for sums, only that for CRC-32 has this bit
ROUND    = 15                   ; what a carry of the double sum's sum adds to it
HEARD    = $06                  ; the PC has the answer to run or resume
POURED   = $09                  ; kind of the second answer to pour, before $80 is added

STOPPED  = $0C                  ; kind of what is told when a program is stopped, before $80 is added
CODE     = 8                    ; bytes of its code that are told, too

GOOD = 0                        ; answer codes
UNKNOWN = 1
MALFORMED = 2
RANGE = 3
DIFFERS = 4

        .include "<serial>"

; FCS-16 of RFC 1662, appendix C, for each byte. FIRST: the byte whose entry is first; 128 where a CPU takes an index to be
; signed.

fcs_low:
        .repeat 256, I
        .byte ((I ^ FIRST ^ (I ^ FIRST) << 4) << 3 ^ (I ^ FIRST ^ (I ^ FIRST) << 4 & $FF) >> 4) & $FF
        .end
fcs_high:
        .repeat 256, I
        .byte (I ^ FIRST ^ (I ^ FIRST) << 4 & $FF) ^ (I ^ FIRST ^ (I ^ FIRST) << 4 & $FF) >> 5
        .end

        .place rom
start:  ldx #moved_end - moved - 1
_copy:  lda kept,x
        sta moved,x
        dex
        bpl _copy
        jmp moved
kept:   .runat $0300
moved:  inc $10
        jmp moved
moved_end:
        .end
        .vector reset, start

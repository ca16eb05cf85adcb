#!/bin/sh
# compare.sh [LINES] - whole process against whole process: bootlace on a generated 65C02 source, the system's assembler
# on an x86 source of as many lines. The best of seven runs of each, taken in turn, so that noise hits both.
set -eu
lines=${1:-300000}
bootlace=${BOOTLACE:-build/bootlace}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
build=$(dirname "$bootlace")
"$build/perf/perf-assemble" "$lines" "$work/ours.asm" >/dev/null
awk -v n="$((lines / 3))" 'BEGIN { for (i = 0; i < n; i++) printf "l%d: mov $%d, %%al\n add $4, %%bl\n jne l%d\n", i, i % 100, i }' >"$work/theirs.s"
best_ours=999999999
best_theirs=999999999
for round in 1 2 3 4 5 6 7; do
    rm -f "$work/ours.hex" "$work/theirs.o" # replacing a file also waits for the disk
    t0=$(date +%s%N)
    "$bootlace" assemble "$work/ours.asm" -c 65c02 -o "$work/ours.hex" -f hex -q
    t1=$(date +%s%N)
    as "$work/theirs.s" -o "$work/theirs.o"
    t2=$(date +%s%N)
    ours=$(((t1 - t0) / 1000))
    theirs=$(((t2 - t1) / 1000))
    [ "$ours" -lt "$best_ours" ] && best_ours=$ours
    [ "$theirs" -lt "$best_theirs" ] && best_theirs=$theirs
done
echo "$lines lines: bootlace $best_ours us, as $best_theirs us, ratio $((best_theirs * 100 / best_ours))/100"

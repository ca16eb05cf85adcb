#!/bin/sh
# An evening with the cassette recorder, on a copy of this folder: sh evening.sh [FOLDER]
set -eu
here=$(cd "$(dirname "$0")" && pwd)
work=${1:-$(mktemp -d)}
cp "$here/bench.yaml" "$here/buoy.asm" "$work"
cd "$work"
say() { echo; echo "== $*"; }
# must_fail COMMAND...: it does, or the evening is over
must_fail() { if "$@"; then echo "that should have been noticed"; exit 1; fi; }
# save_to LAST FILE: program and saver into memory, addresses and number set, saver started, recorded
save_to() {
    printf 'load buoy.asm\nload out/tape-saver.hex\nput save_first $00 $08\nput save_last %s\nput save_number 7\nrun $0600 for 1ms\n' "$1" >save.txt
    bootlace board run --power-cycle --for 200ms >power.txt
    bootlace console -p sim --commands save.txt </dev/null >console.txt
    bootlace board run --for 10s --record "$2" >saved.txt
}

say "Build, burn the monitor"
bootlace build -q
bootlace chip write -p sim -q

say "Saved with a last address that is one too small: told when it is compared"
save_to '$3C $08' short.wav
must_fail bootlace tape read short.wav --against out/buoy.hex

say "Once more, right"
save_to '$3D $08' buoy.wav
bootlace tape read buoy.wav --against out/buoy.hex

say "Played on from its end, not rewound: nothing is loaded"
bootlace board run --power-cycle --for 200ms >power.txt
bootlace send out/tape-loader.hex -p sim --run -q
bootlace board run --for 3s --play buoy.wav --from 8 | tail -1

say "Started too late: what is missing has numbers"
bootlace tape write out/eyelet.hex --name monitor -o long.wav --leader 2 -q
{ head -c 44 long.wav; tail -c 1300000 long.wav; } >late.wav
must_fail bootlace tape list late.wav

say "A second take, stopped too early; both together are whole"
head -c 1300000 long.wav >early.wav
must_fail bootlace tape list early.wav
bootlace tape read late.wav early.wav --against out/eyelet.hex

say "Loaded after the power was off, and it runs"
bootlace tape write buoy.asm -o start.wav -q
bootlace board run --power-cycle --for 200ms >power.txt
bootlace send out/tape-loader.hex -p sim --run -q
bootlace board run --for 8s --play start.wav | sed -n '2,6p'

say "First and last byte"
printf 'halt\nsee $0800\nsee $083D\n' >look.txt
bootlace console -p sim --commands look.txt </dev/null

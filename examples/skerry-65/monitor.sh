#!/bin/sh
# An evening with the monitor, on a copy: send, check, break at a source line, step, change a byte, run, save the patched range,
# compare it with the original, and put the change back into the source.
set -eu
from=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp "$from"/*.asm "$from"/bench.yaml "$from"/monitor.txt "$work"
cd "$work"
bootlace build -q
bootlace chip write -q -p sim
bootlace send lamp.asm -p sim
bootlace check lamp.asm -p sim
bootlace console -p sim --commands monitor.txt | tee said.txt

bootlace assemble -q lamp.asm -b bench.yaml -o original.bin
! bootlace image compare original.bin patched.bin --at 0x0300

# "$032C character+1, light.asm:40: 04 -> 02" says which line, and what becomes what.
line=$(sed -n 's/.*light\.asm:\([0-9]*\): 04 -> 02$/\1/p' said.txt)
sed -i "${line}s/4/2/" light.asm
bootlace assemble -q lamp.asm -b bench.yaml -o new.bin
bootlace image compare new.bin patched.bin --at 0x0300

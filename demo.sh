#!/bin/sh
# The whole path on the simulated bench: source, chip, running board, changed program in RAM, memory proved.
set -eu
cd "$(dirname "$0")"
. cmake/packages.sh
if ! [ -x build/bootlace ] || [ -n "$(find src host cli ports sheets firmware include cmake CMakeLists.txt -newer build/bootlace -type f | head -1)" ]; then
    install_packages $BUILD_PACKAGES
    cmake --preset release >/dev/null
    cmake --build --preset release >build/demo-build.log 2>&1 || { cat build/demo-build.log; exit 1; }
fi
PATH="$PWD/build:$PATH"
export PATH

work=$(mktemp -d)
XDG_DATA_HOME="$work/data" # the logbook of this run
export XDG_DATA_HOME
trap 'rm -rf "$work"' EXIT
examples="$PWD/examples"
cp examples/skerry-65/*.asm examples/skerry-65/bench.yaml "$work"
for board in skerry-80 skerry-85 skerry-68 skerry-60; do
    mkdir "$work/$board"
    cp examples/$board/*.asm examples/$board/bench.yaml "$work/$board"
done
for board in skerry-disk skerry-card skerry-gauge skerry-50; do
    cp -r examples/$board "$work/$board"
done
cd "$work"

step() {
    echo
    echo "== $1"
}

# show COMMAND...: prints the command, runs it, ends the demonstration when it fails
show() {
    echo "\$ $*"
    "$@" || { echo "demonstration failed: $*"; exit 1; }
}

# prove COMMAND...: the same, and what it says it has verified goes into the summary
prove() {
    echo "\$ $*"
    "$@" >"$work/said" || { cat "$work/said"; echo "demonstration failed: $*"; exit 1; }
    cat "$work/said"
    grep -E "^verified: |: same: " "$work/said" >"$work/line" || { echo "demonstration failed: nothing was verified: $*"; exit 1; }
    { echo "  $*"; sed 's/^/      /' "$work/line"; } >>"$work/summary"
}

# notice WHAT COMMAND...: a fault that must be found: exit status 1, and WHAT said about it
notice() {
    what=$1
    shift
    echo "\$ $*"
    code=0
    "$@" >"$work/said" 2>&1 || code=$?
    cat "$work/said"
    if [ "$code" -ne 1 ] || ! grep -q -- "$what" "$work/said"; then
        echo "demonstration failed: this should have been found: $what"
        exit 1
    fi
    { echo "  $*"; echo "      found: $(grep -- "$what" "$work/said" | head -1 | sed 's/^ *//')"; } >>"$work/summary"
}

step "Build: the monitor and Skerry's harbour light for the chip, the light again for RAM"
show bootlace build
show bootlace chip plan

step "Burn the chip, and see the burn verified"
show bootlace chip blank -p sim
prove bootlace chip write U5 -p sim
prove bootlace chip write U5 -p sim

step "Power up and watch the lamps: two short flashes every six seconds"
show bootlace board run --for 7s

step "Change the light's character, send it to RAM, prove it, run it; the chip stays as it is"
sed -i 's/ON,  4$/ON,  8/' light.asm
prove bootlace send lamp.asm -p sim --run
show bootlace board run --for 7s
prove bootlace check lamp.asm -p sim

step "In the monitor: break at a source line, look back, try a byte, put it into the source"
show "$examples/skerry-65/monitor.sh"

step "An evening with the cassette recorder: wrong end address, forgotten rewind, started too late, two takes, loaded"
show "$examples/skerry-tape/evening.sh"

step "Faults are found and named, never taken for success"
notice "expected D0  found 00" bootlace check lamp.asm -p sim --fault poke=0x0313:0
notice "expected A2  found A0" bootlace chip write U5 -p sim --state worn --fault stuck=0x4000:1:0
prove bootlace chip write U5 -p sim --state noisy --fault flip=1/2000

step "The chip in the board was not touched: out of its socket, into the programmer"
prove bootlace chip verify U5 -p sim --image out/chips.hex

step "Another board, another CPU: Skerry's fog horn on a Z80, from source to proven memory"
cd "$work/skerry-80"
show bootlace build
prove bootlace chip write U3 -p sim
show bootlace board run -p sim --for 9s
sed -i 's/SOUND, 20/SOUND, 10/' signal.asm
prove bootlace send horn.asm -p sim --run
show bootlace disassemble out/horn.hex -c z80

step "From disk: a boot sector of ours on FAT12, a bare card on another CPU, a change in one word"
cd "$work/skerry-disk"
show bootlace build
show bootlace chip write U3 -p sim -q
show bootlace board run --disk out/skerry.img --for 1s
show bootlace disk list out/skerry.img --all
sed -i 's/by the hour/by the day!/' tide.asm
notice "differs: TIDE.RUN" bootlace disk check state/disk.img --against bench.yaml
echo boot >boot.txt
prove bootlace console -p sim --commands boot.txt
prove bootlace disk check state/disk.img --against bench.yaml
notice "the drive is not ready" bootlace disk put out/skerry.img keeper.txt --in-place --fault disk-cut=2
notice "repair mends it" bootlace disk check out/skerry.img
prove bootlace disk check out/skerry.img --repair
cd "$work/skerry-card"
show bootlace build -q
show bootlace chip write U5 -p sim -q
show bootlace board run --disk out/skerry.img --for 3s
show bootlace disk plan out/skerry.img

step "And two more: the tide staff on an 8085, the keeper's lantern on a 6809"
cd "$work/skerry-85"
show bootlace build -q
prove bootlace chip write U7 -p sim
show bootlace board run -p sim --for 3s
prove bootlace send tide.asm -p sim --run
cd "$work/skerry-68"
show bootlace build -q
prove bootlace chip write U2 -p sim
show bootlace board run -p sim --for 3s
prove bootlace send message.asm -p sim --run
cd "$work"

step "One memory over six chips: EEPROMs, EPROMs, even and odd bytes, nibbles, a mirror"
mkdir "$work/skerry-store"
cp "$examples"/skerry-store/*.asm "$examples"/skerry-store/bench.yaml "$work/skerry-store"
cd "$work/skerry-store"
show bootlace chip plan -o plan.png
show bootlace chip label -o labels.pdf
for chip in U11 U12 U13 U14 U15 U16; do
    prove bootlace chip write $chip -p sim
done
show bootlace board run -p sim --for 10ms
sed -i 's/boat/ship/' store.asm
show bootlace chip read U11 -p sim --identify
show bootlace chip history U11
cd "$work"

step "The current fails in the middle of a burn; the next one makes it good"
sed -i 's/ON,  8$/ON,  6/' light.asm
notice "stopped answering" bootlace chip write U5 -p sim --fault cut=230000
prove bootlace chip write U5 -p sim

step "Toggled in at the front panel"
show bootlace chip write U5 -q -p sim --state hand
prove bootlace panel lamp.asm --enter --run --state hand

step "A machine without a ROM: Aglet toggled in, Eyelet sent to it, then the light"
cp -r "$examples/skerry-bare" "$work/bare"
cd "$work/bare"
show bootlace build -q
prove bootlace panel out/aglet.hex --enter --run
prove bootlace send out/eyelet.hex --method acked -p sim --run
prove bootlace send lamp.asm -p sim --run
show bootlace board run --for 2s

step "Monitors that are not ours: single letters, octal words, a menu, XMODEM into a ROM, a radio"
for neighbour in thrift cleat purser bollard petrel; do
    cp -r "$examples/$neighbour" "$work/$neighbour"
    cd "$work/$neighbour"
    [ $neighbour != bollard ] || show bootlace chip write -q -p sim
    prove bootlace send -p sim
    [ $neighbour = petrel ] || prove bootlace check -p sim
done
cd "$work/thrift"
printf 'P0300EEE' | show bootlace console -p sim
cd "$work"

step "A project of one's own, for each board that comes along and for a CPU of one's own"
mkdir "$work/new"
cd "$work/new"
show bootlace new harbour -c z80
cd harbour
show bootlace build -q
prove bootlace chip write U3 -p sim
prove bootlace send horn.asm -p sim --run
cd ..
show bootlace new pebble -c own
cd pebble
show bootlace build -q
prove bootlace chip write U1 -p sim
cd "$work"

step "A board with a display and buttons: a 16550 at the line, a 6522 for the rest; pressed, drawn, and with a wire off"
cd "$work/skerry-gauge"
show bootlace build -q
prove bootlace chip write -q -p sim
show bootlace board run --for 1.5s --tap '0.8s up' --tap '1.1s up'
prove bootlace send gauge.asm -p sim --run
show bootlace board run --for 1s --tap '0.5s up'
show bootlace board front -o front.png
show bootlace board off
show bootlace board run --for 1s --tap '0.7s up' --fault swapped=glass.d4:d5

step "A 6502 with a 6532, a digit and a button"
cd "$work/skerry-50"
show bootlace build -q
prove bootlace chip write -q -p sim
prove bootlace send boats.asm -p sim --run
show bootlace board run --for 1s --tap '0.3s go' --tap '0.6s go'
cd "$work"

step "An eZ80: a loader in ROM that asks for a header, programs beyond 64 KiB"
cp -r "$examples/skerry-24" "$work/skerry-24"
cd "$work/skerry-24"
show bootlace build -q
prove bootlace chip write -q -p sim
show bootlace board run --for 0.3s
prove bootlace send squares.asm -p sim --run
show bootlace board run --for 1s --tap '0.3s go' --tap '0.6s go'
prove bootlace send presses.asm -p sim --run
show bootlace board run --for 1s --tap '0.3s go' --tap '0.6s go'
cd "$work"

step "What changed between two builds; what passes on the line"
bootlace build -q
cp out/lamp.hex before.hex
sed -i 's/ON,  6$/ON,  7/' light.asm
show bootlace build -q
notice "differs 06 | 07" bootlace image compare before.hex out/lamp.hex
prove bootlace send lamp.asm -p sim --trace line.txt
head -8 line.txt

step "The same bench on pseudo-terminals, through the real serial port code"
bootlace board serve --state state >serve.log 2>&1 &
server=$!
for i in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20; do
    [ -e state/serial ] && break
    sleep 0.1
done
cat serve.log
show bootlace ports state/serial state/programmer
prove bootlace send lamp.asm -p state/serial --run
prove bootlace check lamp.asm -p state/serial
kill "$server"
wait "$server" || true

echo
echo "== Verified in this run"
cat "$work/summary"

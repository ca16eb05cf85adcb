#!/bin/sh
# Installs what is missing, builds, runs every test; ends with "N passed, N failed".
#   ./test.sh          everything
#   ./test.sh quick    only the release build's tests
set -eu
cd "$(dirname "$0")"
. cmake/packages.sh
install_packages $BUILD_PACKAGES $TEST_PACKAGES

passed=0
failed=0
log=$(mktemp -d)
trap 'rm -rf "$log"' EXIT

# count NAME COMMAND...: one check that passes or fails as a whole
count() {
    name=$1
    started=$(date +%s)
    shift
    if "$@" >"$log/out" 2>&1; then
        passed=$((passed + 1))
        echo "ok      $name, $(($(date +%s) - started)) s"
    else
        failed=$((failed + 1))
        echo "FAILED  $name"
        tail -50 "$log/out"
    fi
}

# suites FOLDER LABEL: every suite of a build through CTest, its cases counted. A suite that ends
# without its closing line has crashed, and counts as one failure.
suites() {
    (cd "$1" && ctest -j 2 -V >"$log/ctest" 2>&1) || true
    sed -n 's/^[0-9]*: \([0-9]*\) passed, \([0-9]*\) failed$/\1 \2/p' "$log/ctest" >"$log/counts"
    suites=$(grep -c '^ *Start ' "$log/ctest") || true
    while read -r good bad; do
        passed=$((passed + good))
        failed=$((failed + bad))
        suites=$((suites - 1))
    done <"$log/counts"
    failed=$((failed + suites))
    grep -E '^ *[0-9]+/[0-9]+ Test' "$log/ctest" | sed "s/^ */$2  /"
    if grep -q 'Failed\|\*\*\*' "$log/ctest"; then cat "$log/ctest"; fi
}

# The core must compile without a warning where int has 16 bits, and freestanding for a small 32-bit part.
compiles_for() {
    for file in src/*/*.c; do
        clang --target="$1" -std=c11 -ffreestanding -fsyntax-only -Wall -Wextra -Wpedantic -Wshadow \
            -Wconversion -Werror -Iinclude -Isrc "$file" || return 1
    done
}

# build PRESET [OPTION]...: builds without a warning; what it says is in $log/build.
build() {
    cmake --build --preset "$@" >"$log/build" 2>&1 || { cat "$log/build"; return 1; }
    ! grep "warning:" "$log/build"
}

no_warnings() {
    cmake --preset "$1" && build "$1" --clean-first
}

# Core, drive, ports and their tests, where no library is found.
no_libraries() {
    PKG_CONFIG_LIBDIR=/nowhere cmake --preset clang -DBOOTLACE_COMMAND=OFF && build clang --clean-first
}

# What needs libraries, on top of that.
the_rest() {
    cmake --preset clang -DBOOTLACE_COMMAND=ON && build clang
}

# Programs of somebody else's, built against what is installed: every C example, through pkg-config and
# through CMake; and the command, alone in its tree.
installs() {
    rm -rf "$log/prefix" "$log/own"
    cmake --install build --prefix "$log/prefix" || return 1
    PKG_CONFIG_PATH=$(dirname "$(find "$log/prefix" -name bootlace.pc)")
    LDFLAGS=-fno-lto # linking across files is not what is tested
    export PKG_CONFIG_PATH LDFLAGS
    mkdir "$log/own"
    cp examples/c/*.c "$log/own"
    printf '%s\n' 'cmake_minimum_required(VERSION 3.25)' 'project(own LANGUAGES C)' \
        'find_package(bootlace REQUIRED)' >"$log/own/CMakeLists.txt"
    for file in examples/c/*.c; do
        example=$(basename "$file" .c)
        cc $LDFLAGS "$file" -o "$log/own/$example" $(pkg-config --cflags --libs bootlace-ports) || return 1
        "$log/own/$example" >"$log/own/$example.out" || return 1
        printf 'add_executable(%s %s.c)\ntarget_link_libraries(%s bootlace::core bootlace::bootlace_sim bootlace::bootlace_drive bootlace::bootlace_pins)\n' \
            "$example" "$example" "$example" >>"$log/own/CMakeLists.txt"
    done
    grep -q "A9 2A" "$log/own/assemble.out" && grep -q "all right" "$log/own/own_programmer.out" || return 1
    cmake -S "$log/own" -B "$log/own/build" -DCMAKE_PREFIX_PATH="$log/prefix" &&
        cmake --build "$log/own/build" && "$log/own/build/own_programmer" | grep -q "all right" || return 1
    find "$log/prefix" -name LICENSE | grep -q . && find "$log/prefix" -name eyelet.md | grep -q . || return 1
    (cd "$log" && "$log/prefix/bin/bootlace" new harbour && cd harbour && "$log/prefix/bin/bootlace" build)
}

# Every folder lists its files, and host/bench knows no simulator.
rooms() {
    for file in $(git ls-files 'src/*.[ch]' 'ports/*.[ch]' 'host/*.[ch]' 'cli/*.[ch]'); do
        stem=$(basename "$file")
        grep -q "^${stem%.*}\." "$(dirname "$file")/FILES" || { echo "$file is in no FILES"; return 1; }
    done
    ! grep -rn '"sim/' host/bench
}

layout() {
    clang-format --dry-run --Werror $(git ls-files '*.c' '*.h')
}

count "builds with gcc without a warning" no_warnings release
suites build release
count "installs, and pkg-config finds it" installs
if [ "${1:-}" != quick ]; then
    count "builds with clang without a warning, and without a library" no_libraries
    suites build-clang clang
    count "builds the rest with clang without a warning" the_rest
    count "builds with sanitizers" no_warnings sanitize
    suites build-sanitize sanitized
    count "core compiles where int has 16 bits" compiles_for msp430
    count "core compiles freestanding for 32 bits" compiles_for armv6m-none-eabi
    count "builds with the fuzzer" no_warnings fuzz
    count "chance against every reader, some seconds each" env FUZZ_BUILT=1 ./fuzz.sh 2
    count "clang-format has nothing to say" layout
    count "folders list their files" rooms
    count "demonstration" ./demo.sh
fi
echo "$passed passed, $failed failed"
[ "$failed" -eq 0 ]

#!/bin/sh
# Chance against every reader of bytes from outside, with clang's sanitizers.
#   ./fuzz.sh SECONDS [TARGET]...    so long each; without targets all of them, two at a time
# A finding is kept as finding-TARGET-*; make it smaller, and keep it in tests/fuzz/corpus/TARGET.
set -eu
cd "$(dirname "$0")"
seconds=${1:-60}
[ $# -gt 0 ] && shift
if [ ! -x build-fuzz/tests/fuzz/fuzz-source ] || [ -z "${FUZZ_BUILT:-}" ]; then
    . cmake/packages.sh
    install_packages $BUILD_PACKAGES $TEST_PACKAGES
    cmake --preset fuzz >/dev/null
    cmake --build --preset fuzz >/dev/null
fi
[ $# -gt 0 ] || set -- $(ls build-fuzz/tests/fuzz | sed -n 's/^fuzz-//p')
log=$(mktemp -d)
trap 'rm -rf "$log"' EXIT

one() {
    mkdir -p "$log/$1" "tests/fuzz/corpus/$1"
    if "build-fuzz/tests/fuzz/fuzz-$1" -max_total_time="$seconds" -rss_limit_mb=512 -timeout=10 \
        -max_len=4096 -close_fd_mask=1 -artifact_prefix="$PWD/finding-$1-" "$log/$1" "$PWD/tests/fuzz/corpus/$1" \
        >"$log/$1.out" 2>&1; then
        echo "nothing  $1: $(sed -n 's/^Done \([0-9]*\) runs.*/\1 runs/p' "$log/$1.out")"
    else
        grep -v '^#[0-9]*\s*\(NEW\|REDUCE\|pulse\|RELOAD\)' "$log/$1.out" | tail -40
        echo "FINDING  $1"
        : >"$log/found"
    fi
}

while [ $# -gt 0 ]; do
    one "$1" &
    first=$!
    shift
    if [ $# -gt 0 ]; then
        one "$1" &
        wait $! || true
        shift
    fi
    wait $first || true
done
[ ! -e "$log/found" ]
